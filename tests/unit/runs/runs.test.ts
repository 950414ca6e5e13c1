import { spawnSync } from 'node:child_process'
import { describe, expect, test } from 'vitest'
import { readFolder } from '../../../cli/project'
import { apart, columnsOf, csvOf, firstDifference, outlineOf, placeColumns, standingOf, type Compared } from '../../../core/runs'
import { readKept, writeKept, type KeptRun } from '../../../core/runs/kept'
import { openRun, replay, type RunInputs, type Simulation } from '../../../core/simulation'
import { layoutOf, Tape, writeTape } from '../../../core/tape'
import { demoProjects } from '../../../prove/fingerprints'
import { sampled } from '../../sample'

/** Runs as they are kept, summed up, compared and written out. */

async function inputsOf(project: string, seed = 2, limit = 8): Promise<RunInputs> {
  const { documents, program } = await readFolder(`demo/projects/${project}`)
  return { ...documents, program, realism: 'typical', seed, limit }
}
/** A run to its end, or as far as it came in so many ticks. */
async function ran(inputs: RunInputs, ticks = Infinity): Promise<Simulation> {
  const opened = await openRun(inputs)
  if (!opened.ok) throw new Error(JSON.stringify([opened.problems, opened.diagnostics]))
  const { simulation } = opened
  for (let i = 0; i < ticks && simulation.end === null; i++) simulation.advance()
  return simulation
}
function read(bytes: Uint8Array): KeptRun {
  const kept = readKept(bytes)
  if (!kept.ok) throw new Error(JSON.stringify(kept.problems))
  return kept.value
}
async function keptRun(inputs: RunInputs, ticks = Infinity): Promise<KeptRun> {
  const simulation = await ran(inputs, ticks)
  const kept = read(writeKept('under test', inputs, simulation))
  simulation.free()
  return kept
}
const compared = ({ tape, context }: KeptRun): Compared => ({ tape, facts: context.facts, program: context.map })

describe('a kept run', () => {
  test.each(sampled(demoProjects(), 5, 1))('%s comes back from its file, and is the same to the bit when it is run again', async (project) => {
    const inputs = await inputsOf(project, 3, 6)
    const simulation = await ran(inputs)
    const kept = read(writeKept('under test', inputs, simulation))
    expect(kept.record).toMatchObject({ title: 'under test', seed: 3, ticks: simulation.tape.rows, fingerprint: simulation.tape.digest() })
    expect(kept.standing).toEqual(JSON.parse(JSON.stringify(standingOf(simulation))))
    // The tape ends before the last tick's move.
    expect(Math.abs(outlineOf(compared(kept), kept.standing).path - simulation.pathLength)).toBeLessThan(0.015)
    const again = await replay(kept.record)
    expect(again).toMatchObject({ ok: true, same: true })
    if (again.ok) again.simulation.free()
    simulation.free()
  })

  test('what is cut off, changed, or something else is refused, and says what it is', async () => {
    const inputs = await inputsOf('kiss-the-fender', 1, 1)
    const simulation = await ran(inputs)
    const bytes = writeKept('under test', inputs, simulation)
    const why = (changed: Uint8Array): string => { const kept = readKept(changed); return kept.ok ? '' : kept.problems.map(p => `${p.path}: ${p.message}`).join('; ') }
    expect(why(bytes)).toBe('')
    expect(why(bytes.subarray(0, bytes.length - 5))).toContain('cut off')
    expect(why(Uint8Array.from(bytes, (b, i) => i === 4000 ? b ^ 1 : b))).toContain('cut off, or was changed')
    expect(why(new Uint8Array(0))).toBe('the file: this is no tape')
    expect(why(writeTape(simulation.tape, '', { mindpath: 'a picture' }))).toContain('expected "kept run"')
    // A tape of another robot under this one's record.
    const other = new Tape({ ...layoutOf({ readingCount: 3, actuators: [], tick: 0.02 } as never, [], 0, [], [], [], 0) })
    const record = read(bytes)
    expect(why(writeTape(other, '', { mindpath: 'kept run', record: record.record, standing: record.standing }))).toContain('its tape does not fit its robot and program')
    simulation.free()
  })

  test('a head that says too much is refused before room is made for it', () => {
    const layout = { ...layoutOf({ readingCount: 1, actuators: [], tick: 0.02 } as never, [], 0, [], [], [], 0) }
    const kept = readKept(writeTape(new Tape({ ...layout, pieces: 2_000_000 }), '', {}))
    expect(kept.ok ? '' : kept.problems[0]!.message).toContain('layout.pieces')
  })
})

