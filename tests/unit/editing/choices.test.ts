import { describe, expect, test } from 'vitest'
import { applyChanges, conditionChoices, dialName, insertRule, isEditable, modeMap, outlineOf, sheetOf, stepChoices, valueChoices, type Outline } from '../../../core/editing'
import { checkProgram } from '../../../core/language'
import { demoText, factsFor } from '../kit'

const ROBOTS = ['limpet', 'cuttle', 'winkle', 'heron']
const EMPTY = sheetOf('').tree
/** What the checker calls wrong; that a `go` or a wish for a finish is missing is no matter of a single step. */
const wrong = (text: string, robot: string): string[] => checkProgram(text, factsFor(robot)).diagnostics.filter(d => d.severity === 'error').map(d => `${d.code}: ${d.message}`)

describe('the finder', () => {
  test.each(ROBOTS)('every step that it offers %s is right as it stands', (robot) => {
    const choices = stepChoices(factsFor(robot), EMPTY)
    expect(choices.length).toBeGreaterThan(12)
    for (const { text } of choices) expect([text, wrong(`start\n  ${text.replaceAll('\n', '\n  ')}\n`, robot)]).toEqual([text, []])
  })
  test.each(ROBOTS)('every condition that it offers %s is right as it stands', (robot) => {
    for (const { text } of conditionChoices(factsFor(robot), EMPTY)) expect([text, wrong(`when ${text}\n  wait 1 s\n`, robot)]).toEqual([text, []])
  })
  test('it offers only what the robot can do', () => {
    const texts = (robot: string) => stepChoices(factsFor(robot), EMPTY).map(c => c.text)
    expect(texts('limpet').some(t => t.includes('claw'))).toBe(false)
    expect(texts('cuttle')).toContain('close claw')
    expect(texts('heron').some(t => t.startsWith('drive'))).toBe(false)
    expect(texts('heron')).toContain('move lift to 90 deg')
  })
  test('it knows the names that the program gives', () => {
    const { tree } = sheetOf('dial sight = 90 cm from 20 cm to 200 cm\nmemory n = 0\nmode a\n  when n > 2 -> send hello\n  otherwise -> wait 1 s\nroutine back_off\n  halt\n')
    const facts = factsFor('limpet')
    expect(stepChoices(facts, tree).map(c => c.text)).toEqual(expect.arrayContaining(['go a', 'do back_off', 'set n = 0', 'send hello', 'reset gyro.turned']))
    expect(conditionChoices(facts, tree).map(c => c.text)).toEqual(expect.arrayContaining(['heard hello', 'n > 0', 'sonar.distance < 30 cm', 'floor.color is red', 'bumper_left.pressed']))
    expect(valueChoices(facts, tree, '12 cm').map(c => c.text)).toEqual(expect.arrayContaining(['sight', 'sonar.distance']))
    expect(valueChoices(facts, tree, '12 cm').map(c => c.text)).not.toContain('n')
    expect(valueChoices(facts, tree, '2 s').map(c => c.text)).not.toContain('sight')
    expect(valueChoices(facts, tree, 'red').map(c => c.text)).toContain('orange')
    expect([dialName(facts, tree, '20 cm/s', null), dialName(facts, tree, '20 cm', 'sonar.distance')]).toEqual(['cruise', 'sonar_limit'])
  })
})

/** Everything that an outline shows, as lines; the sentences by the texts of their pieces. */
function shown(o: Outline): string[] {
  const sentence = (pieces: readonly { text: string }[]): string => pieces.map(p => p.text).join(' ')
  return [
    ...o.named.map(n => `${n.what} ${n.name} ${sentence(n.pieces)}`.trim()),
    ...o.cards.flatMap(c => [`${c.kind} ${c.name}`.trim(), ...c.rows.flatMap(r => [
      `${r.urgency ?? ''} ${r.off ? 'off ' : ''}${r.what} ${sentence(r.when)}${r.until.length > 0 ? ` until ${sentence(r.until)}` : ''}${r.once ? ' once' : ''}`.trim(),
      ...r.steps.map(s => `${'  '.repeat(s.depth + 1)}${s.off ? 'off ' : ''}${sentence(s.pieces)}`),
    ])]),
  ]
}

const ALL = `program "Clear"
dial sight = 90 cm from 20 cm to 200 cm
# the rim
when floor.color is yellow, red   # behind
  if bumper_left.pressed or bumper_right.pressed
    drive 6 cm at 12 cm/s at most 2 s      # over it goes
  else if robot.still
    halt
  off turn right random 45 deg to 110 deg
  go search
mode search
  start -> reset gyro.turned   # zero
  when (sonar.distance > sight and
      not bumper_left.pressed) for 0.3 s until heard x once   # lost
    # plan
    go search
  otherwise
    choose floor.color
      is blue, violet
        repeat 4 times
          show "x {sonar.distance}"
      else -> note "a"
# the end
`

