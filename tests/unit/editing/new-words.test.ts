import { describe, expect, test } from 'vitest'
import { addElse, applyChanges, duplicate, moveItem, nameAt, nameProblem, outlineOf, removeItem, rename, sheetOf, stepChoices, conditionChoices, valueChoices, type Edit, type Outline } from '../../../core/editing'
import { STEP_FORMS } from '../../../core/devices'
import { formatProgram } from '../../../core/language'
import { codesOf, facts } from '../kit'

/** Named values, memories of several values, lists and what follows a step that took too long: by the faces that edit the text. */

const PROGRAM = `memory home_of of color = false  # by paint
memory way = 3 of 20 cm
let lean = sonar.distance - rear.distance
let half(x) = x / 2

when half(lean) < 10 cm once
  set home_of(floor.color) = true
  repeat for c in red, floor.color
    note "{c}"
  drive 20 cm at most 3 s  # not for ever
  else
    # stuck
    note "late"
otherwise -> drive half(40 cm/s)

routine more(much)
  memory sum = 0
  let twice = much * 2
  set sum = sum + twice
  note "{sum}"
`
const outline = (text: string): Outline => outlineOf(sheetOf(text))
const words = (pieces: readonly { readonly text: string }[]): string => pieces.map(p => p.text).join(' ')

function edited(text: string, edit: (sheet: ReturnType<typeof sheetOf>, at: number) => Edit, at: string): string | null {
  const sheet = sheetOf(text)
  const changes = edit(sheet, text.indexOf(at))
  if (changes === null) return null
  const after = applyChanges(text, changes)
  expect(sheetOf(after).problems === 0 ? '' : after).toBe('')
  return after
}

describe('the outline', () => {
  test('has what is named at the margin with its sentence', () => {
    expect(outline(PROGRAM).named.map(n => [n.what, n.name, words(n.pieces)])).toEqual([
      ['memory', 'home_of', 'of color = false'], ['memory', 'way', '3 of 20 cm'], ['let', 'lean', 'sonar.distance - rear.distance'], ['let', 'half', '(x) = x / 2'],
    ])
  })
  test('has the lines of a rule with what stands under at most, each once, comments with theirs', () => {
    const { steps } = outline(PROGRAM).cards.find(c => c.kind === 'main')!.rows[0]!
    expect(steps.map(s => [s.depth, s.what, words(s.pieces)])).toEqual([
      [0, 'step', 'set home_of ( floor.color ) = true'], [0, 'repeat', 'repeat for c in red , floor.color'], [1, 'step', 'note "{c}"'],
      [0, 'step', 'drive 20 cm at most 3 s'], [0, 'else', 'else'], [1, 'step', 'note "late"'],
    ])
    expect([steps[3]!.behind?.text, steps[5]!.above.map(c => c.text)]).toEqual(['not for ever', ['stuck']])
  })
  test('shows a routine with its own memory and names', () => {
    const { rows, parameters } = outline(PROGRAM).cards.find(c => c.kind === 'routine')!
    expect([parameters, rows[0]!.steps.map(s => words(s.pieces))]).toEqual([['much'], ['memory sum = 0', 'let twice = much * 2', 'set sum = sum + twice', 'note "{sum}"']])
  })
})

