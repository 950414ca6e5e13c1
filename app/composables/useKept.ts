import { ref, watch, type Ref } from 'vue'

const kept = new Map<string, Ref<unknown>>()

/** A small setting that this browser remembers. Where storing fails it lasts as long as the page. */
export function useKept<T>(name: string, initial: T): Ref<T> {
  const known = kept.get(name)
  if (known !== undefined) return known as Ref<T>
  const key = `mindpath.${name}`
  const value = ref(read(key, initial)) as Ref<T>
  kept.set(name, value as Ref<unknown>)
  watch(value, (now) => {
    try {
      localStorage.setItem(key, JSON.stringify(now))
    } catch { /* Private windows may refuse: the setting then lasts as long as the page. */ }
  }, { deep: true })
  return value
}

function read<T>(key: string, initial: T): T {
  try {
    const text = localStorage.getItem(key)
    return text === null ? initial : JSON.parse(text) as T
  } catch {
    return initial
  }
}
