import type { DialView } from '~/run/protocol'

/** Steps of a slider from end to end. */
export const DIAL_STEPS = 200
/** No dial is finer than this many decimals. */
const FINEST = 9

/** Decimals in which neighbouring steps of a dial differ. */
function decimalsOf(dial: Pick<DialView, 'from' | 'to' | 'scale'>): number {
  const step = Math.abs(dial.to - dial.from) / dial.scale / DIAL_STEPS
  return step > 0 ? Math.min(FINEST, Math.max(0, Math.ceil(-Math.log10(step) - 1e-9))) : 1
}

/** The value of a dial at a step of its slider, SI, as it will be written: never beyond its ends. */
export function dialAt(dial: Pick<DialView, 'from' | 'to' | 'scale'>, step: number): number {
  if (step <= 0) return dial.from
  if (step >= DIAL_STEPS) return dial.to
  const raw = (dial.from + step / DIAL_STEPS * (dial.to - dial.from)) / dial.scale
  const value = Number(raw.toFixed(decimalsOf(dial))) * dial.scale
  return Math.min(dial.to, Math.max(dial.from, value))
}

/** A dial's value as it is written in the program: in its unit, to the fineness of its slider; its ends exactly. */
export function dialText(dial: Pick<DialView, 'from' | 'to' | 'scale' | 'unit'>, value: number): string {
  const scaled = value / dial.scale
  const end = value === dial.from || value === dial.to
  const figure = Number(end ? scaled.toPrecision(12) : scaled.toFixed(decimalsOf(dial)))
  return `${figure}${dial.unit === null ? '' : ` ${dial.unit}`}`
}
