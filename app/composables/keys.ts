/** A key's name with its modifiers, as views list them: "ctrl+enter", "space", "alt+arrowup", "?". */
export function keyOf(event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'shiftKey' | 'altKey'>): string {
  const key = event.key === ' ' ? 'space' : event.key.toLowerCase()
  return `${event.ctrlKey || event.metaKey ? 'ctrl+' : ''}${event.shiftKey && key.length > 1 ? 'shift+' : ''}${event.altKey ? 'alt+' : ''}${key}`
}

/** A key's name as people read it. */
export function shownName(key: string): string {
  const WORDS: Readonly<Record<string, string>> = { ctrl: 'Ctrl', alt: 'Alt', shift: 'Shift', enter: '⏎', space: 'Space', delete: 'Del', backspace: '⌫', end: 'End', escape: 'Esc', arrowup: '↑', arrowdown: '↓', arrowleft: '←', arrowright: '→' }
  return key.toLowerCase().split('+').map(part => part === '' ? '+' : WORDS[part] ?? part.toUpperCase()).join(' ')
}

/** A letter, digit or sign alone: what somebody may type without meaning it (WCAG 2.1.4). */
export const isSingle = (key: string): boolean => key.length === 1

const TICKED = 'input[type=checkbox], input[type=radio]'
const FIELDS = 'input:not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable=true], [role=textbox], [role=combobox], [role=spinbutton]'
const LISTS = '[role=listbox], [role=menu], [role=dialog]'
const SLIDING = /^(home|end|pageup|pagedown|arrow\w+)$/

/** Whether what has the focus uses a key itself, so that a view must leave it alone. `target` is asked by `closest` alone. */
export function takesKey(target: { closest(selector: string): unknown } | null, key: string): boolean {
  if (target === null || key.startsWith('ctrl+') || /^f\d+$/.test(key)) return false
  const within = (selector: string): boolean => target.closest(selector) !== null
  if (within(FIELDS) || within(LISTS)) return true
  // Space and Enter press a focused button or link, or tick a box; arrows, Home and End move a slider, or a border.
  if (key === 'space' || key === 'enter') return within(`button, a, summary, [role=button], [role=option], ${TICKED}`)
  return SLIDING.test(key) && within('[role=slider], [role=separator]')
}
