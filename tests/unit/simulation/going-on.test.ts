import { describe, expect, test } from 'vitest'
import { readFolder } from '../../../cli/project'
import { RandomStream } from '../../../core/random'
import { openRun, originOf, readRecord, recordOf, replay, type Known, type OpenedRun, type RunInputs, type RunRecord, type Simulation } from '../../../core/simulation'

/** A run that goes on from an instant of another. */

async function inputsOf(project: string, limit = 15): Promise<RunInputs> {
  const { documents, program } = await readFolder(`demo/projects/${project}`)
  return { ...documents, program, realism: 'rough', seed: 4, limit }
}
async function open(inputs: RunInputs, known: Known | null = null): Promise<OpenedRun> {
  const opened = await openRun(inputs, known)
  if (!opened.ok) throw new Error(JSON.stringify([opened.problems, opened.diagnostics]))
  return opened
}
const advance = ({ simulation }: OpenedRun, ticks: number): Simulation => {
  for (let i = 0; i < ticks && simulation.end === null; i++) simulation.advance()
  return simulation
}
/** A run's origin after so many ticks, and its state there. */
async function left(inputs: RunInputs, ticks: number): Promise<{ readonly from: NonNullable<RunInputs['from']>, readonly known: Known }> {
  const simulation = advance(await open(inputs), ticks)
  const from = originOf(inputs, simulation, ticks, simulation.tape.digest())
  const known = { program: simulation.input.program, state: simulation.snapshot() }
  simulation.free()
  return { from, known }
}
const written = (record: RunRecord): unknown => JSON.parse(JSON.stringify(record))
async function again(record: RunRecord): Promise<boolean> {
  const read = readRecord(written(record))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const done = await replay(read.value)
  if (!done.ok) throw new Error(JSON.stringify(done.problems))
  done.simulation.free()
  return done.same
}

describe('with the program as it was', () => {
  test.each(['night-rounds', 'lids-home', 'startle', 'follow-the-hawser'])('%s comes to what it would have come to, from ten instants of it', async (project) => {
    const inputs = await inputsOf(project, 6)
    const whole = advance(await open(inputs), Infinity)
    const drawn = RandomStream.named(1, project)
    for (let i = 0; i < 10; i++) {
      const ticks = i === 0 ? 0 : Math.floor(drawn.unit() * (whole.tape.rows - 1))
      const { from, known } = await left(inputs, ticks)
      // From the state at hand, and once by running the origin again.
      const opened = await open({ ...inputs, from }, i === 1 ? null : known)
      expect(opened.carried).toEqual([])
      const simulation = advance(opened, Infinity)
      expect([simulation.tape.digest(), simulation.tape.rows, simulation.end], `${project} from ${ticks}`).toEqual([whole.tape.digest(), whole.tape.rows, whole.end])
      simulation.free()
    }
    whole.free()
  })
})

describe('with another program', () => {
  const PROGRAM = 'dial near = 30 cm from 5 cm to 90 cm\nmemory turns = 0\n\nmode roam\n  when sonar.distance < near\n    set turns = turns + 1\n    turn right 90 deg\n  otherwise -> drive 20 cm/s\n'
  const goingOn = async (changed: string): Promise<{ readonly told: readonly string[], readonly first: Simulation, readonly record: RunRecord }> => {
    const inputs = { ...await inputsOf('night-rounds'), program: PROGRAM }
    const { from, known } = await left(inputs, 300)
    const next = { ...inputs, program: changed, from }
    const opened = await open(next, known)
    const told = opened.carried.filter(c => !c.goesOn).map(c => `${c.part} ${c.name}: ${c.why}`)
    advance(opened, 200)
    return { told, first: opened.simulation, record: recordOf('changed', next, opened.simulation) }
  }
  const turnsAt = ({ tape }: Simulation, tick: number): number => tape.value(tick, tape.layout.named + 1)

  test.each<[what: string, changed: string, told: readonly string[]]>([
    ['a rule added above', PROGRAM.replace('  when sonar', '  when bumper_left.pressed -> drive back 10 cm\n  when sonar'), ['rule main, roam: it is new']],
    ['a memory added', PROGRAM.replace('memory turns', 'memory other = 7\nmemory turns'), ['memory other: it is new']],
    ['a mode renamed', PROGRAM.replace('mode roam', 'mode wander'), ['lane main: its mode roam is gone']],
    ['a dial changed in the text', PROGRAM.replace('near = 30 cm', 'near = 45 cm'), []],
  ])('%s: what goes on is as it was, what does not is said; and it is the same again from its record', async (_, changed, told) => {
    const { told: said, first, record } = await goingOn(changed)
    expect(said).toEqual(told)
    expect(first.tape.first).toBe(300)
    expect(record.from).toMatchObject({ program: PROGRAM, ticks: 300 })
    expect(await again(record)).toBe(true)
    first.free()
  })

  test('a memory keeps what it had; a routine that is gone takes nothing else with it', async () => {
    const routine = `${PROGRAM.replace('turn right 90 deg', 'do away')}\nroutine away\n  turn right 90 deg\n`
    const inputs = { ...await inputsOf('night-rounds'), program: routine }
    const { from, known } = await left(inputs, 600)
    const next = { ...inputs, program: PROGRAM, from }
    const before = advance(await open(inputs), 600)
    const opened = await open(next, known)
    const after = advance(opened, 1)
    expect(turnsAt(before, 599)).toBeGreaterThan(0)
    expect(turnsAt(after, 600)).toBe(turnsAt(before, 599))
    expect(opened.carried.find(c => c.part === 'memory')).toMatchObject({ goesOn: true })
    before.free()
    after.free()
  })

  test('goes on from a run that went on from another, hands in each', async () => {
    const { from, known } = await left({ ...await inputsOf('night-rounds'), program: PROGRAM }, 200)
    const second: RunInputs = { ...await inputsOf('night-rounds'), program: PROGRAM.replace('20 cm/s', '12 cm/s'), from }
    const opened = await open(second, known)
    opened.simulation.poke({ poke: 'carry', forward: 0.05, right: 0.5 })
    advance(opened, 100)
    const third: RunInputs = { ...second, program: PROGRAM, from: originOf(second, opened.simulation, 300, opened.simulation.tape.digest()) }
    const last = await open(third, { program: opened.simulation.input.program, state: opened.simulation.snapshot() })
    last.simulation.poke({ poke: 'clap', x: 0.5, y: 0.5 })
    advance(last, 100)
    const record = recordOf('third', third, last.simulation)
    expect([record.pokes.length, record.from?.pokes.length, record.from?.from?.pokes.length]).toEqual([1, 1, 0])
    expect(await again(record)).toBe(true)
    expect(await again({ ...record, pokes: [] })).toBe(false)
    opened.simulation.free()
    last.simulation.free()
  })

  test('an instant that the other never came to is refused, and says where it ended', async () => {
    const inputs = await inputsOf('night-rounds', 2)
    const { from } = await left(inputs, 50)
    const opened = await openRun({ ...inputs, from: { ...from, ticks: 5000 } })
    expect(opened).toMatchObject({ ok: false, problems: [{ document: 'run', path: 'from.ticks', value: '5000', message: 'the run that it goes on from is over after 100 ticks; allowed is a whole number below that' }] })
  })
})