describe('the outline', () => {
  test('shows all that stands in a program, each comment once', () => {
    const o = outlineOf(sheetOf(ALL))
    expect(shown(o)).toEqual([
      'title Clear', 'dial sight 90 cm 20 cm 200 cm',
      'above', '1 rule floor.color is yellow , red', '  if bumper_left.pressed or bumper_right.pressed', '    drive 6 cm at 12 cm/s at most 2 s', '  else if robot.still', '    halt', '  off turn right random 45 deg to 110 deg', '  go search',
      'mode search', 'start', '  reset gyro.turned', '2 rule ( sonar.distance > sight and not bumper_left.pressed ) for 0.3 s until heard x once', '  go search',
      '3 otherwise', '  choose floor.color', '    is blue , violet', '      repeat 4 times', '        show "x {sonar.distance}"', '    else', '      note "a"',
    ])
    const comments = JSON.stringify(o).match(/"text":"(the rim|behind|zero|over it goes|lost|plan|the end)"/g)
    expect(comments?.sort()).toEqual(['"text":"behind"', '"text":"lost"', '"text":"over it goes"', '"text":"plan"', '"text":"the end"', '"text":"the rim"', '"text":"zero"'])
  })
  test('each piece is what stands at its place, and can be put there again', () => {
    const pieces = outlineOf(sheetOf(ALL)).cards.flatMap(c => c.rows.flatMap(r => [...r.when, ...r.until, ...r.steps.flatMap(s => s.pieces)]))
    expect(pieces.filter(isEditable).length).toBeGreaterThan(25)
    for (const p of pieces) if (p.role !== 'word') expect(ALL.slice(p.from, p.to)).toBe(p.text)
  })
  test('keeps what can be read, and marks the line that cannot', () => {
    const o = outlineOf(sheetOf('when sonar.distance <\n  halt\notherwise\n  drvie 20 cm/s  # oh\n  halt\n'))
    const last = o.cards[0]!.rows[1]!
    expect(last.steps.map(s => [s.what, s.pieces.map(p => p.text).join(' ')])).toEqual([['unread', 'drvie 20 cm/s'], ['step', 'halt']])
    expect(last.steps[0]!.behind?.text).toBe('oh')
  })
  test.each(['night-rounds', 'kiss-the-fender', 'fetch-the-floats', 'find-the-buoy', 'lids-home', 'sort-the-floats'])('%s is all there: only comments, arrows and headings are not pieces', (project) => {
    const text = demoText(`projects/${project}/program.mindpath`)
    const o = outlineOf(sheetOf(text))
    const found = JSON.stringify(o)
    for (const word of text.replaceAll(/#.*/g, '').match(/[a-z_]+\.[a-z_]+|\d+ (?!for|at|and|to|from|of|times)[a-z/]+/g) ?? []) expect(found).toContain(word)
    expect(o.cards.flatMap(c => c.rows).filter(r => r.what === 'unread')).toEqual([])
  })
  test('from an empty program by parts to one that runs', () => {
    const put = (text: string, rule: string): string => applyChanges(text, insertRule(sheetOf(text), -1, null, rule)!)
    const text = put(put('', 'otherwise\n  drive 20 cm/s'), 'when sonar.distance < 30 cm\n  turn right 90 deg')
    expect(text).toBe('when sonar.distance < 30 cm\n  turn right 90 deg\notherwise\n  drive 20 cm/s\n')
    expect(wrong(text, 'limpet')).toEqual([])
  })
})

describe('the map', () => {
  test('has the modes and the ways between them, also through routines; what is off leads nowhere', () => {
    const text = 'when floor.color is red -> go a\nmode a\n  start -> do leave_it\n  when run.time > 3 s\n    if robot.still\n      go b\n  off when run.time > 9 s -> go a\n  otherwise -> halt\nmode b\n  otherwise -> go c\nroutine leave_it\n  go b\nlane x\n  mode d\n    otherwise -> go d\n'
    const { modes, ways } = modeMap(sheetOf(text).tree, at => text.slice(0, at).split('\n').length)
    expect(modes.map(m => `${m.lane}/${m.name}:${m.line}`)).toEqual(['/a:2', '/b:9', '/:1', 'x/d:14'])
    expect(ways.map(w => `${w.from}>${w.to}:${w.lines.join()}`).sort()).toEqual(['>a:1', 'a>b:3,4', 'd>d:15'])
  })
  test('of a program without modes is empty', () => {
    expect(modeMap(sheetOf('otherwise -> halt\n').tree, () => 1)).toEqual({ modes: [], ways: [] })
  })
})
