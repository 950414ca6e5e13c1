import { watchDebounced } from '@vueuse/core'
import { onScopeDispose, ref, shallowRef } from 'vue'
import type { Difference, Need } from '~~/core/export'
import type { Wiring } from '~~/core/robot'

export interface ToExport { readonly ask: number, readonly text: string, readonly robot: unknown, readonly board: string, readonly wiring: Wiring }
/** `says`: why there is nothing to carry; null where there is. */
export interface FromExport { readonly ask: number, readonly says: string | null, readonly zip: Uint8Array<ArrayBuffer> | null, readonly differs: readonly Difference[], readonly needs: readonly Need[] }

/** Source for a board, made anew whenever what it is made of has changed; `of` is null where the board is not one that takes it. */
export function useExport(of: () => Omit<ToExport, 'ask'> | null) {
  const made = shallowRef<FromExport | null>(null)
  const trouble = ref<string | null>(null)
  let worker: Worker | null = null
  let ask = 0

  function begin(): Worker {
    const begun = new Worker(new URL('./export.worker.ts', import.meta.url), { type: 'module' })
    begun.onmessage = ({ data }: MessageEvent<FromExport>) => { if (data.ask === ask) { made.value = data; trouble.value = null } }
    begun.onerror = (event) => { worker = null; made.value = null; trouble.value = event.message || 'it could not be loaded' }
    return begun
  }
  watchDebounced(of, (wanted) => {
    ask++
    if (wanted === null) { made.value = null; return }
    worker ??= begin()
    // Plain data goes over: nothing that the page watches.
    worker.postMessage(JSON.parse(JSON.stringify({ ask, ...wanted })))
  }, { debounce: 150, immediate: true })
  onScopeDispose(() => worker?.terminate())
  return { made, trouble }
}
