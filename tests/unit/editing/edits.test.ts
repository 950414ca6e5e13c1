import { describe, expect, test } from 'vitest'
import {
  addElse, addHeading, addPart, applyChanges, converted, duplicate, insertRule, insertStep, makeDial, moveItem, moveRuleTo, moveStep, nameProblem, nudge, removeItem, removePart, removeStep,
  rename, replacePiece, replaceStep, setCommentAbove, setCondition, setHeld, setUntil, sheetOf, toggleNot, toggleOff, toggleOnce, wrapStep, type Edit, type Sheet,
} from '../../../core/editing'

/** The text after an edit at the first place where some words stand; null where it may not be. */
function edited(text: string, edit: (sheet: Sheet, at: number) => Edit, at: string): string | null {
  const sheet = sheetOf(text)
  expect(sheet.problems).toBe(0)
  const changes = edit(sheet, text.indexOf(at))
  if (changes === null) return null
  const after = applyChanges(text, changes)
  expect(sheetOf(after).problems).toBe(0)
  return after
}

const TWO = `# plan
when sonar.distance < 20 cm   # near
  # stop first
  halt
when sonar.distance < 40 cm -> turn left 30 deg/s
otherwise
  drive 20 cm/s
`

describe('rules', () => {
  test('move with their comments; what stands between stays', () => {
    const gap = TWO.replace('when sonar.distance < 40', '\nwhen sonar.distance < 40')
    expect(edited(gap, (s, at) => moveItem(s, at, 1), 'when sonar.distance < 20')).toBe(`when sonar.distance < 40 cm -> turn left 30 deg/s

# plan
when sonar.distance < 20 cm   # near
  # stop first
  halt
otherwise
  drive 20 cm/s
`)
  })
  test('stay above otherwise, and otherwise below them', () => {
    expect(edited(TWO, (s, at) => moveItem(s, at, 1), 'when sonar.distance < 40')).toBeNull()
    expect(edited(TWO, (s, at) => moveItem(s, at, -1), 'otherwise')).toBeNull()
  })
  test('are moved into another mode, set in as it is', () => {
    const text = 'mode a\n  when run.time > 2 s -> go b\n  otherwise -> halt\nmode b\n  otherwise\n    drive 9 cm/s\n'
    const card = text.indexOf('mode b')
    const before = text.indexOf('otherwise\n')
    expect(edited(text, (s, at) => moveRuleTo(s, at, card, before), 'when')).toBe('mode a\n  otherwise -> halt\nmode b\n  when run.time > 2 s -> go b\n  otherwise\n    drive 9 cm/s\n')
    // From a lane's mode to the margin.
    const deep = 'when run.time > 9 s -> halt\nlane x\n  mode c\n    when run.time > 2 s\n      # why\n      note "a"\n    otherwise -> note "b"\n'
    expect(edited(deep, (s, at) => moveRuleTo(s, at, -1, 0), 'when run.time > 2')).toBe('when run.time > 2 s\n  # why\n  note "a"\nwhen run.time > 9 s -> halt\nlane x\n  mode c\n    otherwise -> note "b"\n')
  })
  test('are put in above, and last above otherwise', () => {
    expect(edited(TWO, s => insertRule(s, -1, null, 'when run.time > 5 s\n  halt'), '')).toContain('30 deg/s\nwhen run.time > 5 s\n  halt\notherwise')
    expect(edited(TWO, (s, at) => insertRule(s, -1, at, 'when run.time > 5 s -> halt'), 'when sonar')).toBe(`when run.time > 5 s -> halt\n${TWO}`)
    expect(edited(TWO, s => insertRule(s, -1, null, 'otherwise -> halt'), '')).toBeNull()
    expect(edited('', s => insertRule(s, -1, null, 'otherwise -> halt'), '')).toBe('otherwise -> halt\n')
  })
  test('leave their comments when they go', () => {
    expect(edited(TWO, (s, at) => removeItem(s, at), 'when sonar.distance < 20')).toBe('# plan\n# near\n# stop first\nwhen sonar.distance < 40 cm -> turn left 30 deg/s\notherwise\n  drive 20 cm/s\n')
    expect(edited('mode a\n  otherwise -> halt\n', (s, at) => removeItem(s, at), 'otherwise')).toBeNull()
  })
  test('are switched off and on, doubled, made to act once', () => {
    const off = edited(TWO, (s, at) => toggleOff(s, at), 'when sonar.distance < 40')!
    expect(off).toContain('\noff when sonar.distance < 40 cm ->')
    expect(edited(off, (s, at) => toggleOff(s, at), 'off when')).toBe(TWO)
    expect(edited(TWO, (s, at) => duplicate(s, at), 'when sonar.distance < 40')).toContain('30 deg/s\nwhen sonar.distance < 40 cm -> turn left 30 deg/s\notherwise')
    const once = edited(TWO, (s, at) => toggleOnce(s, at), 'when sonar.distance < 20')!
    expect(once).toContain('when sonar.distance < 20 cm once   # near')
    expect(edited(once, (s, at) => toggleOnce(s, at), 'when sonar.distance < 20')).toBe(TWO)
  })
  test('a comment above is written, of some lines, and taken away', () => {
    const two = edited(TWO, (s, at) => setCommentAbove(s, at, 'one\n two'), 'when sonar.distance < 20')!
    expect(two).toBe(TWO.replace('# plan', '# one\n# two'))
    expect(edited(two, (s, at) => setCommentAbove(s, at, ''), 'when sonar.distance < 20')).toBe(TWO.replace('# plan\n', ''))
  })
})

