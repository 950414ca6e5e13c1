import type { ReadingSpec } from '~~/core/devices'
import type { Tape } from '~~/core/tape'
import { readingUnit } from '~/shown/readings'

/** A place to draw a line of readings: canvas pixels, ticks across and values upwards. */
export interface TraceBox {
  readonly x: number
  readonly y: number
  readonly width: number
  readonly height: number
  readonly from: number
  readonly to: number
  readonly low: number
  readonly high: number
}

/** The smallest and largest of a column over some ticks, missing echoes left out; null when there is none. */
export function extent(tape: Tape, column: number, from: number, to: number): readonly [number, number] | null {
  let low = Infinity
  let high = -Infinity
  const stride = Math.max(1, Math.floor((to - from) / 2000))
  for (let t = Math.max(tape.first, from); t < Math.min(to, tape.rows); t += stride) {
    const v = tape.value(t, column)
    if (!Number.isFinite(v)) continue
    if (v < low) low = v
    if (v > high) high = v
  }
  return low <= high ? [low, high] : null
}

/** Draws a column as a line; no echo stands at the top edge. */
export function drawTrace(ctx: CanvasRenderingContext2D, tape: Tape, column: number, box: TraceBox): void {
  const span = box.high - box.low || 1
  const first = Math.max(tape.first, Math.floor(box.from))
  const last = Math.min(tape.rows - 1, Math.ceil(box.to))
  const perTick = box.width / Math.max(1, box.to - box.from)
  const stride = Math.max(1, Math.floor(0.5 / perTick))
  ctx.beginPath()
  let begun = false
  for (let t = first; t <= last; t += stride) {
    const v = tape.value(t, column)
    const part = v === Infinity ? 1 : (v - box.low) / span
    const x = box.x + (t - box.from) * perTick
    const y = box.y + box.height * (1 - Math.min(1, Math.max(0, part)))
    if (begun) ctx.lineTo(x, y)
    else ctx.moveTo(x, y)
    begun = true
  }
  ctx.stroke()
}

/** Seconds that a small trace goes back. */
const SPAN = 10

/**
 * Where the last seconds up to a tick are drawn on a canvas of this size, in page pixels: over what the column was then, and over
 * `also`, with some room above and below. `least`: how far apart low and high are at least, so that the noise of something at rest
 * does not fill the box.
 */
export function lastSeconds(tape: Tape, column: number, tick: number, dt: number, size: { readonly width: number, readonly height: number }, also: readonly number[] = [], least = 1): TraceBox {
  const ticks = Math.round(SPAN / dt)
  const to = Math.max(tick, ticks)
  const seen = [...extent(tape, column, to - ticks, to + 1) ?? [0, 1], ...also]
  const [low, high] = [Math.min(...seen), Math.max(...seen)]
  const [middle, span] = [(low + high) / 2, Math.max(high - low, least) * 1.24]
  return { x: 0, y: 2, width: size.width, height: size.height - 4, from: to - ticks, to, low: middle - span / 2, high: middle + span / 2 }
}

/** The least that a small trace's box is high, SI: five of the unit in which the value is shown, one where it has none. */
export function leastOf(type: ReadingSpec['type']): number {
  const unit = readingUnit({ type })
  return unit === undefined ? 1 : 5 * unit.scale
}

/**
 * Tells whether what a drawing is made of is other than at the last time it was asked. What looks the same is not drawn again: every nudge opens the run anew, and a
 * dozen drawings of a robot that stands as it stood would come with it.
 */
export function changes(): (...made: readonly unknown[]) => boolean {
  let before: readonly unknown[] = []
  return (...made) => {
    if (made.length === before.length && made.every((x, i) => Object.is(x, before[i]))) return false
    before = made
    return true
  }
}

/** What a drawing of a tape is made of by that: of two that are at their start it does not matter which. */
export const drawnOf = (tape: Tape): Tape | null => tape.rows <= 1 ? null : tape

/** Fits a canvas to its place on the page, sharp on every screen; its context in page pixels. */
export function fitCanvas(canvas: HTMLCanvasElement): CanvasRenderingContext2D | null {
  const ratio = globalThis.devicePixelRatio || 1
  const { clientWidth: width, clientHeight: height } = canvas
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio)
    canvas.height = Math.round(height * ratio)
  }
  const ctx = canvas.getContext('2d', { willReadFrequently: true })
  ctx?.setTransform(ratio, 0, 0, ratio, 0, 0)
  ctx?.clearRect(0, 0, width, height)
  return ctx
}
