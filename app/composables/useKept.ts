import { useLocalStorage } from '@vueuse/core'
import { effectScope, type Ref } from 'vue'

const kept = new Map<string, Ref<unknown>>()
const json = { read: (text: string): unknown => JSON.parse(text), write: (value: unknown): string => JSON.stringify(value) }

/** A small setting that this browser remembers, the same in all its tabs. Where storing fails it lasts as long as the page. */
export function useKept<T>(name: string, initial: T): Ref<T> {
  let value = kept.get(name)
  if (value === undefined) {
    // Private windows may refuse, and what others wrote may be no JSON: then it is as if nothing were there.
    value = effectScope(true).run(() => useLocalStorage<unknown>(`mindpath.${name}`, initial, { serializer: json, writeDefaults: false, onError: () => {} }))!
    kept.set(name, value)
  }
  return value as Ref<T>
}
