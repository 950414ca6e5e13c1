import { describe, expect, test } from 'vitest'
import { inLengthUnit, lengthUnit, shownLength } from '../../../app/shown/lengths'
import { about } from '../../../app/features/text/hover'
import { setWritten } from '../../../app/shown/quantities'
import { shownName } from '../../../app/composables/keys'
import { keyName, rowActions, stepActions } from '../../../app/features/rules/actions'
import { dialOf, offersFor } from '../../../app/features/rules/offers'
import { examplesFor } from '../../../app/features/rules/examples'
import { renamedCopy } from '../../../app/features/shelf/shelf'
import { applyChanges, outlineOf, sheetOf, type Piece } from '../../../core/editing'
import { checkProgram } from '../../../core/language'
import { factsFor } from '../kit'

const limpet = factsFor('limpet')

/** The piece that is written so, in the sentence where it stands. */
function pieceIn(text: string, written: string): { piece: Piece, sentence: readonly Piece[] } {
  for (const card of outlineOf(sheetOf(text)).cards) {
    for (const row of card.rows) {
      for (const sentence of [row.when, row.until, ...row.steps.map(s => s.pieces)]) {
        const piece = sentence.find(p => p.text === written && p.role !== 'word')
        if (piece !== undefined) return { piece, sentence }
      }
    }
  }
  throw new Error(`no ${written}`)
}
/** The text after `typed` was put in the place of a piece; null where it cannot be. */
function put(text: string, written: string, typed: string): string | null {
  const sheet = sheetOf(text)
  const edit = offersFor(sheet, limpet, pieceIn(text, written).piece).put(sheet, typed)
  return edit === null ? null : applyChanges(text, edit)
}
const offered = (text: string, written: string): string[] => offersFor(sheetOf(text), limpet, pieceIn(text, written).piece).offers.map(o => o.text)

const TEXT = 'dial sight = 90 cm from 20 cm to 200 cm\nmode a\n  when sonar.distance < 24 cm and floor.color is red -> go b\n  otherwise -> turn left 60 deg/s\nmode b\n  otherwise -> note "here"\n'

describe('what may stand in the place of a piece', () => {
  test('a bare number keeps its unit; other units and whole expressions may be typed', () => {
    expect(put(TEXT, '24 cm', '31')).toContain('distance < 31 cm and')
    expect(put(TEXT, '24 cm', '2 in')).toContain('distance < 2 in and')
    expect(put(TEXT, '24 cm', 'sight / 2')).toContain('distance < sight / 2 and')
    expect(put(TEXT, '24 cm', '31 cm or')).toBeNull()
    expect(offered(TEXT, '24 cm')).toEqual(expect.arrayContaining(['240 mm', 'sight', 'sonar.distance']))
    expect(offered(TEXT, '60 deg/s')).not.toContain('sight')
  })
  test('a reading of the same kind keeps its comparison; another brings its own', () => {
    expect(put(TEXT, 'sonar.distance', 'rear.distance')).toContain('when rear.distance < 24 cm and')
    expect(put(TEXT, 'sonar.distance', 'bumper_left.pressed')).toContain('when bumper_left.pressed and floor.color is red')
    expect(offered(TEXT, 'sonar.distance')).toEqual(expect.arrayContaining(['rear.distance', 'bumper_left.pressed', 'gyro.turned < 90 deg']))
  })
  test('words of choice are only what they offer', () => {
    expect(offered(TEXT, 'left')).toEqual(['left', 'right'])
    expect(put(TEXT, 'left', 'right')).toContain('turn right 60 deg/s')
    expect(put(TEXT, 'left', 'up')).toBeNull()
    expect(offered(TEXT, 'red')).toContain('violet')
  })
  test('a mode that is not there yet is made at once; one that cannot be is refused', () => {
    expect(put(TEXT, 'b', 'c')).toBe(TEXT.replace('go b', 'go c') + '\nmode c\n  otherwise -> wait 1 s\n')
    expect(put(TEXT, 'b', 'a')).toBe(TEXT.replace('go b', 'go a'))
    expect(put(TEXT, 'b', 'when')).toBeNull()
  })
  test('a text gets its quotes', () => {
    expect(put(TEXT, '"here"', 'there {sonar.distance}')).toContain('note "there {sonar.distance}"')
  })
  test('a dial is named by what it is compared with, or by what it is', () => {
    const made = (written: string) => { const { piece, sentence } = pieceIn(TEXT, written); return applyChanges(TEXT, dialOf(sheetOf(TEXT), limpet, piece, sentence)!) }
    expect(made('24 cm')).toContain('dial sonar_limit = 24 cm from 6 cm to 72 cm')
    expect(made('60 deg/s')).toContain('dial spin = 60 deg/s from 15 deg/s to 180 deg/s')
  })
})