describe('the outline of a run', () => {
  test('says how it ended, which goals were met when, what it touched, and who had control for how long', async () => {
    const kept = await keptRun(await inputsOf('kiss-the-fender', 4, 20))
    const outline = outlineOf(compared(kept), kept.standing)
    expect(outline).toMatchObject({ ended: 'finished', reason: 'alongside', falls: 0, takeovers: 1, contacts: [], notes: 1 })
    expect(outline.goals.map(g => g.status)).toEqual(['met', 'met', 'met'])
    expect(outline.path).toBeCloseTo(1.79, 1)
    // Straight ahead: as far away as it went.
    expect(outline.away).toBeCloseTo(outline.path, 1)
    expect(outline.rules.map(r => r.urgency)).toEqual([1, 2])
    expect(outline.rules.reduce((sum, r) => sum + r.share, 0)).toBeCloseTo(1, 6)
  })

  test('contacts are counted by kind, the most frequent first; a run that was left says so', () => {
    const tape = new Tape(layoutOf({ readingCount: 0, actuators: [], tick: 0.02 } as never, [], 0, [], [], [], 0))
    for (let i = 0; i < 50; i++) { tape.row[tape.layout.body] = i * 0.01; tape.commit() }
    for (const about of ['float_1', 'wall', 'float_2', 'fender']) tape.event({ tick: 1, type: 'contact', text: '', about })
    const outline = outlineOf({ tape, facts: { actuators: [], devices: [] } as never, program: null }, { end: null, goals: [] })
    expect(outline.contacts).toEqual([{ what: 'float', times: 2 }, { what: 'fender', times: 1 }, { what: 'wall', times: 1 }])
    expect([outline.ended, outline.time, outline.path, outline.away]).toEqual(['left', 1, expect.closeTo(0.49, 9), expect.closeTo(0.49, 9)])
  })
})

describe('the first difference of two runs', () => {
  test('of the same run there is none; of one that was left, the end of it', async () => {
    const inputs = await inputsOf('night-rounds', 1, 3)
    const whole = compared(await keptRun(inputs))
    expect(firstDifference(whole, compared(await keptRun(inputs)))).toEqual({ found: 'none', dials: [] })
    expect(firstDifference(whole, compared(await keptRun(inputs, 40)))).toEqual({ found: 'length', dials: [], tick: 40, time: 0.8 })
  })

  test('a hand before the sonar: first what it read, then what that made true, then who took over', async () => {
    const inputs = await inputsOf('night-rounds', 1, 3)
    const a = compared(await keptRun(inputs))
    const b = compared(await keptRun({ ...inputs, pokes: [{ tick: 10, poke: 'hand', device: 'sonar', distance: 0.1 } as never] }))
    const found = firstDifference(a, b)
    if (found.found !== 'difference') throw new Error(found.found)
    expect(found.tick).toBeGreaterThanOrEqual(10)
    expect(found.what[0]).toMatchObject({ what: 'senses', title: 'sonar.distance' })
    const control = found.what.find(d => d.what === 'control')
    expect(control).toMatchObject({ title: 'main', saidA: 'rule 2, otherwise', saidB: 'rule 1, when sonar.distance < 35 cm' })
    expect(found.what.findIndex(d => d.what === 'rules')).toBeLessThan(found.what.indexOf(control!))
  })

  test('another dial is told apart, and what came of it is found', async () => {
    const inputs = await inputsOf('kiss-the-fender', 4, 20)
    const found = firstDifference(compared(await keptRun(inputs)), compared(await keptRun({ ...inputs, dials: { near: '20 cm' } })))
    expect(found.dials).toMatchObject([{ title: 'near', a: 0.13, b: 0.2 }])
    expect(found).toMatchObject({ found: 'difference', what: [{ what: 'rules', title: 'rule 1 wants', a: 0, b: 1 }, { what: 'control' }, { what: 'told' }, { what: 'told' }, { what: 'told' }] })
  })

  test('a rule more above does not make the others differ: rules are told apart by what they say', async () => {
    const inputs = await inputsOf('night-rounds', 1, 3)
    const a = compared(await keptRun(inputs))
    const more = inputs.program.replace('when sonar', 'when bumper_left.pressed -> halt\nwhen sonar')
    expect(firstDifference(a, compared(await keptRun({ ...inputs, program: more })))).toEqual({ found: 'none', dials: [] })
    const other = firstDifference(a, compared(await keptRun({ ...inputs, program: more.replace('35 cm', '60 cm') })))
    if (other.found !== 'difference') throw new Error(other.found)
    expect(other.what.slice(0, 2)).toMatchObject([{ what: 'rules', title: 'rule 1 wants', a: 0, b: 1 }, { what: 'control', saidA: 'rule 2, otherwise', saidB: 'rule 2, when sonar.distance < 60 cm' }])
  })

  test('another program is compared in what both have; runs without a common tick are not', async () => {
    const inputs = await inputsOf('night-rounds', 1, 2)
    const a = compared(await keptRun(inputs))
    const b = compared(await keptRun({ ...inputs, program: 'memory n = 1\nlane wheels_lane\n  otherwise -> drive 10 cm/s\n' }))
    const found = firstDifference(a, b)
    // Lanes of another name are not compared: what the wheels were told is, and nothing before it differs.
    if (found.found !== 'difference') throw new Error(found.found)
    expect(found.tick).toBe(0)
    expect(found.what.length).toBeGreaterThan(0)
    for (const { what, title } of found.what) expect([what, title]).toEqual(['told', expect.stringMatching(/^wheels told/)])
    const late = new Tape(a.tape.layout)
    late.rewind({ rows: 500, events: 0, hash: [0, 0] })
    expect(firstDifference(a, { ...a, tape: late }).found).toBe('nothing in common')
    expect(firstDifference(a, { ...a, tape: new Tape({ ...a.tape.layout, dt: 0.01 }) })).toMatchObject({ found: 'nothing in common', why: 'a tick is 20 ms in one and 10 ms in the other' })
  })
})

