import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram, compileProgram } from '../../core/language'
import { loadPhysics } from '../../core/physics'
import { Simulation } from '../../core/simulation'
import { LiveConditions, why, type Why } from '../../core/why'
import { demoParts, facts } from './kit'

beforeAll(loadPhysics)

/** A run of a program on the quay before the fender, and what is said of a tick of it. */
function ran(program: string, limit = 6): { ask: (tick: number, lane?: number) => Why | null, simulation: Simulation, ruleAt: (tick: number) => number } {
  const checked = checkProgram(program, facts)
  if (!checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  const compiled = compileProgram(checked.analysis)
  const simulation = new Simulation({ ...demoParts('fender-quay', null), program: compiled, realism: 'ideal', seed: 1, limit })
  simulation.runToEnd()
  const { tape } = simulation
  return { ask: (tick, lane = 0) => why(checked.analysis, compiled, tape, tick, lane), simulation, ruleAt: tick => tape.at(tick)[tape.layout.lanes + 2]! }
}

describe('why', () => {
  const program = 'dial near = 60 cm from 5 cm to 90 cm\n\nwhen bumper_left.pressed or sonar.distance < near for 0.1 s\n  halt\nwhen sonar.distance < 1 m\n  drive 15 cm/s\notherwise\n  drive 30 cm/s\n'
  test('names the rule in control, its step, and since when', () => {
    const { ask, ruleAt } = ran(program)
    const took = Array.from({ length: 200 }, (_, t) => t).find(t => ruleAt(t) === 1)!
    expect(ask(took + 5)).toMatchObject({ tick: took + 5, lane: 'main', mode: '', phase: 'rules', control: { line: 5, urgency: 2, took, step: 6, wants: true } })
  })
  test('says of every part above what it was worth, and what it lacked', () => {
    const { ask, simulation } = ran(program)
    const row = simulation.tape.at(20)
    const distance = row[simulation.tape.layout.readings + facts.devices.find(d => d.name === 'sonar')!.first]!
    const said = ask(20)!
    expect(said.control).toMatchObject({ line: 7, when: null })
    const [pressed, near] = said.above[0]!.when!.parts
    expect(pressed).toMatchObject({ text: 'bumper_left.pressed', truth: false })
    expect(near).toMatchObject({ text: 'sonar.distance < near', truth: false, values: [{ text: 'sonar.distance' }, { text: 'near', value: '60 cm' }] })
    expect(near!.missing!.by).toBeCloseTo(0.6 - distance, 9)
    expect(said.above[1]).toMatchObject({ line: 5, wants: false, since: 0 })
  })
  test('a condition that must hold says how long it has', () => {
    const { ask, ruleAt, simulation } = ran(program)
    const took = Array.from({ length: simulation.tape.rows }, (_, t) => t).find(t => ruleAt(t) === 0)!
    const before = ask(took - 2)!.above[0]!
    expect(before.when!.truth).toBe(true)
    expect(before.held!.needs).toBeCloseTo(0.1)
    expect(before.held!.has).toBeGreaterThan(0.02)
    expect(before.held!.has).toBeLessThan(0.14)
  })
  test('in the start, and where no rule wants, there is no rule in control', () => {
    const { ask } = ran('start\n  wait 0.5 s\nwhen sonar.distance < 5 cm -> halt\n')
    expect(ask(10)).toMatchObject({ phase: 'start', control: null })
    expect(ask(60)).toMatchObject({ phase: 'rules', control: null, above: [{ line: 3, wants: false }] })
  })
  test('a rule that acted once says so; modes and memories are read as they were', () => {
    const { ask } = ran('memory seen = 0\nmode peek\n  when run.time > 0.5 s -> go on_way\nmode on_way\n  start -> set seen = 7\n  when seen > 5 once -> note "x"\n  when seen < 3 -> halt\n  otherwise -> drive 9 cm/s\n', 2)
    expect(ask(10)).toMatchObject({ mode: 'peek', control: null })
    const said = ask(60)!
    expect(said).toMatchObject({ mode: 'on_way', control: { when: null } })
    // Of its mode, a rule knows no earlier time than the mode.
    expect(said.above[1]!.since).toBe(26)
    expect(said.above[0]).toMatchObject({ done: true, wants: false })
    expect(said.above[1]!.when).toMatchObject({ truth: false, values: [{ text: 'seen', value: '7' }], missing: { by: -4 } })
  })
  test('a signal is true in the tick after it was sent', () => {
    const { ask, simulation } = ran('when every 1 s -> send bell\notherwise -> drive 9 cm/s\nlane b\n  when heard bell -> light lamp red\n', 3)
    const sent = simulation.tape.events.find(e => e.type === 'signal')!.tick
    expect(ask(sent + 1, 1)!.above.concat(ask(sent + 1, 1)!.control ?? []).map(r => r.when!.truth)).toEqual([true])
    expect(ask(sent + 2, 1)!.above.map(r => r.when!.truth)).toEqual([false])
  })
  test('what is not on the tape has no answer', () => {
    const { ask } = ran(program, 1)
    expect([ask(-1), ask(5000), ask(3, 7)]).toEqual([null, null, null])
  })
})

describe('a moment of every', () => {
  test('is told in its tick, counted from the mode, or from the first mode for rules above all', () => {
    const program = 'when every 0.3 s -> note "above"\nmode a\n  when mode.time > 0.5 s -> go b\n  otherwise -> halt\nmode b\n  when every 0.1 s -> note "in b"\n  otherwise -> halt\n'
    const { ask, simulation } = ran(program, 2)
    const told = (text: string): number[] => simulation.tape.events.filter(e => e.type === 'note' && e.text === text).map(e => e.tick)
    const asked = (line: number): number[] => Array.from({ length: simulation.tape.rows }, (_, t) => t).filter(t => ask(t)!.above.find(r => r.line === line)?.when?.truth === true)
    expect(told('above').length).toBeGreaterThan(4)
    expect(asked(1)).toEqual(told('above'))
    expect(told('in b').length).toBeGreaterThan(8)
    expect(asked(6)).toEqual(told('in b'))
  })
})

describe('what is true now', () => {
  const program = `memory n = 3
when not (sonar.distance < 1 m or n > 5) for 0.1 s
  if floor.color is yellow
    halt
  else if run.time > 1 s
    drive 9 cm/s
when bumper_left.pressed
  wait until sonar.distance between 1 cm and 2 cm
otherwise -> drive 30 cm/s
`
  test('every part of every condition, where it stands in the text, at any tick', () => {
    const checked = checkProgram(program, facts)
    if (!checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
    const compiled = compileProgram(checked.analysis)
    const simulation = new Simulation({ ...demoParts('fender-quay', null), program: compiled, realism: 'ideal', seed: 1, limit: 3 })
    simulation.runToEnd()
    const { tape } = simulation
    const live = new LiveConditions(checked.analysis, compiled, tape)
    const distance = (tick: number): number => tape.at(tick)[tape.layout.readings + facts.devices.find(d => d.name === 'sonar')!.first]!
    const late = tape.rows - 1
    for (const tick of [0, 60, late]) {
      const found = live.at(tick)
      const [near, many] = found.get(program.indexOf('not ('))!
      expect(near).toMatchObject({ from: program.indexOf('sonar.distance <'), truth: distance(tick) < 1 })
      expect(near!.value).toMatch(/^\d+(\.\d+)? c?m$/)
      expect(many).toEqual({ from: program.indexOf('n > 5'), truth: false, value: '3' })
      expect(found.get(program.indexOf('run.time > 1'))![0]!.truth).toBe(tick * tape.layout.dt > 1)
      expect(found.get(program.indexOf('floor.color'))![0]).toMatchObject({ truth: false })
      expect(found.get(program.indexOf('bumper_left'))).toEqual([{ from: program.indexOf('bumper_left'), truth: false, value: '' }])
      expect(found.get(program.indexOf('sonar.distance between'))![0]).toMatchObject({ truth: false })
    }
    expect(distance(late)).toBeLessThan(distance(0))
  })
})
