export { carryOver, type Carried, type CarryOver } from './carry'
export { Vm, PHASE, type LaneView, type VmEvent, type VmInput, type VmSnapshot } from './vm'
export { ValueLoader } from './values'
export type { Machine } from './machine'
