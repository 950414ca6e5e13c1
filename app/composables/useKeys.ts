import { useEventListener } from '@vueuse/core'
import { onBeforeUnmount, ref, shallowReactive } from 'vue'
import { isSingle, keyOf, takesKey } from './keys'
import { useKept } from './useKept'

/** What a key does. */
export interface KeyAct { readonly says: string, readonly act: () => void }
export type Keys = Readonly<Record<string, KeyAct>>

/** Keys that are listed, by what they do. */
export interface KeyGroup { readonly title: string, readonly says: Readonly<Record<string, string>> }
const groups = shallowReactive(new Map<symbol, KeyGroup>())
/** All keys of what is on the page, for the sheet that lists them. */
export const keyGroups: ReadonlyMap<symbol, KeyGroup> = groups
/** Whether the sheet of all keys is open. */
export const keySheet = ref(false)
/** Whether keys without Ctrl act: somebody who dictates, or leans on keys, switches them off. */
export const useSingleKeys = () => useKept('keys.single', true)

/** Lists keys that a part of the page listens to itself. */
export function listKeys(title: string, says: Readonly<Record<string, string>>): void {
  const id = Symbol(title)
  groups.set(id, { title, says })
  onBeforeUnmount(() => groups.delete(id))
}

/** Keys of a view or a part of one, by name; they rest while one types or what has the focus uses them. */
export function useKeys(title: string, keys: Keys): void {
  const single = useSingleKeys()
  listKeys(title, Object.fromEntries(Object.entries(keys).map(([key, { says }]) => [key, says])))
  useEventListener(globalThis, 'keydown', (event: KeyboardEvent) => {
    const name = keyOf(event)
    const key = Object.hasOwn(keys, name) ? keys[name] : undefined
    if (key === undefined || (isSingle(name) && !single.value && name !== '?') || takesKey(event.target instanceof Element ? event.target : null, name)) return
    event.preventDefault()
    event.stopPropagation()
    key.act()
  }, { capture: true })
}
