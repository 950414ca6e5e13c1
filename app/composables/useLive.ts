import { effectScope, onBeforeUnmount, onMounted, watch, type EffectScope } from 'vue'
import { lengthUnit } from '~/shown/lengths'
import { useBenchStore } from '~/features/bench/bench'

/** What shows the instant looked at. */
interface Live {
  readonly show: () => void
  /** How long it rests after it was shown, milliseconds. */
  readonly rest: number
  due: boolean
  last: number
}

/** All that are on the page. They are shown in one go: Vue follows, and the page is laid out, once for all of them and not once for each. */
const lives = new Set<Live>()
let frame = 0
let watching: EffectScope | null = null

function ask(): void { if (frame === 0) frame = requestAnimationFrame(beat) }

function beat(time: number): void {
  frame = 0
  let resting = false
  for (const live of lives) {
    if (!live.due) continue
    if (time - live.last < live.rest) { resting = true; continue }
    live.due = false
    live.last = time
    try { live.show() } catch (error) { reportError(error) }
  }
  if (resting) ask()
}

function begin(live: Live): void {
  lives.add(live)
  if (watching !== null) return
  const bench = useBenchStore()
  watching = effectScope(true)
  watching.run(() => {
    watch(() => [bench.rows, bench.cursor, bench.tape, bench.opened, bench.dials, lengthUnit.value], () => {
      for (const one of lives) one.due = true
      ask()
    }, { flush: 'sync' })
  })
}

function end(live: Live): void {
  lives.delete(live)
  if (lives.size > 0) return
  watching?.stop()
  watching = null
  cancelAnimationFrame(frame)
  frame = 0
}

/**
 * Calls `show` when the instant on the bench changes, or the unit in which lengths are seen, on an animation frame and at most
 * `rate` times a second; the last change is never missed.
 */
export function useLive(rate: number, show: () => void): { readonly now: () => void } {
  const live: Live = { show, rest: 1000 / rate - 4, due: false, last: 0 }
  const now = (): void => { live.due = true; ask() }
  onMounted(() => { begin(live); now() })
  onBeforeUnmount(() => { end(live) })
  return { now }
}
