import { describe, expect, test } from 'vitest'
import { isSingle, keyOf, shownName, takesKey } from '../../../app/composables/keys'

const event = (key: string, more: object = {}) => ({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...more })
/** Something that stands within what these selectors describe. */
const within = (...parts: readonly string[]) => ({ closest: (selector: string) => selector.split(', ').some(s => parts.includes(s)) ? {} : null })

describe('keys of a view', () => {
  test.each([
    [event(' '), 'space'], [event('R'), 'r'], [event('R', { shiftKey: true }), 'r'], [event('Enter', { ctrlKey: true }), 'ctrl+enter'], [event('Enter', { metaKey: true }), 'ctrl+enter'],
    [event('Z', { ctrlKey: true, shiftKey: true }), 'ctrl+z'], [event('ArrowUp', { altKey: true }), 'alt+arrowup'], [event('ArrowUp', { shiftKey: true }), 'shift+arrowup'], [event('?', { shiftKey: true }), '?'],
  ])('%j is %s', (e, name) => {
    expect(keyOf(e)).toBe(name)
  })
  test.each([['ctrl+enter', 'Ctrl ⏎'], ['alt+ArrowUp', 'Alt ↑'], ['alt+Enter', 'Alt ⏎'], ['Delete', 'Del'], ['?', '?'], ['f2', 'F2'], ['ctrl+alt+r', 'Ctrl Alt R']])('%s is shown as %s', (name, shown) => {
    expect(shownName(name)).toBe(shown)
  })
  test('what somebody may type without meaning it is a single key', () => {
    expect(['r', '0', '[', '?', 'space', 'f2', 'ctrl+r', 'delete'].map(isSingle)).toEqual([true, true, true, true, false, false, false, false])
  })
  test('rest where a field, a list, a menu or a sheet has the focus', () => {
    for (const part of ['input:not([type=checkbox]):not([type=radio])', 'textarea', '[contenteditable=true]', '[role=combobox]', '[role=listbox]', '[role=menu]', '[role=dialog]']) {
      for (const key of ['r', 'space', 'delete', 'enter', 'end']) expect([part, key, takesKey(within(part), key)]).toEqual([part, key, true])
      for (const key of ['ctrl+enter', 'f6']) expect([part, key, takesKey(within(part), key)]).toEqual([part, key, false])
    }
  })
  test('a button or a box that is ticked keeps Space and Enter, a slider its arrows, and nothing else', () => {
    const keys = ['r', 'space', 'enter', 'end', 'arrowup']
    expect(keys.filter(k => takesKey(within('button'), k))).toEqual(['space', 'enter'])
    expect(keys.filter(k => takesKey(within('input[type=checkbox]'), k))).toEqual(['space', 'enter'])
    expect(keys.filter(k => takesKey(within('[role=slider]'), k))).toEqual(['end', 'arrowup'])
    expect(keys.filter(k => takesKey(within(), k))).toEqual([])
    expect(takesKey(null, 'r')).toBe(false)
  })
})
