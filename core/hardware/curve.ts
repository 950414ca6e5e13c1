import type { PortWiring } from '../robot'
import { readQuantity, type Kind } from '../units'

type Point = NonNullable<PortWiring['curve']>[number]

/** A curve's points with one more, volts rising; one at the same voltage gives way. */
export const withPoint = (points: readonly Point[], point: Point): readonly Point[] => [...points.filter(p => p.volts !== point.volts), point].sort((a, b) => a.volts - b.volts)

/** What a voltage means by the wiring's curve: volts and what they read, SI, volts rising; null where none is given, or none of that kind. */
export function curveOf({ curve }: PortWiring, kind: Kind | null): readonly (readonly [volts: number, reads: number])[] | null {
  if (curve === undefined || kind === null) return null
  const points = curve.flatMap((point): (readonly [number, number])[] => { const read = readQuantity(point.reads, kind); return read.ok ? [[point.volts, read.value]] : [] })
  return points.length === curve.length ? points : null
}