describe('what can be done to rules and steps', () => {
  const outline = outlineOf(sheetOf(TEXT))
  const row = outline.cards[0]!.rows[0]!
  test('each has a key of its own, that people can read', () => {
    for (const actions of [rowActions(row, limpet, sheetOf(TEXT).tree), stepActions(row.steps[0]!, limpet, sheetOf(TEXT).tree)]) {
      expect(new Set(actions.map(a => a.key)).size).toBe(actions.length)
      for (const a of actions) expect(shownName(a.key)).toMatch(/^((Alt|Ctrl) )?([A-Z0-9↑↓]|Del)$/)
    }
  })
  test('a pressed key is named as actions name it', () => {
    const event = (key: string, more: object = {}) => ({ key, ctrlKey: false, metaKey: false, altKey: false, ...more }) as KeyboardEvent
    expect([keyName(event('ArrowUp', { altKey: true })), keyName(event('D', { ctrlKey: true })), keyName(event('Delete'))]).toEqual(['alt+ArrowUp', 'ctrl+d', 'Delete'])
  })
})

describe('the smallest programs', () => {
  test.each(['limpet', 'cuttle', 'winkle', 'heron'])('are right for %s', (robot) => {
    const facts = factsFor(robot)
    const examples = examplesFor(facts)
    expect(examples.length).toBe(2)
    for (const e of examples) expect(checkProgram(e.text, facts).diagnostics.filter(d => d.severity !== 'hint').map(d => `${e.text}: ${d.message}`)).toEqual([])
  })
})

describe('what stands under the pointer', () => {
  const told = (word: string) => about(TEXT, TEXT.indexOf(word) + 1, limpet, name => name === 'sonar.distance' ? '42 cm' : null)
  test('a reading with its device, its port and its value now', () => {
    expect(told('sonar.distance')).toEqual({ title: 'sonar.distance', says: 'how far the first echo is; sonar on port P2', now: '42 cm' })
  })
  test('dials, modes, steps and words of the language; of what is nothing, nothing', () => {
    expect(told('sight')).toMatchObject({ title: 'dial sight', says: 'dial sight = 90 cm from 20 cm to 200 cm' })
    expect(told('turn')?.says).toContain('turn left 90 deg')
    expect(told('otherwise')?.says).toContain('always wants control')
    expect(told('24')).toBeNull()
    expect(about('# sonar.distance', 5, limpet, () => null)).toBeNull()
  })
})

describe('small things of the Robot view', () => {
  test('a copy has a name that no other kept robot has', () => {
    expect(renamedCopy({ name: 'limpet', x: 1 }, new Set(['limpet', 'limpet_2']))).toEqual({ name: 'limpet_3', x: 1 })
    expect(renamedCopy({ name: 'limpet_2' }, new Set(['limpet_2']))).toEqual({ name: 'limpet' })
  })
  test('what is typed goes into the document as its kind; nothing typed leaves it out', () => {
    const part: Record<string, unknown> = { gone: 1 }
    setWritten(part, 'gone', ' ', 'quantity')
    setWritten(part, 'grip', '0.7', 'number')
    setWritten(part, 'wrong', 'much', 'number')
    setWritten(part, 'tags', '[3, 5] red', 'list')
    setWritten(part, 'range', '2 m', 'quantity')
    expect(part).toEqual({ grip: 0.7, wrong: 'much', tags: [3, 5, 'red'], range: '2 m' })
  })
  test('lengths are worded in the preferred unit, and nothing else is', () => {
    lengthUnit.value = 'in'
    expect(inLengthUnit('stands 12 cm from fender at 25.4 cm/s, for 1 s, 3 cmx')).toBe('stands 4.72 in from fender at 10 in/s, for 1 s, 3 cmx')
    expect([shownLength(0.0254), shownLength(0.254, '/s')]).toEqual(['1 in', '10 in/s'])
    lengthUnit.value = 'cm'
    expect(inLengthUnit('12 cm')).toBe('12 cm')
  })
})
