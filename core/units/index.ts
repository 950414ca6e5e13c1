export { KINDS, kindName, kindOf, sameKind, timesKind, overKind, PLAIN } from './kinds'
export type { Kind, KindName } from './kinds'
export { UNITS, findUnit, formatQuantity, unitsOfKind, readQuantity } from './units'
export type { Unit, QuantityReading } from './units'