describe('conditions', () => {
  const rule = (condition: string) => `when ${condition} -> halt\n`
  const at = (condition: string, edit: (sheet: Sheet, at: number) => Edit) => edited(rule(condition), edit, 'when')?.slice(5, -9) ?? null
  test('get parts; and beside or gets brackets; for stays behind all of it', () => {
    expect(at('floor.color is red', (s, a) => addPart(s, a, 'and', 'robot.still'))).toBe('floor.color is red and robot.still')
    expect(at('floor.color is red or robot.still for 0.2 s', (s, a) => addPart(s, a, 'and', 'bumper_left.pressed'))).toBe('(floor.color is red or robot.still) and bumper_left.pressed for 0.2 s')
  })
  test('lose a part with its word', () => {
    const text = rule('floor.color is red or robot.still or bumper_left.pressed')
    expect(edited(text, s => removePart(s, 0, text.indexOf('robot')), 'when')).toBe(rule('floor.color is red or bumper_left.pressed'))
    expect(edited(text, s => removePart(s, 0, text.indexOf('floor')), 'when')).toBe(rule('robot.still or bumper_left.pressed'))
    expect(edited(rule('robot.still'), s => removePart(s, 0, 6), 'when')).toBeNull()
  })
  test('a part is turned into its opposite and back', () => {
    const text = rule('floor.color is red or robot.still')
    const not = edited(text, s => toggleNot(s, 0, text.indexOf('robot')), 'when')!
    expect(not).toBe(rule('floor.color is red or not robot.still'))
    expect(edited(not, s => toggleNot(s, 0, not.indexOf('robot')), 'when')).toBe(text)
  })
  test('hold for a time, end by another, and come from otherwise', () => {
    expect(at('robot.still', (s, a) => setHeld(s, a, '0.3 s'))).toBe('robot.still for 0.3 s')
    expect(at('robot.still for 0.3 s', (s, a) => setHeld(s, a, null))).toBe('robot.still')
    expect(at('robot.still', (s, a) => setUntil(s, a, 'run.time > 3 s'))).toBe('robot.still until run.time > 3 s')
    expect(at('robot.still until run.time > 3 s once', (s, a) => setUntil(s, a, null))).toBe('robot.still once')
    expect(edited('otherwise -> halt\n', (s, a) => setCondition(s, a, 'robot.still'), 'otherwise')).toBe(rule('robot.still'))
  })
})

describe('steps', () => {
  test('behind an arrow make room for another', () => {
    const text = 'mode a\n  start -> halt   # gently\n  otherwise -> drive 20 cm/s\n'
    expect(edited(text, (s, at) => insertStep(s, at, 1, 'wait 1 s'), 'start')).toBe('mode a\n  start\n    halt   # gently\n    wait 1 s\n  otherwise -> drive 20 cm/s\n')
    expect(edited(text, (s, at) => replaceStep(s, at, 'coast'), 'halt')).toBe(text.replace('halt', 'coast'))
    expect(edited(text, (s, at) => replaceStep(s, at, 'if robot.still\n  coast'), 'halt')).toContain('  start\n    # gently\n    if robot.still\n      coast\n  otherwise')
    expect(edited(text, (s, at) => wrapStep(s, at, 'repeat 2 times'), 'halt')).toContain('  start\n    repeat 2 times\n      halt   # gently\n')
  })
  test('move, double and go; the last of a block stays', () => {
    const text = 'start\n  # a\n  halt\n  if robot.still\n    coast  # b\n  else\n    halt\n  wait 1 s'
    expect(edited(text, (s, at) => moveStep(s, at, 1), 'halt')).toBe('start\n  if robot.still\n    coast  # b\n  else\n    halt\n  # a\n  halt\n  wait 1 s')
    expect(edited(text, (s, at) => removeStep(s, at), 'if')).toBe('start\n  # a\n  halt\n  # b\n  wait 1 s')
    expect(edited(text, (s, at) => removeStep(s, at), 'coast')).toBeNull()
    expect(edited(text, (s, at) => addElse(s, at, 'halt'), 'if')).toBeNull()
    expect(edited(text, (s, at) => duplicate(s, at), 'wait')).toBe(`${text}\n  wait 1 s\n`)
  })
  test('an if and a choose get an else', () => {
    expect(edited('start\n  if robot.still\n    halt\n  wait 1 s\n', (s, at) => addElse(s, at, 'coast'), 'if')).toBe('start\n  if robot.still\n    halt\n  else\n    coast\n  wait 1 s\n')
    expect(edited('start\n  choose floor.color\n    is red -> halt\n', (s, at) => addElse(s, at, 'coast'), 'choose')).toBe('start\n  choose floor.color\n    is red -> halt\n    else\n      coast\n')
  })
})

