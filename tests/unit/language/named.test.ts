import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram, compileProgram } from '../../../core/language'
import { loadPhysics } from '../../../core/physics'
import { namedCells } from '../../../core/program'
import { Simulation } from '../../../core/simulation'
import { Vm } from '../../../core/vm'
import { why } from '../../../core/why'
import { codesOf, compile, demoParts, diagnosticsOf, facts, factsFor } from '../kit'

beforeAll(loadPhysics)

/** What the checker says of a program but for hints. */
const said = (text: string): string[] => diagnosticsOf(text).filter(d => d.severity !== 'hint').map(d => d.code)
const after = '\notherwise -> drive 10 cm/s\n'

describe('what names may stand for, and where they are known', () => {
  test.each([
    ['a let uses those above it only', `let a = b + 1 cm\nlet b = 2 cm\nwhen a > b -> halt${after}`, ['unknown-name']],
    ['a function too', `let f(x) = x + b\nlet b = 2 cm\nwhen f(1 cm) > b -> halt${after}`, ['unknown-name']],
    ['and not itself', `let f(x) = f(x) + 1\nwhen f(1) > 2 -> halt${after}`, ['unknown-name']],
    ['a let is not set', `let a = 2 cm\nwhen a > 1 cm -> set a = 3 cm${after}`, ['set-dial']],
    ['nor the value of a list', 'start\n  repeat for n in 1, 2\n    set n = 3\n', ['set-dial']],
    ['a let holds no text', `let a = "x"\nwhen a is a -> halt${after}`, ['wrong-kind']],
    ['a name is given once', `let a = 1\nstart\n  let a = 2\n  note "{a}"\n`, ['twice']],
    ['in a block too', `start\n  let a = 2\n  let a = 3\n  note "{a}"\n`, ['twice']],
    ['what a block names ends with it', `start\n  if robot.still\n    let a = 2\n    note "{a}"\n  note "{a}"\n`, ['unknown-name']],
    ['what a list names too', `start\n  repeat for c in red, blue\n    note "{c}"\n  note "{c}"\n`, ['unknown-name']],
    ['a list is of one kind', `start\n  repeat for c in red, 3\n    note "{c}"\n`, ['wrong-kind']],
    ['a function takes its values', `let f(x) = x * 2\nwhen f > 2 -> halt${after}`, ['given']],
    ['all of them', `let f(x, y) = x * y\nwhen f(2) > 2 -> halt${after}`, ['given']],
    ['of one kind at each call', `let f(x) = x * 2\nwhen f(1 cm) > 2 cm or f(2 s) > 1 cm -> halt${after}`, ['wrong-kind']],
    ['what is wrong in it is told once', `let f(x) = x + 2 s\nwhen f(1 cm) > 2 cm -> halt\nwhen f(2 cm) > 2 cm -> halt${after}`, ['kinds']],
    ['a function stands at the margin', `start\n  let f(x) = x * 2\n`, ['misplaced']],
    ['and may not take the word of another', `let mean(x) = x * 2\nwhen mean(3) > 2 -> halt${after}`, ['reserved']],
    ['but a memory of one value may', `memory count = 0\nmemory rate = 0\nwhen rate(sonar.distance) > 2 cm/s -> set count = count + rate${after}`, []],
    ['a function that nothing calls is told', `let f(x) = x * 2${after}`, ['unused']],
    ['a let that nothing uses is told', `let a = sonar.distance${after}`, ['unused']],
    ['the time of a mode is one rule\'s, not everybody\'s', `let late = mode.time > 3 s\nwhen late -> halt${after}`, ['every-tick']],
    ['what a function follows over time must be known everywhere', `let slow(x) = mean(x, 0.2 s)\nwhen slow(sonar.distance) < 30 cm -> halt${after}routine r(way)\n  wait until slow(way) < 20 cm\nlane other\n  when robot.still -> do r(20 cm)\n`, ['every-tick']],
    ['times over which readings are kept are fixed', `memory t = 1 s\nwhen mean(sonar.distance, t) < 30 cm -> set t = 2 s${after}`, ['window']],
    ['and have an end', `when mean(sonar.distance, 31 s) < 30 cm -> halt${after}`, ['window']],
    ['since takes a truth', `when since(sonar.distance) > 1 s -> halt${after}`, ['not-truth']],
    ['and no beat', `when since(every 2 s) > 1 s -> halt${after}`, ['condition-only']],
    ['rate has the kind of a change', `when rate(sonar.distance) > 1 cm -> halt${after}`, ['kinds']],
    ['a memory for each colour takes a colour', `memory at_home of color = false\nwhen at_home(3) -> set at_home(red) = true${after}`, ['wrong-kind']],
    ['and is nothing without one', `memory at_home of color = false\nwhen at_home -> set at_home = true${after}`, ['given', 'given']],
    ['one by number takes what it has', 'memory way = 3 of 0 cm\nstart\n  set way(4) = 1 cm\n  note "{way(0)}"\n', ['out-of-place', 'out-of-place']],
    ['and whole counts', 'memory way = 2.5 of 0 cm\nstart -> note "{way}"\n', ['several-count']],
    ['a memory of one value takes none', 'memory n = 0\nstart\n  set n(1) = 2\n  note "{n(1)}"\n', ['given', 'given']],
    ['count is of truths', 'memory way = 3 of 0 cm\nstart -> note "{count(way)} {way(1)}"\n', ['given']],
    ['memory stands in a routine\'s own steps', 'start -> do r\nroutine r\n  if robot.still\n    memory n = 0\n    set n = 1\n', ['misplaced']],
    ['and nowhere else in blocks', 'start\n  memory n = 0\n  set n = 1\n', ['misplaced']],
    ['else needs an at most', 'start\n  drive 10 cm\n  else -> halt\n', ['else-alone']],
    ['and stands alone', 'start\n  drive 10 cm at most 1 s\n  else if robot.still -> wait 1 s\n', ['else-alone']],
    ['random is drawn for a routine, not inside an expression', 'start -> do r(1 + random 1 to 2)\nroutine r(n)\n  note "{n}"\n', ['random-here']],
    ['a device is given where one is wanted', 'start -> do r(sonar)\nroutine r(lamp_of)\n  light lamp_of red\n', ['wrong-device']],
  ])('%s', (_what, text, codes) => { expect(said(text)).toEqual(codes) })

  test('a mistake in a routine that is given two devices is told once', () => {
    expect(said('start\n  do r(sonar)\n  do r(rear)\n  wait 1 s\nroutine r(eye)\n  note "{eye.distance + 1 s}"\n')).toEqual(['kinds'])
  })

  test('functions of functions of functions are too large before they take the memory of the machine', () => {
    const lines = ['let f0(x) = x * 2', ...Array.from({ length: 40 }, (_, i) => `let f${i + 1}(x) = f${i}(x) + f${i}(x * 2)`)]
    const began = performance.now()
    expect(said(`${lines.join('\n')}\nwhen f40(1) > 2 -> halt${after}`)).toContain('too-long')
    expect(performance.now() - began).toBeLessThan(5_000)
  })
})

