import { onBeforeUnmount, onMounted, watch } from 'vue'
import { lengthUnit } from '~/shown/lengths'
import { useBenchStore } from '~/features/bench/bench'

/**
 * Calls `show` when the instant on the bench changes, or the unit in which lengths are seen, on an animation frame and at most
 * `rate` times a second; the last change is never missed.
 */
export function useLive(rate: number, show: () => void): { readonly now: () => void } {
  const bench = useBenchStore()
  let frame = 0
  let last = 0
  let stop: (() => void) | null = null
  function attempt(time: number): void {
    frame = 0
    if (time - last < 1000 / rate - 4) { frame = requestAnimationFrame(attempt); return }
    last = time
    show()
  }
  const now = (): void => { if (frame === 0) frame = requestAnimationFrame(attempt) }
  onMounted(() => {
    stop = watch(() => [bench.rows, bench.cursor, bench.tape, bench.opened, bench.dials, lengthUnit.value], now, { flush: 'sync', immediate: true })
  })
  onBeforeUnmount(() => {
    stop?.()
    if (frame !== 0) cancelAnimationFrame(frame)
  })
  return { now }
}