describe('edits', () => {
  test('else is put under a step with at most, also behind an arrow, and not twice', () => {
    expect(edited('when sonar.sees -> drive 9 cm at most 1 s\n', (s, at) => addElse(s, at, 'halt'), 'drive')).toBe('when sonar.sees\n  drive 9 cm at most 1 s\n  else\n    halt\n')
    expect(edited('start\n  wait until sonar.sees at most 1 s  # so long\n  halt\n', (s, at) => addElse(s, at, 'note "x"'), 'wait')).toBe('start\n  wait until sonar.sees at most 1 s  # so long\n  else\n    note "x"\n  halt\n')
    expect(edited(PROGRAM, (s, at) => addElse(s, at, 'halt'), 'drive 20')).toBeNull()
    expect(edited('start\n  drive 9 cm\n', (s, at) => addElse(s, at, 'halt'), 'drive')).toBeNull()
  })
  test('a step goes with its else', () => {
    expect(edited(PROGRAM, (s, at) => duplicate(s, at), 'drive 20')).toContain('note "late"\n  drive 20 cm at most 3 s  # not for ever\n  else\n    # stuck\n    note "late"\notherwise')
  })
  test('a named value has another name wherever it is used', () => {
    const lean = edited(PROGRAM, s => rename(s, 'value', 'lean', 'tilt_of'), '')!
    expect([lean.includes('lean'), lean.match(/tilt_of/g)!.length, codesOf(lean).filter(c => c.startsWith('unknown'))]).toEqual([false, 2, []])
    const half = edited(PROGRAM, s => rename(s, 'value', 'half', 'part'), '')!
    expect([half.match(/part\(/g)!.length, codesOf(half).filter(c => c.startsWith('unknown'))]).toEqual([3, []])
    const memory = edited(PROGRAM, s => rename(s, 'memory', 'home_of', 'seen'), '')!
    expect(memory.match(/seen/g)!.length).toBe(2)
  })
  test('a function\'s own parameter is another thing than a dial of its name', () => {
    const text = 'dial x = 2 from 1 to 3\nlet half(x) = x / 2\nwhen half(x) > 1 -> halt\n'
    expect(edited(text, s => rename(s, 'dial', 'x', 'y'), '')).toBe('dial y = 2 from 1 to 3\nlet half(x) = x / 2\nwhen half(y) > 1 -> halt\n')
  })
  test('the name under the caret is found as what it is', () => {
    const sheet = sheetOf(PROGRAM)
    expect(nameAt(sheet, PROGRAM.indexOf('lean)'))).toMatchObject({ what: 'value', name: 'lean' })
    expect(nameAt(sheet, PROGRAM.indexOf('half(40'))).toMatchObject({ what: 'value', name: 'half' })
    expect(nameAt(sheet, PROGRAM.indexOf('home_of(floor'))).toMatchObject({ what: 'memory', name: 'home_of' })
    expect([nameProblem(sheet.tree, 'twice'), nameProblem(sheet.tree, 'let'), nameProblem(sheet.tree, 'home')]).toEqual(['twice is taken', 'let is a word of the language', null])
  })
  test('lets move and go as other lines do', () => {
    expect(edited('let a = 1\nlet b = 2\nwhen a > b -> halt\n', (s, at) => moveItem(s, at, 1), 'let a')).toBe('let b = 2\nlet a = 1\nwhen a > b -> halt\n')
    expect(edited('let a = 1\nlet b = 2\nwhen b > 1 -> halt\n', (s, at) => removeItem(s, at), 'let a')).toBe('let b = 2\nwhen b > 1 -> halt\n')
  })
  test('the canonical form keeps all of it', () => {
    expect(formatProgram(sheetOf(PROGRAM).tree, STEP_FORMS)).toBe(PROGRAM)
    expect(formatProgram(sheetOf('let f( a,b )=a+b\nmemory m of color=none\nstart\n  do go_there( random 1 s to 2 s )   at most 3 s\n  else->note "x"\nroutine go_there(t)\n  wait t\n').tree, STEP_FORMS))
      .toBe('let f(a, b) = a + b\nmemory m of color = none\nstart\n  do go_there(random 1 s to 2 s) at most 3 s\n  else -> note "x"\n\nroutine go_there(t)\n  wait t\n')
  })
})

describe('the finder', () => {
  const { tree } = sheetOf(PROGRAM)
  test('offers memories of several values by one of them, right as they stand', () => {
    expect(stepChoices(facts, tree).map(c => c.text)).toEqual(expect.arrayContaining(['set home_of(red) = false', 'set way(1) = 20 cm']))
    expect(conditionChoices(facts, tree).map(c => c.text)).toEqual(expect.arrayContaining(['home_of(red)', 'way(1) > 20 cm']))
  })
  test('offers named values where a value stands, and no function without its values', () => {
    const texts = valueChoices(facts, tree, '12 cm').map(c => c.text)
    expect([texts.includes('lean'), texts.includes('half'), texts.includes('way')]).toEqual([true, false, false])
  })
})