describe('names and values', () => {
  test('a mode is renamed where it is gone to, and nothing else is', () => {
    const text = 'memory push = 1\nmode push_on\n  when push > 2 -> go push_on\n  otherwise -> note "push_on {push}"\n'
    expect(edited(text, s => rename(s, 'mode', 'push_on', 'shove'), '')).toBe('memory push = 1\nmode shove\n  when push > 2 -> go shove\n  otherwise -> note "push_on {push}"\n')
    expect(edited(text, s => rename(s, 'memory', 'push', 'tries'), '')).toBe('memory tries = 1\nmode push_on\n  when tries > 2 -> go push_on\n  otherwise -> note "push_on {tries}"\n')
    expect(edited(text, s => rename(s, 'mode', 'push_on', 'push'), '')).toBeNull()
  })
  test('a parameter that hides a dial keeps its name', () => {
    const text = 'dial way = 9 cm from 1 cm to 20 cm\nstart\n  do out(way)\nroutine out(way)\n  drive way\n'
    expect(edited(text, s => rename(s, 'dial', 'way', 'far'), '')).toBe('dial far = 9 cm from 1 cm to 20 cm\nstart\n  do out(far)\nroutine out(way)\n  drive way\n')
  })
  test('what may not be a name says why', () => {
    const { tree } = sheetOf('mode a\n  otherwise -> halt\n')
    expect([nameProblem(tree, 'a'), nameProblem(tree, 'when'), nameProblem(tree, '9x'), nameProblem(tree, 'b')]).toEqual(['a is taken', 'when is a word of the language', 'a name is letters, digits and _, and begins with a letter', null])
  })
  test('a number becomes a dial with a range around it', () => {
    const text = 'program "x"\nwhen sonar.distance < 24 cm -> halt\n'
    const sheet = sheetOf(text)
    const at = text.indexOf('24')
    const made = makeDial(sheet, at, at + 5, 'sonar_limit')!
    expect(applyChanges(text, made.changes)).toBe('program "x"\ndial sonar_limit = 24 cm from 6 cm to 72 cm\nwhen sonar.distance < sonar_limit -> halt\n')
    expect(makeDial(sheetOf('dial a = 2 s from 1 s to 3 s\n'), 9, 12, 'b')).toBeNull()
  })
  test('a piece is replaced unless the line could not be read then', () => {
    const text = 'when sonar.distance < 24 cm -> halt\n'
    expect(edited(text, s => replacePiece(s, 22, 27, ' 2 in '), '')).toBe('when sonar.distance < 2 in -> halt\n')
    expect(edited(text, s => replacePiece(s, 22, 27, '2 in <'), '')).toBeNull()
    expect(edited(text, s => replacePiece(s, 22, 27, ''), '')).toBeNull()
  })
  test('numbers are nudged in their own last digit, and converted', () => {
    expect([nudge('0.30 s', 2), nudge('35 cm', -1), nudge('-1 deg', 1), nudge('sight', 1)]).toEqual(['0.32 s', '34 cm', '0 deg', null])
    expect([converted('35 cm', 'mm'), converted('1 turn', 'deg'), converted('0.8 cm/s per cm', 'nix')]).toEqual(['350 mm', '360 deg', null])
  })
  test('a heading comes last, a mode after the modes', () => {
    expect(edited('mode a\n  otherwise -> halt\nroutine r\n  halt\n', s => addHeading(s, 'mode b\n  otherwise -> halt'), '')).toBe('mode a\n  otherwise -> halt\n\nmode b\n  otherwise -> halt\nroutine r\n  halt\n')
  })
})
