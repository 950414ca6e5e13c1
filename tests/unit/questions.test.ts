import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram, compileProgram } from '../../core/language'
import { loadPhysics } from '../../core/physics'
import { lookInto, openRun, originOf, Simulation, type Insight, type KnownReading } from '../../core/simulation'
import type { DeviceFacts } from '../../core/robot'
import { hadControl, lastChange, memoriesSet, wasTrue, why } from '../../core/why'
import { build, demoInputs, demoParts, facts } from './kit'

beforeAll(loadPhysics)

/** Left and right, a memory, two modes. */
const PROGRAM = `memory turns = 0
mode roam
  when sonar.distance < 70 cm
    set turns = turns + 1
    turn left 90 deg
    if turns > 1 or run.time > 11 s
      go rest
  otherwise -> drive 20 cm/s
mode rest
  when run.time > 100 s -> drive 20 cm/s
  otherwise -> halt
`
function ran(program: string, limit: number) {
  const checked = checkProgram(program, facts)
  if (!checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  const compiled = compileProgram(checked.analysis)
  const simulation = new Simulation({ ...demoParts('fender-quay', null), program: compiled, realism: 'ideal', seed: 1, limit })
  simulation.runToEnd()
  const { tape } = simulation
  const at = (part: string): { from: number, to: number } => ({ from: program.indexOf(part), to: program.indexOf(part) + part.length })
  const ticks = Array.from({ length: tape.rows }, (_, t) => t)
  return { tape, compiled, analysis: checked.analysis, at, ticks, control: (t: number) => tape.value(t, tape.layout.lanes + 2), mode: (t: number) => tape.value(t, tape.layout.lanes + 1) }
}

describe('when a rule had control', () => {
  test('is the stretch before, not the one that goes on', () => {
    const { tape, ticks, control } = ran(PROGRAM, 12)
    const began = ticks.find(t => control(t) === 0)!
    const ended = ticks.find(t => t > began && control(t) !== 0)!
    expect(hadControl(tape, 0, 0, ended + 3)).toEqual({ from: began, to: ended })
    expect(hadControl(tape, 0, 0, began + 1), 'the first time is going on').toBeNull()
    expect(hadControl(tape, 0, 1, began)).toEqual({ from: 0, to: began })
    expect(hadControl(tape, 0, 2, tape.rows - 1), 'it never had').toBeNull()
  })
})

describe('when a part of a condition was true', () => {
  test('is found in the ticks of its mode, as the tape has its readings', () => {
    const { tape, compiled, analysis, at, ticks, mode } = ran(PROGRAM.replace('turns > 1', 'turns > 0'), 12)
    const near = at('sonar.distance < 70 cm')
    const column = tape.layout.readings + facts.devices.find(d => d.name === 'sonar')!.first
    const holds = (t: number): boolean => mode(t) === 0 && tape.value(t, column) < 0.7
    const last = ticks.findLast(holds)!
    const first = ticks.findLast(t => t < last && !holds(t))! + 1
    expect(mode(tape.rows - 1)).toBe(1)
    expect(wasTrue(analysis, compiled, tape, 0, 0, near, tape.rows - 1)).toEqual({ from: first, to: last + 1 })
    expect(wasTrue(analysis, compiled, tape, 0, 2, at('run.time > 100 s'), tape.rows - 1)).toBeNull()
    expect(wasTrue(analysis, compiled, tape, 0, 0, near, 3), 'not yet').toBeNull()
  })
  test('a part that is none of the rule’s, and a rule that there is not, have no answer', () => {
    const { tape, compiled, analysis, at } = ran(PROGRAM, 1)
    expect([wasTrue(analysis, compiled, tape, 0, 1, at('run.time > 100 s'), 20), wasTrue(analysis, compiled, tape, 0, 9, at('run.time > 100 s'), 20), wasTrue(analysis, compiled, tape, 3, 0, at('run.time > 100 s'), 20)]).toEqual([null, null, null])
  })
})

describe('when a memory changed', () => {
  test('is the tick of its latest value; null while it is what it began with', () => {
    const { tape, compiled, ticks, control } = ran(PROGRAM, 12)
    const began = ticks.find(t => control(t) === 0)!
    expect(lastChange(tape, 0, began)).toBe(began)
    expect(lastChange(tape, 0, began + 5)).toBe(began)
    expect(lastChange(tape, 0, began - 1)).toBeNull()
    expect(memoriesSet(compiled, tape, began + 5)).toEqual([{ name: 'turns', at: began }])
    expect(memoriesSet(compiled, tape, began - 1)).toEqual([])
  })
})

describe('looking into a tick', () => {
  function insights(simulation: Simulation): Insight[] {
    const all: Insight[] = []
    for (let next = lookInto(simulation); next !== null; next = lookInto(simulation)) all.push(next)
    return all
  }
  test('changes nothing of the run', () => {
    const [plain, asked] = [build('limpet', PROGRAM, { realism: 'rough', limit: 4 }), build('limpet', PROGRAM, { realism: 'rough', limit: 4 })]
    plain.runToEnd()
    expect(insights(asked)).toHaveLength(200)
    expect(asked.tape.digest()).toBe(plain.tape.digest())
  })
  test('tells which line moves the wheels and which sets a memory, in its tick alone', () => {
    const simulation = build('limpet', PROGRAM, { limit: 30, arena: { walls: [{ from: ['2.5 m', '0 m'], to: ['2.5 m', '2 m'], height: '20 cm' }, { from: ['0 m', '2 m'], to: ['2.5 m', '2 m'], height: '20 cm' }] } })
    const all = insights(simulation)
    const { layout } = simulation.tape
    const set = all.filter(i => i.set.length > 0)
    expect(set.map(i => i.set)).toEqual(set.map(() => [{ name: 'turns', lane: 'main', line: 4 }]))
    expect(set.length).toBeGreaterThan(1)
    for (const { tick } of set) expect(simulation.tape.value(tick, layout.named)).toBe(simulation.tape.value(tick - 1, layout.named) + 1)
    expect(all[3]!.moving).toEqual([{ name: 'wheels', lane: 'main', line: 8 }])
    expect(all[set[0]!.tick + 2]!.moving).toEqual([{ name: 'wheels', lane: 'main', line: 5 }])
    // Lines that stand still are told too: `halt` holds the wheels.
    expect(all.at(-1)!.moving).toEqual([{ name: 'wheels', lane: 'main', line: 11 }])
  })
  test('a sonar that drives at a wall says what was true a look ago; an ideal one would say what is true', () => {
    const drive = 'otherwise -> drive 20 cm/s\n'
    const walls = { walls: [{ from: ['3 m', '0 m'], to: ['3 m', '2 m'], height: '20 cm' }] }
    const all = insights(build('limpet', drive, { limit: 5, realism: 'rough', arena: walls }))
    const sonar = facts.devices.find(d => d.name === 'sonar')!
    const known = all.slice(100).map(i => i.known.find(k => k.reading === sonar.first)!)
    const truths = known.map(k => k.truth)
    // Nearer with every tick, by 20 cm/s and the wheels' unevenness: noise would show.
    for (let t = 1; t < truths.length; t++) expect(truths[t - 1]! - truths[t]!).toBeCloseTo(0.2 * 0.02, 2)
    for (const { age } of known) expect(age).toBeLessThan(0.3)
    expect(known.some(k => k.age > 0)).toBe(true)
    expect(known.some(k => Math.abs(k.said - k.truth) > 0.005)).toBe(true)
  })
  test('a gyro that drifts is told beside which way it truly faces', () => {
    const simulation = build('limpet', 'otherwise -> turn right 90 deg/s\n', { limit: 20, realism: 'rough' })
    const began = simulation.pose().yaw
    const gyro = facts.devices.find(d => d.name === 'gyro')!
    const at = (name: string): number => gyro.first + gyro.readings.findIndex(r => r.name === name)
    let off = 0
    for (let i = 0; i < 900; i++) {
      const { yaw } = simulation.pose()
      const { known } = lookInto(simulation)!
      const heading = known.find(k => k.reading === at('heading'))!
      expect(Math.cos(heading.truth - (began - yaw))).toBeCloseTo(1, 9)
      off = Math.max(off, Math.abs(Math.atan2(Math.sin(heading.said - heading.truth), Math.cos(heading.said - heading.truth))))
    }
    expect(off).toBeGreaterThan(0.05)
    expect(lookInto(simulation)!.known.find(k => k.reading === at('rate'))!.truth * 180 / Math.PI).toBeCloseTo(90, -1)
  })
  test('what is true of a sum is told from its last reset on: a gyro that drifts, wheels that spin', () => {
    const program = 'start\n  turn right 90 deg\n  reset gyro.turned\n  turn left 200 deg\n  reset wheels.travel\n  drive 60 cm at 60 cm/s\n'
    const simulation = build('limpet', program, { limit: 20, realism: 'rough', arena: { floor: { friction: 0.05 } } })
    const [gyro, wheels] = ['gyro', 'wheels'].map(name => facts.devices.find(d => d.name === name)!) as [DeviceFacts, DeviceFacts]
    const [turned, travel] = [gyro.first, wheels.first + 1]
    const resets: number[] = []
    let way = { turned: 0, forward: 0 }
    let before = simulation.pose()
    let apart = [0, 0]
    for (;;) {
      const pose = simulation.pose()
      const step = Math.atan2(Math.sin(before.yaw - pose.yaw), Math.cos(before.yaw - pose.yaw))
      const along = pose.yaw + step / 2
      way = { turned: way.turned + step, forward: way.forward + (pose.x - before.x) * Math.cos(along) + (pose.y - before.y) * Math.sin(along) }
      before = pose
      const insight = lookInto(simulation)
      if (insight === null) break
      for (const reading of [turned, travel]) if (simulation.resetAt(reading) === insight.tick) { resets.push(reading); way = { turned: reading === turned ? 0 : way.turned, forward: reading === travel ? 0 : way.forward } }
      const told = (reading: number): KnownReading => insight.known.find(k => k.reading === reading)!
      expect(told(turned).truth).toBeCloseTo(way.turned, 4)
      expect(told(travel).truth).toBeCloseTo(way.forward, 3)
      apart = [Math.max(apart[0]!, Math.abs(told(turned).said - told(turned).truth)), Math.max(apart[1]!, told(travel).said - told(travel).truth)]
    }
    expect(resets).toEqual([turned, travel])
    expect(before.yaw).not.toBe(0)
    expect(apart[0]).toBeGreaterThan(0.005)
    expect(apart[1]).toBeGreaterThan(0.05)
  })
  test('wheels that spin on a smooth floor are told beside how fast it truly goes', () => {
    const simulation = build('limpet', 'otherwise -> drive 60 cm/s\n', { limit: 3, arena: { floor: { friction: 0.05 } } })
    const speed = facts.devices.find(d => d.name === 'wheels')!.first
    const known = insights(simulation).map(i => i.known.find(k => k.reading === speed)!)
    expect(Math.max(...known.map(k => k.said - k.truth))).toBeGreaterThan(0.2)
    expect(known.at(-1)!.truth).toBeGreaterThan(0.1)
    // On a rough one it goes as the wheels roll, once it has set off.
    const firm = insights(build('limpet', 'otherwise -> drive 20 cm/s\n', { limit: 2 })).map(i => i.known.find(k => k.reading === speed)!)
    for (const k of firm.slice(60)) expect(Math.abs(k.said - k.truth)).toBeLessThan(0.01)
  })
  test('an ideal sensor without delay says what is true', () => {
    const all = insights(build('limpet', 'otherwise -> halt\n', { limit: 2 }))
    const { said, truth } = all[60]!.known.find(k => k.device === 'sonar')!
    expect(said).toBe(truth)
  })
})

describe('other noise from an instant on', () => {
  const inputs = (seed: number | null, tick = 100) => ({ ...demoInputs('night-rounds', { realism: 'rough', seed: 3 }), limit: 6, pokes: seed === null ? [] : [{ poke: 'draw' as const, seed, tick }] })
  async function rows(seed: number | null): Promise<Simulation> {
    const opened = await openRun(inputs(seed))
    if (!opened.ok) throw new Error(JSON.stringify(opened.problems))
    opened.simulation.runToEnd()
    return opened.simulation
  }
  test('is the same run until then and another after it, by its seed', async () => {
    const [plain, one, again, other] = [await rows(null), await rows(1), await rows(1), await rows(2)]
    const apart = (a: Simulation, b: Simulation): number => Array.from({ length: 300 }, (_, t) => t).findIndex(t => a.tape.at(t).some((x, i) => !Object.is(x, b.tape.at(t)[i])))
    expect(apart(one, again)).toBe(-1)
    for (const [a, b] of [[plain, one], [plain, other], [one, other]] as const) { expect(apart(a, b)).toBeGreaterThanOrEqual(100); expect(apart(a, b)).toBeLessThan(110) }
    expect(one.tape.events.filter(e => e.type === 'poke')).toEqual([expect.objectContaining({ tick: 100, about: 'noise', text: 'other noise, 1' })])
  })
  test('what the program draws is other too', () => {
    const program = 'memory x = 0\nwhen every 0.1 s -> set x = random 0 to 1\notherwise -> halt\n'
    const drawn = (seed: number | null): readonly number[] => {
      const s = build('limpet', program, { limit: 4 })
      for (let t = 0; t < 200; t++) { if (t === 100 && seed !== null) s.poke({ poke: 'draw', seed }); s.advance() }
      return Array.from({ length: 200 }, (_, t) => s.tape.value(t, s.tape.layout.named))
    }
    const [plain, other] = [drawn(null), drawn(5)]
    expect(other.slice(0, 100)).toEqual(plain.slice(0, 100))
    expect(other.slice(110)).not.toEqual(plain.slice(110))
  })
})

test('why is answered on a run that went on from another, of its own ticks', async () => {
  const inputs = { ...demoInputs('night-rounds', { realism: 'typical', seed: 1 }), limit: 6 }
  const opened = await openRun(inputs)
  if (!opened.ok) throw new Error('it cannot run')
  for (let i = 0; i < 100; i++) opened.simulation.advance()
  const known = { program: opened.simulation.input.program, state: opened.simulation.snapshot() }
  const on = await openRun({ ...inputs, from: originOf(inputs, opened.simulation, 100, opened.simulation.tape.digest()) }, known)
  if (!on.ok) throw new Error('it cannot go on')
  on.simulation.runToEnd()
  const { tape, input: { program } } = on.simulation
  const said = program!.lanes.map((_, lane) => why(on.analysis, program!, tape, 101, lane)!)
  for (const rule of said.flatMap(s => s.above)) expect(rule.since).toBeGreaterThanOrEqual(0)
  expect(said.map(s => s.tick)).toEqual(program!.lanes.map(() => 101))
  expect(why(on.analysis, program!, tape, 99, 0)).toBeNull()
})
