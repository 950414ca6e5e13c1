import { onBeforeUnmount, onMounted } from 'vue'

/**
 * Keys of a view. A name is a key with its modifiers, as in "ctrl+enter" or "space"; keys
 * without ctrl or a function key rest while one types or a control has the focus that uses them.
 */
export function useKeys(keys: Readonly<Record<string, () => void>>): void {
  function onKey(event: KeyboardEvent): void {
    const name = nameOf(event)
    const act = Object.hasOwn(keys, name) ? keys[name] : undefined
    if (act === undefined) return
    const always = event.ctrlKey || event.metaKey || /^f\d+$/.test(name)
    if (!always && takesKeys(event.target, name)) return
    event.preventDefault()
    event.stopPropagation()
    act()
  }
  onMounted(() => globalThis.addEventListener('keydown', onKey, { capture: true }))
  onBeforeUnmount(() => globalThis.removeEventListener('keydown', onKey, { capture: true }))
}

function nameOf(event: KeyboardEvent): string {
  const key = event.key === ' ' ? 'space' : event.key.toLowerCase()
  return `${event.ctrlKey || event.metaKey ? 'ctrl+' : ''}${event.shiftKey && key.length > 1 ? 'shift+' : ''}${event.altKey ? 'alt+' : ''}${key}`
}

function takesKeys(target: EventTarget | null, key: string): boolean {
  if (!(target instanceof HTMLElement)) return false
  if (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName)) return true
  // Space and Enter press a focused button or link.
  return (key === 'space' || key === 'enter') && (target.tagName === 'BUTTON' || target.tagName === 'A')
}
