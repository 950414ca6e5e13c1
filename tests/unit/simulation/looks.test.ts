import { beforeAll, describe, expect, test } from 'vitest'
import { readArena } from '../../../core/arena'
import { checkProgram, compileProgram } from '../../../core/language'
import { loadPhysics } from '../../../core/physics'
import { factsOf, lookRound, readRobot } from '../../../core/robot'
import { Simulation, startProblem } from '../../../core/simulation'
import { Senses } from '../../../core/simulation/senses'
import { readTask } from '../../../core/task'
import { demo } from '../kit'

/** When devices look; falls, starts and sizes. */

beforeAll(() => loadPhysics())

type Doc = Record<string, unknown> & { devices: { name: string, settings?: Record<string, unknown> }[] }

function build(options: { arena?: object, task?: object, program?: string, change?: (d: Doc) => void, limit?: number } = {}): Simulation {
  const document = structuredClone(demo('robots/limpet.json')) as Doc
  options.change?.(document)
  const robot = readRobot(document)
  const arena = readArena({ mindpath: 'arena', version: 1, name: 'deck', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'] }, ...options.arena })
  if (!robot.ok || !arena.ok) throw new Error(JSON.stringify([robot, arena]))
  const task = options.task === undefined ? null : readTask({ mindpath: 'task', version: 1, name: 't', title: 't', goals: [], ...options.task }, arena.value)
  if (task !== null && !task.ok) throw new Error(JSON.stringify(task.problems))
  const checked = options.program === undefined ? null : checkProgram(options.program, factsOf(robot.value))
  return new Simulation({ program: checked === null ? null : compileProgram(checked.analysis), robot: robot.value, arena: arena.value, task: task?.value ?? null, realism: 'ideal', seed: 1, limit: options.limit ?? 4 })
}

describe('looks', () => {
  test('of a device every 50 ms come 20 times a second, though ticks are 20 ms long, and what it sees is 10 ms old', () => {
    // The sonar looks at a wall that the robot leaves at 20 cm/s: each reading is of its own instant.
    const s = build({
      arena: { walls: [{ from: ['1.5 m', '0 m'], to: ['1.5 m', '2 m'] }] }, program: 'otherwise -> drive back 20 cm/s\n', limit: 3,
      change: (d) => { d.devices.find(x => x.name === 'sonar')!.settings = { period: '50 ms', latency: '10 ms', cone: '2 deg' } },
    })
    const sonar = s.facts.devices.find(d => d.name === 'sonar')!
    const seen: { tick: number, distance: number, x: number }[] = []
    while (s.end === null) {
      s.advance()
      const row = s.tape.at(s.tape.rows - 1)
      const distance = row[s.tape.layout.readings + sonar.first]!
      if (distance !== seen.at(-1)?.distance) seen.push({ tick: s.tape.rows - 1, distance, x: row[s.tape.layout.body]! })
    }
    const steady = seen.filter(l => l.tick > 75)
    // 1.5 s at 20 looks a second.
    expect(steady.length).toBeGreaterThan(28)
    expect(steady.length).toBeLessThan(32)
    // Every 50 ms it is 10 mm farther away, look for look, to the millimetre that it tells.
    const steps = steady.slice(1).map((l, i) => l.distance - steady[i]!.distance)
    for (const step of steps) expect(Math.abs(step - 0.01)).toBeLessThan(0.0016)
  })
})

describe('what has no time of its own', () => {
  test('is looked at once with every tick, wheels and bumpers alike, also after an hour of ticks', () => {
    const { input, facts } = build()
    const quiet = { scene: { cast: () => false }, pressOn: () => 0 } as never
    const robot = { ...input.robot, fitted: input.robot.fitted.filter(d => d.kind.kind === 'wheels' || d.kind.kind === 'bumper') }
    const senses = new Senses(robot, facts, 'ideal', 1, () => quiet)
    senses.first()
    const ticks = 3600 / facts.tick
    for (let tick = 1; tick <= ticks; tick++) {
      senses.update(tick * facts.tick, tick)
      if (senses.isDue((tick + 0.5) * facts.tick)) senses.between((tick + 0.5) * facts.tick, tick + 1)
    }
    const looks = robot.fitted.map(d => senses.looks[facts.devices.find(f => f.name === d.name)!.first])
    expect(looks.length).toBeGreaterThan(1)
    expect(new Set(looks)).toEqual(new Set([ticks + 1]))
  })

  test('waits for no other of its kind: two colour sensors look at the same times', () => {
    const s = build({ change: (d) => {
      const floor = d.devices.find(x => x.name === 'sonar')!
      d.devices = [{ ...floor, name: 'one', kind: 'color', port: 'P6', settings: {} } as never, { ...floor, name: 'two', kind: 'color', port: 'P7', settings: {} } as never]
    } })
    const [one, two] = lookRound(s.input.robot, 'ideal').filter(l => l.period > 0)
    expect(two).toMatchObject({ due: one!.due, round: one!.round })
  })
})

describe('a fall', () => {
  const off = { arena: { decks: [{ at: ['1 m', '1 m'], size: ['60 cm', '60 cm'] }], surround: 'water' }, program: 'otherwise -> drive 30 cm/s\n', limit: 12 } as const
  test('ends the run a second later and says so', () => {
    const s = build(off)
    expect(s.runToEnd()).toMatchObject({ ended: 'fell', reason: 'the robot fell off the deck' })
    expect(s.falls).toBe(1)
    expect(s.time).toBeLessThan(5)
  })
  test('ends nothing where the task says that it goes on', () => {
    expect(build({ ...off, task: { falls: 'go on', limit: '6 s' }, limit: 6 }).runToEnd()).toMatchObject({ ended: 'time' })
  })
})

describe('a start', () => {
  test('inside of something fixed or off every deck is told with its place; beside it, or among loose things, is none', () => {
    const crate = (x: string, fixed: boolean) => ({ pieces: [{ kind: 'crate', shape: 'box', length: '20 cm', width: '20 cm', height: '20 cm', at: [x, '1 m'], fixed }] })
    expect(startProblem(build({ arena: crate('1.1 m', true) }))).toMatchObject({ document: 'arena', path: 'start', value: '1 m, 1 m', message: expect.stringContaining('inside of crate') as string })
    expect(startProblem(build({ arena: crate('1.1 m', false) }))).toBeNull()
    expect(startProblem(build({ arena: crate('1.3 m', true) }))).toBeNull()
    expect(startProblem(build({ arena: { start: { at: ['5 m', '1 m'] } } }))).toMatchObject({ message: expect.stringContaining('off every deck') as string })
  })
})

describe('a visitor', () => {
  test.each([0.2, 1, 2])('of %f m/s pushes a robot aside no faster than he goes', (speed) => {
    const s = build({ arena: { visitors: [{ name: 'ann', path: [['20 cm', '1 m'], ['3.8 m', '1 m']], speed: `${speed} m/s`, returns: false }] } })
    let fastest = 0
    let before = s.pose()
    while (s.end === null) {
      s.advance()
      const now = s.pose()
      fastest = Math.max(fastest, Math.hypot(now.x - before.x, now.y - before.y) / s.facts.tick)
      before = now
    }
    expect(fastest).toBeLessThan(1.12 * speed)
    expect(fastest).toBeGreaterThan(0.5 * speed)
  })
})

describe('an arena', () => {
  test('in which something finds no room is refused with its place, and pieces that find none are told', () => {
    const narrow = { at: ['1 m', '1 m'], size: ['10 cm', '10 cm'] }
    expect(startProblem(build({ arena: { crates: [{ name: 'crib', size: ['40 cm', '30 cm'], area: narrow }] } }))).toMatchObject({ document: 'arena', path: 'crates[0].area', value: 'seed 1' })
    const s = build({ arena: { scatter: [{ kind: 'pot', shape: 'cylinder', diameter: '10 cm', height: '8 cm', count: 2, area: narrow }] } })
    expect(s.tape.events.map(e => [e.type, e.text])).toEqual([['arena', 'no room for 2 of the pots that are scattered']])
  })
  const problems = (fields: object): string => { const read = readArena({ mindpath: 'arena', version: 1, name: 'a', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'] }, ...fields }); return read.ok ? '' : read.problems.map(p => `${p.path}: ${p.message}`).join('; ') }
  test('takes no sizes below zero, and feeders with a pause and an end', () => {
    expect(problems({ decks: [{ at: ['1 m', '1 m'], size: ['-1 m', '1 m'] }] })).toContain('decks[0].size: expected a size')
    const feeder = (every: string, count: number) => ({ belts: [{ name: 'b', at: ['1 m', '1 m'], size: ['80 cm', '20 cm'], feeder: { every, items: [{ kind: 'x', shape: 'cylinder', diameter: '4 cm', height: '4 cm', count }, { kind: 'y', shape: 'cylinder', diameter: '4 cm', height: '4 cm', count }] } }] })
    expect(problems(feeder('0 s', 4))).toContain('belts[0].feeder.every: allowed is from')
    expect(problems(feeder('1 s', 50))).toContain('allowed are up to 60 pieces')
    expect(problems(feeder('1 s', 20))).toBe('')
  })
})