describe('readings of what a program names', () => {
  const cuttle = factsFor('cuttle')
  const camera = cuttle.devices.find(d => d.kind === 'camera')!
  const asked = camera.readings.filter(r => r.name === 'sees' && r.of !== null && !r.of.startsWith('tag'))
  const colors = asked.map(r => r.of!)

  test('the colour comes from a memory, a list, a parameter or another reading', () => {
    const text = `memory wanted = ${colors[0]!}
start
  repeat for c in ${colors.slice(0, 2).join(', ')}, none
    note "{${camera.name}.sees(c)}"
  set wanted = ${colors[1]!}
  do tell(wanted)
  wait 1 s
routine tell(what)
  note "{what} {${camera.name}.sees(what)} {${camera.name}.size(what)}"
`
    const checked = checkProgram(text, cuttle)
    expect(checked.diagnostics.filter(d => d.severity === 'error')).toEqual([])
    const vm = new Vm(compileProgram(checked.analysis), cuttle, 1)
    const raw = new Float64Array(cuttle.readingCount)
    raw[camera.first + camera.readings.findIndex(r => r.name === 'sees' && r.of === colors[1])] = 1
    raw[camera.first + camera.readings.findIndex(r => r.name === 'size' && r.of === colors[1])] = 0.25
    vm.run({ raw, looks: raw, began: raw, still: true })
    expect(vm.events.map(e => e.type === 'note' ? e.text : e.type)).toEqual(['false', 'true', 'false', `${colors[1]!} true 25 %`])
  })

  test('it must be a colour', () => {
    expect(codesOf(`memory n = 3\nwhen ${camera.name}.sees(n) -> set n = 4\n`, cuttle)).toContain('wrong-kind')
  })
})

describe('named values on the tape', () => {
  const program = `memory seen = 3 of 0 cm
let way = mean(sonar.distance, 0.2 s)
let pace(x) = rate(x) * 2
mode near
  when total(sonar.distance) > 0.3 m * 1 s and way < 2 m -> go far
  when pace(sonar.distance) < -10 cm/s or since(sonar.distance < 90 cm) < 0.1 s -> drive 25 cm/s
  otherwise
    set seen(2) = way
    drive 10 cm/s
mode far
  when total(sonar.distance) > 0.2 m * 1 s or seen(2) > 1 m -> go near
  otherwise -> turn right 60 deg/s
`
  test('are there by their names, each value of a memory too', () => {
    expect(namedCells(compile(program)).map(n => n.name)).toEqual([
      'seen(1)', 'seen(2)', 'seen(3)', 'mean(sonar.distance, 0.2 s)', 'way', 'total(sonar.distance) in near', 'rate((sonar.distance))', 'since(sonar.distance < 90 cm)', 'total(sonar.distance) in far',
    ])
  })

  test('a rule wants at every instant what its condition says it was worth then', () => {
    const { analysis } = checkProgram(program, facts)
    const compiled = compileProgram(analysis)
    const simulation = new Simulation({ ...demoParts('fender-quay', null), program: compiled, realism: 'rough', seed: 4, limit: 12 })
    simulation.runToEnd()
    const { tape } = simulation
    const modes = new Set<string>()
    for (let tick = 1; tick < tape.rows; tick++) {
      // In the tick of a change of modes its rules are asked before the tape has the row.
      if (tape.at(tick)[tape.layout.entered]! === tick) continue
      const asked = why(analysis, compiled, tape, tick, 0)!
      modes.add(asked.mode)
      for (const rule of [...asked.above, asked.control!]) if (rule.when !== null) expect([tick, rule.line, rule.when.truth]).toEqual([tick, rule.line, rule.wants])
    }
    expect([...modes].sort()).toEqual(['far', 'near'])
  })
})