describe('comma-separated values', () => {
  test('are read by a parser of its own: header with units, every row, what has no value left empty', async () => {
    const { tape, context } = await keptRun(await inputsOf('fetch-the-floats', 2, 12))
    const { facts, map } = context
    const columns = [...columnsOf({ facts, layout: tape.layout, program: map }), ...placeColumns(tape.layout)]
    const text = [...csvOf(tape, facts, columns, 5)].join('')
    expect(text).toMatch(/^[^\n]*\r\n/)
    const { stdout } = spawnSync('python3', ['-c', 'import csv,sys,json; print(json.dumps(list(csv.reader(sys.stdin, strict=True))))'], { input: text, encoding: 'utf8' })
    const [head, ...rows] = JSON.parse(stdout) as string[][]
    expect(head).toEqual(expect.arrayContaining(['time [s]', 'sonar.distance [cm]', 'cam.size(orange) [%]', 'floor.color', 'robot.x [cm]', 'fetched', 'seek rule 1 wants']))
    expect(rows.length).toBe(Math.ceil(tape.rows / 5))
    expect(rows.every(row => row.length === head!.length)).toBe(true)
    const of = (title: string): string[] => rows.map(row => row[head!.indexOf(title)]!)
    rows.forEach((_, i) => {
      const row = tape.at(5 * i)
      const x = columns.find(c => c.title === 'robot.x')!
      expect(Number(of('robot.x [cm]')[i])).toBeCloseTo(row[x.column]! * 100, 3)
    })
    expect(new Set(of('seek rule 1 wants'))).toEqual(new Set(['0', '1']))
    expect(of('floor.color').every(c => facts.colors.includes(c) || c === 'none')).toBe(true)
  })

  test('a name with a comma or a quote is put in quotes', () => {
    const tape = new Tape(layoutOf({ readingCount: 1, actuators: [], tick: 0.02 } as never, [], 0, [], [], [], 0))
    tape.row[0] = Infinity
    tape.commit()
    const [column] = placeColumns(tape.layout)
    expect([...csvOf(tape, { colors: [] }, [{ ...column!, title: 'beacon.distance(1 m, "2 m")', column: 0 }])].join('')).toBe('time [s],"beacon.distance(1 m, ""2 m"") [cm]"\r\n0,\r\n')
  })
})

describe('how far one trace is off another', () => {
  const laid = (values: readonly number[], { every = 1, first = 0, dt = 0.02, zero = 0 } = {}) => ({ trace: { every, first, values: Float32Array.from(values) }, dt, zero })
  test('is told at the same times, in the mean and at the most, whatever the ticks and beginnings are', () => {
    const a = laid([0, 1, 2, 3, 4, 5, 6, 7])
    const found = apart(laid([0, 1.5, 2, 2], {}), a)!
    expect([...found.trace.values]).toEqual([0, 0.5, 0, -1])
    expect(found).toMatchObject({ mean: 0.375, most: 1, at: 0.06 })
    // Every second tick, of ticks twice as long, laid by another instant: 0.04 s of it are 0.06 s of the other.
    expect([...apart(laid([1, 5], { dt: 0.04, every: 1, first: 1, zero: 0.04 }), laid([0, 1, 2, 3, 4, 5, 6, 7], { zero: 0.06 }))!.trace.values]).toEqual([-2, 0])
    expect([...apart(laid([2, 6], { every: 2, first: 2 }), a)!.trace.values]).toEqual([0, 2])
  })
  test('is nothing where one saw nothing, the other had ended, or they have no time in common', () => {
    const found = apart(laid([1, Infinity, 3, 4, 5]), laid([1, 2, 2, Infinity]))!
    expect([...found.trace.values]).toEqual([0, NaN, 1, NaN, NaN])
    expect(found).toMatchObject({ mean: 0.5, most: 1 })
    expect(apart(laid([1, 2]), laid([1, 2], { first: 10 }))).toBeNull()
  })
})
