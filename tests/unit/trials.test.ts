import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram, compileProgram } from '../../core/language'
import { loadPhysics } from '../../core/physics'
import { openRun, readProject } from '../../core/simulation'
import { answersOf, dialValues, drawnOf, findValues, findingSaid, inputsOf, jobOf, plateauOf, readBasis, readPlan, runsOf, runTrial, saidOf, sensitivityOf, sensitivitySaid, settingAt, trialsCsv, worldOf, writtenWorld, type RunJobs, type Trial, type TrialBasis, type TrialPlan } from '../../core/trials'
import { RandomStream } from '../../core/random'
import { demoInputs, demoText, facts } from './kit'

beforeAll(loadPhysics)

function plan(more: object = {}): TrialPlan {
  const read = readPlan({ mindpath: 'trials', version: 1, seeds: [1, 4], ...more })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
const compiled = (text: string) => compileProgram(checkProgram(text, facts).analysis)
function basisOf(of: TrialPlan, ...texts: readonly string[]): TrialBasis {
  const documents = demoInputs('kiss-the-fender', { realism: 'typical', seed: 1 })
  return {
    plan: of, documents: { robot: documents.robot, arena: documents.arena, task: documents.task },
    programs: texts.map((text, i) => { const values = dialValues(of, compiled(text)); if (!values.ok) throw new Error(JSON.stringify(values.problems)); return { name: `p${i}`, text, values: values.value } }),
  }
}
const OWN = demoText('projects/kiss-the-fender/program.mindpath')
const parts = () => { const read = readProject(demoInputs('kiss-the-fender', { realism: 'typical', seed: 1 })); if (!read.ok) throw new Error('the demo'); return read.value }
const GOALS = ['stands 12 cm from fender, within 2 cm, for 1 s', 'touches nothing', 'stays aboard']

describe('a plan', () => {
  test('takes what is usual where it says nothing', () => {
    expect(plan()).toEqual({ mindpath: 'trials', version: 1, title: '', seeds: [1, 4], realisms: ['typical'], dials: [], world: {}, limit: null, cases: [], search: null, sure: null })
  })
  test.each([
    [{ seeds: [4, 1] }, 'seeds', 'smaller seed first'],
    [{ seeds: [1] }, 'seeds', 'two seeds'],
    [{ realisms: ['easy'] }, 'realisms', 'ideal, typical, rough'],
    [{ world: { grip: [0, 1] } }, 'world.grip', ''],
    [{ world: { turn: ['10 cm', '2 m'] } }, 'world.turn', ''],
    [{ world: { wind: [1, 2] } }, 'world', 'does not know wind; allowed are'],
    [{ world: { 'crate_1.up': ['1 cm', '2 cm'] } }, 'world', 'does not know crate_1.up'],
    [{ world: { 'crate_1.east': ['1', '2 cm'] } }, 'world.crate_1.east[0]', 'no unit'],
    [{ world: { motors: ['-90 %', '0 %'] } }, 'world.motors[0]', 'from -50 % to 50 %'],
    [{ dials: [{ name: 'near', from: '1 cm', to: '2 cm', count: 0 }] }, 'dials', ''],
    [{ seeds: [0, 4_000_000_000] }, 'seeds', 'allowed are up to 1000000'],
    [{ colour: 'red' }, '', ''],
  ])('refuses %j and says where', (more, path, message) => {
    const read = readPlan({ mindpath: 'trials', version: 1, seeds: [1, 4], ...more })
    expect(read.ok).toBe(false)
    if (read.ok) return
    expect(read.problems[0]!.path).toContain(path)
    expect(read.problems.map(p => p.message).join()).toContain(message)
  })
  test('has a job for every program, realism, setting and seed, once; a seed is done with before the next', () => {
    const of = plan({ realisms: ['typical', 'rough'], dials: [{ name: 'near', from: '10 cm', to: '14 cm', count: 3 }] })
    expect(runsOf(of, 2)).toBe(4 * 2 * 3 * 2)
    const jobs = Array.from({ length: runsOf(of, 2) }, (_, i) => jobOf(of, 2, i))
    expect(new Set(jobs.map(j => `${j.program} ${j.realism} ${j.setting} ${j.seed}`)).size).toBe(jobs.length)
    expect(jobs.map(j => j.seed)).toEqual(jobs.map(j => j.seed).sort((a, b) => a - b))
    expect(jobs.slice(0, 12).every(j => j.seed === 1)).toBe(true)
  })
  test('has dials’ values in the dial’s own unit, both ends among them; the last dial changes fastest', () => {
    const of = plan({ dials: [{ name: 'near', from: '10 cm', to: '0.14 m', count: 3 }, { name: 'fast', from: '10 cm/s', to: '20 cm/s', count: 2 }] })
    const program = compiled('dial near = 12 cm from 5 cm to 90 cm\ndial fast = 12 cm/s from 5 cm/s to 30 cm/s\nwhen sonar.distance < near -> halt\notherwise -> drive fast\n')
    const values = dialValues(of, program)
    if (!values.ok) throw new Error('refused')
    expect(values.value.map(v => v.map(d => d.text))).toEqual([['10 cm', '12 cm', '14 cm'], ['10 cm/s', '20 cm/s']])
    expect(settingAt(values.value, 3).map(d => d.text)).toEqual(['12 cm', '20 cm/s'])
    expect(dialValues(of, compiled('otherwise -> halt\n'))).toMatchObject({ ok: false, problems: [{ path: 'dials.near' }, { path: 'dials.near' }, { path: 'dials.fast' }, { path: 'dials.fast' }] })
  })
  test('draws a world for a seed: within its ranges, the same for all, another for the next', () => {
    const of = plan({ world: { grip: [0.5, 0.9], turn: ['-10 deg', '10 deg'], east: ['-5 cm', '5 cm'] } })
    const { arena } = parts()
    const worlds = Array.from({ length: 30 }, (_, i) => worldOf(of, arena, i) as { grip: number, start: { at: [string, string], heading: string } })
    for (const { grip, start } of worlds) {
      expect(grip).toBeGreaterThanOrEqual(0.5)
      expect(grip).toBeLessThanOrEqual(0.9)
      expect(Math.abs(parseFloat(start.heading))).toBeLessThanOrEqual(10)
    }
    expect(new Set(worlds.map(w => w.grip)).size).toBe(30)
    expect(worldOf(of, arena, 7)).toEqual(worlds[7])
    expect(worldOf(plan(), arena, 7)).toEqual({})
  })
  test('draws how the robot is made and where things stand, by name, whatever order they are written in', () => {
    const world = { 'wheels': ['-2 %', '2 %'], 'crate_1.turn': ['-20 deg', '20 deg'], 'noise': [1, 2], 'crate_1.east': ['-5 cm', '5 cm'], 'fender.north': ['0 cm', '0 cm'] }
    const { arena } = parts()
    const one = worldOf(plan({ world }), arena, 5) as { noise: number, wheels: number, moved: Record<string, { east: string, north: string, turn: string }> }
    expect(one).toEqual(worldOf(plan({ world: Object.fromEntries(Object.entries(world).reverse()) }), arena, 5))
    expect(Object.keys(one).sort()).toEqual(['moved', 'noise', 'wheels'])
    expect(Object.keys(one.moved).sort()).toEqual(['crate_1', 'fender'])
    expect(one.moved['fender']).toEqual({ east: '0 m', north: '0 m', turn: '0 deg' })
    expect(Math.abs(parseFloat(one.moved['crate_1']!.east))).toBeLessThanOrEqual(0.05)
    expect(Math.abs(parseFloat(one.moved['crate_1']!.turn))).toBeGreaterThan(0.01)
  })
  test('is refused where the arena has nothing of a name that can be moved', () => {
    const documents = demoInputs('kiss-the-fender', { realism: 'typical', seed: 1 })
    const read = (world: object) => { const checked = readBasis(documents, [{ name: 'p', text: OWN }], plan({ world })); return checked.ok ? [] : checked.problems.map(p => `${p.path}: ${p.message}`) }
    expect(read({ 'crate_1.turn': ['0 deg', '1 deg'] })).toEqual([])
    expect(read({ 'shed.east': ['0 cm', '1 cm'] })).toEqual(['world.shed.east: the arena has nothing of this name that can be moved; it has fender, crate_1, decks[0], patches[0], patches[1]'])
  })
})

describe('a trial', () => {
  test('goes as the run of its inputs does, and says how', async () => {
    const basis = basisOf(plan(), OWN)
    const job = jobOf(basis.plan, 1, 3)
    const trial = await runTrial(basis, job, parts().arena) as Trial
    const opened = await openRun(inputsOf(basis, job, parts().arena))
    if (!opened.ok) throw new Error('refused')
    const end = opened.simulation.runToEnd()
    expect(trial).toMatchObject({ number: 3, ended: end.ended, reason: end.reason, time: end.time, met: true, took: Math.max(...opened.simulation.goals.map(g => g.at ?? 0)), path: opened.simulation.pathLength, contacts: 0, lost: null })
    opened.simulation.free()
  })
  test('one that loses a goal says which, when, where, and which rule was in control', async () => {
    const trial = await runTrial(basisOf(plan(), 'when run.time > 90 s\n  halt\notherwise\n  drive 25 cm/s\n'), { number: 0, program: 0, realism: 'typical', seed: 1, known: null, setting: 0 }, parts().arena) as Trial
    expect(trial).toMatchObject({ met: false, took: null, lost: { goal: 1, line: 3, mode: 'main' } })
    expect(trial.goals[1]).toMatchObject({ status: 'failed' })
    expect(Math.abs(trial.lost!.time - trial.goals[1]!.at!)).toBeLessThanOrEqual(0.1)
    expect(trial.lost!.x).toBeGreaterThan(1)
  })
  test('a start in a wall cannot be done, and says why', async () => {
    const of = plan({ world: { east: ['9 m', '9 m'] } })
    expect(await runTrial(basisOf(of, OWN), jobOf(of, 1, 0), parts().arena)).toMatch(/start|deck|world/)
  })
})

describe('what trials say', () => {
  /** A trial that met, or lost the second goal. */
  const made = (number: number, took: number | null, more: Partial<Trial> = {}): Trial => ({
    number, ended: took === null ? 'time' : 'finished', reason: '', time: 20, goals: [{ status: 'met', at: took }, { status: took === null ? 'failed' : 'met', at: 1 }, { status: 'met', at: 1 }],
    met: took !== null, took, path: 1, contacts: 0, falls: 0, lost: took === null ? { goal: 1, time: 4, x: 1, y: 1, line: 7, mode: 'main', stood: 2 } : null, ...more,
  })
  test('how often, how long, and how it fails, the most frequent first with one to look at', () => {
    const basis = basisOf(plan({ seeds: [1, 10] }), OWN)
    const trials = Array.from({ length: 10 }, (_, i) => i < 6 ? made(i, 5 + i) : i < 9 ? made(i, null) : made(i, null, { ended: 'fell' }))
    const answers = answersOf(basis, trials, ['a start in a wall', 'a start in a wall'])
    expect(answers.results).toMatchObject([{ runs: 10, met: 6, share: { value: 0.6 }, took: { n: 6, median: 7.5 }, goals: [{ met: 10 }, { met: 6 }, { met: 10 }], failures: [{ goal: 1, how: 'time', line: 7, count: 3, example: { number: 6, seed: 7, at: 4 } }, { how: 'fell', count: 1 }] }])
    expect(saidOf(basis, answers, GOALS)).toEqual([
      'p0: met all goals in 6 of 10 runs, 60 % (95 % sure: 31 % to 83 %); took 7.50 s, half of them 6.25 s to 8.75 s',
      '  touches nothing: 6 of 10 (31 % to 83 %)',
      '  3 times: time was up, first lost: touches nothing, rule of line 7 in control; seed 7 at 4.00 s',
      '  once: it fell, first lost: touches nothing, rule of line 7 in control; seed 10 at 4.00 s',
      'Could not be run, 2 times: a start in a wall',
    ])
  })
  test('who stood in one place for long at the end was stuck', () => {
    const basis = basisOf(plan(), OWN)
    expect(answersOf(basis, [made(0, null, { lost: { goal: null, time: 20, x: 0, y: 0, line: null, mode: '', stood: 15 } })]).results[0]!.failures[0]).toMatchObject({ how: 'stuck', goal: null })
  })
  test('two programs are compared by the seeds that both ran', () => {
    const basis = basisOf(plan({ seeds: [1, 40] }), OWN, OWN)
    // Odd jobs are of the second: it is better by ten seeds, and quicker by a second.
    const trials = Array.from({ length: 80 }, (_, i) => i % 2 === 0 ? made(i, i < 20 ? null : 9) : made(i, 8)).filter(t => t.number !== 79)
    const [found] = answersOf(basis, trials).comparisons
    expect(found).toMatchObject({ a: 0, b: 1, pairs: { both: 29, onlyA: 0, onlyB: 10, neither: 0 }, slower: { value: -1, low: -1, high: -1 }, seedsMore: null })
    expect(found!.chance).toBeCloseTo(2 / 1024, 12)
    expect(saidOf(basis, answersOf(basis, trials), GOALS).at(-1)).toMatch(/^p1 meets its goals more often than p0, by 26 % \(95 % sure: \d+ % to \d+ %; chance would do that with a probability of 0\.002\); where both do, p1 is quicker by 1\.00 s/)
  })
  test('where it cannot be told it says so, and about how many seeds more would', () => {
    const basis = basisOf(plan({ seeds: [1, 20] }), OWN, OWN)
    const alike = Array.from({ length: 40 }, (_, i) => made(i, 8))
    expect(saidOf(basis, answersOf(basis, alike), GOALS).at(-1)).toBe('which of p0 and p1 meets its goals more often cannot be told: over these seeds they differ in nothing; where both do, neither can be told to be quicker')
    const near = alike.map((t, i) => i === 1 || i === 3 ? made(i, null) : t)
    expect(saidOf(basis, answersOf(basis, near), GOALS).at(-1)).toMatch(/cannot be told; about \d+ seeds more would tell/)
  })
  test('settings that cannot be told from the best are its plateau', () => {
    const basis = basisOf(plan({ seeds: [1, 20], dials: [{ name: 'near', from: '10 cm', to: '14 cm', count: 3 }] }), OWN)
    const trials = Array.from({ length: 60 }, (_, i) => made(i, i % 3 === 0 && i < 54 ? null : i % 3 === 1 && i < 6 ? null : 8))
    const answers = answersOf(basis, trials)
    expect(plateauOf(answers.results).map(r => r.setting)).toEqual([1, 2])
    expect(saidOf(basis, answers, GOALS).at(-1)).toBe('p0: as good as the best, as far as can be told: near 12 cm; near 14 cm')
  })
  test('every run is a line of comma-separated values', () => {
    const basis = basisOf(plan({ dials: [{ name: 'near', from: '10 cm', to: '14 cm', count: 2 }] }), OWN)
    const csv = (of: TrialBasis, ran: readonly (readonly [number, Trial | string])[]) => [...trialsCsv(of.plan, ran.map(([number, answer]) => ({ number, basis: of, job: number, answer })), GOALS)].join('').split('\r\n')
    const lines = csv(basis, [[0, made(0, 5)], [2, 'no'], [3, made(3, null)]])
    expect(lines[0]).toBe('number,program,realism,seed,near,met,ended,reason,time [s],took [s],path [m],contacts,falls,"stands 12 cm from fender, within 2 cm, for 1 s","stands 12 cm from fender, within 2 cm, for 1 s, at [s]",touches nothing,"touches nothing, at [s]",stays aboard,"stays aboard, at [s]",lost,lost at [s],lost x [m],lost y [m],line in control')
    expect(lines[1]).toBe('0,p0,typical,1,10 cm,1,finished,,20,5,1,0,0,met,5,met,1,met,1,,,,,')
    expect(lines[2]).toBe('2,p0,typical,2,10 cm,,could not be run,no,,,,,,,,,,,,,,,,')
    expect(lines[3]).toBe('3,p0,typical,2,14 cm,0,time,,20,,1,0,0,met,,failed,1,met,1,touches nothing,4,1,1,7')
    expect(lines).toHaveLength(5)
  })
  test('a line says how its world differed, in units that the header names; what does not differ is as it is', () => {
    const of = basisOf(plan({ world: { 'crate_1.east': ['-5 cm', '5 cm'], 'grip': [0.5, 1], 'turn': ['-9 deg', '9 deg'] }, cases: [{ seed: 1, world: { 'crate_1.east': '2 cm', 'turn': '3 deg' } }] }), OWN)
    const [head, line] = [...trialsCsv(of.plan, [{ number: 8, basis: of, job: 0, answer: made(0, 5) }], GOALS)].join('').split('\r\n')
    expect(head).toMatch(/^number,program,realism,seed,crate_1.east \[cm\],grip \[times\],turn \[deg\],met,/)
    expect(line).toMatch(/^8,p0,typical,1,2,1,3,1,finished/)
  })
})

describe('worlds known to be hard', () => {
  const cases = [{ seed: 7, world: { turn: '21.1 deg', grip: 0.55 } }, { seed: 9, world: { 'crate_1.north': '-30 cm' } }]
  const of = plan({ seeds: [1, 3], cases, world: { light: [0.5, 1] } })
  test('are tried first, by every program, each with its own seed and world', () => {
    const basis = basisOf(of, OWN, OWN)
    expect(runsOf(of, 2)).toBe(10)
    const jobs = Array.from({ length: 10 }, (_, i) => jobOf(of, 2, i))
    expect(jobs.map(j => [j.seed, j.known, j.program])).toEqual([[7, 0, 0], [7, 0, 1], [9, 1, 0], [9, 1, 1], [1, null, 0], [1, null, 1], [2, null, 0], [2, null, 1], [3, null, 0], [3, null, 1]])
    expect(inputsOf(basis, jobs[0]!, parts().arena).world).toEqual({ grip: 0.55, start: { at: [expect.any(String), expect.any(String)], heading: expect.stringMatching(/^21\.1/) } })
    expect(inputsOf(basis, jobs[3]!, parts().arena).world).toEqual({ moved: { crate_1: { east: '0 m', north: '-0.3 m', turn: '0 deg' } } })
    expect(inputsOf(basis, jobs[4]!, parts().arena).world).toEqual({ light: drawnOf(of, 1)['light'] })
  })
  test('count among no share and no pair, and are told by themselves', () => {
    const basis = basisOf(of, OWN, OWN)
    // The first program fails in both, the other in one; with what is drawn both do well.
    const trials = Array.from({ length: 10 }, (_, i) => trialOf(i, i !== 0 && i !== 2 && i !== 3))
    const answers = answersOf(basis, trials)
    expect(answers.results.map(r => [r.runs, r.met])).toEqual([[3, 3], [3, 3]])
    expect(answers.comparisons[0]!.pairs).toEqual({ both: 3, onlyA: 0, onlyB: 0, neither: 0 })
    expect(answers.known.map(k => k.met)).toEqual([[false, false], [true, false]])
    expect(saidOf(basis, answers, GOALS)).toEqual(expect.arrayContaining([
      'p0 in worlds known to be hard: meets its goals in 0 of 2; fails with grip 0.55 and turn 21.1 deg (seed 7); with crate_1 north -30 cm (seed 9)',
      'p1 in worlds known to be hard: meets its goals in 1 of 2; fails with crate_1 north -30 cm (seed 9)',
    ]))
  })
  test('are written as they are read, to the bit', () => {
    expect(plan({ cases: of.cases.map(c => ({ seed: c.seed, world: writtenWorld(c.world) })) }).cases).toEqual(of.cases)
    expect(writtenWorld(of.cases[0]!.world)).toEqual({ turn: '21.1 deg', grip: 0.55 })
  })
})

/** A trial that met all goals, or none, after so many seconds. */
const trialOf = (number: number, met: boolean, took = 9): Trial => ({
  number, ended: 'finished', reason: '', time: 20, goals: [], met, took: met ? took : null, path: 1, contacts: 0, falls: 0, lost: met ? null : { goal: null, time: 20, x: 0, y: 0, line: null, mode: '', stood: 0 },
})

describe('what a variation costs', () => {
  test('is found where it does, in the part of its range where it does; nothing is said of the others', () => {
    const of = plan({ seeds: [1, 120], world: { turn: ['-9 deg', '9 deg'], grip: [0.5, 1] } })
    const basis = basisOf(of, OWN)
    // Turned more than 4 degrees to the right it fails.
    const trials = Array.from({ length: 120 }, (_, i) => trialOf(i, drawnOf(of, i + 1).turn! < 4 * Math.PI / 180))
    const found = sensitivityOf(basis, trials)
    expect(found.map(s => s.of)).toEqual(['turn', 'grip'])
    expect(found[0]!.worst.from).toBeCloseTo(3 * Math.PI / 180, 9)
    expect(found[0]!.parts.reduce((n, p) => n + p.runs, 0)).toBe(120)
    expect(found[0]!.costs.low).toBeGreaterThan(0.5)
    expect(found[1]!.costs.low).toBeLessThanOrEqual(0)
    expect(sensitivitySaid(found)).toEqual([expect.stringMatching(/^turn costs \d+ % of success \(95 % sure: \d+ % to \d+ %\): 3 deg to 9 deg: \d+ % of \d+; -9 deg to -3 deg: 100 % of \d+$/), 'nothing seen of grip'])
  })
  test('of too few runs, and of no variation, nothing is said', () => {
    const of = plan({ seeds: [1, 9], world: { grip: [0.5, 1] } })
    expect(sensitivityOf(basisOf(of, OWN), Array.from({ length: 9 }, (_, i) => trialOf(i, true)))).toEqual([])
    expect(sensitivityOf(basisOf(plan(), OWN), [trialOf(0, true)])).toEqual([])
  })
})

describe('finding good values', () => {
  const TEXT = 'dial near = 10 cm from 5 cm to 90 cm\ndial fast = 12 cm/s from 5 cm/s to 30 cm/s\nwhen sonar.distance < near -> halt\notherwise -> drive fast\n'
  const dials = [{ name: 'near', from: '5 cm', to: '80 cm', count: 1 }, { name: 'fast', from: '5 cm/s', to: '30 cm/s', count: 1 }]
  /** Goals are met with a probability that the values decide; every seed draws anew. */
  const playing = (chance: (near: number, fast: number) => number, seen: Set<number> = new Set()): RunJobs => (basis, numbers) => Promise.resolve(numbers.map((number) => {
    const job = jobOf(basis.plan, basis.programs.length, number)
    seen.add(job.seed)
    const [near, fast] = settingAt(basis.programs[job.program]!.values, job.setting).map(d => d.value) as [number, number]
    return trialOf(number, RandomStream.named(job.seed, `played ${near} ${fast}`).chance(chance(near, fast)), 100 * (1 - fast))
  }))
  const search = (budget: number) => ({ documents: basisOf(plan(), OWN).documents, name: 'p', text: TEXT, program: compiled(TEXT), plan: plan({ seeds: [1, 1], dials }), budget })

  test('comes near the best of two dials, says that it is better, and takes no more runs than it may', async () => {
    const seen = new Set<number>()
    const found = await findValues(search(600), playing((near, fast) => Math.max(0, 0.95 - 4 * Math.abs(near - 0.5) - 5 * Math.abs(fast - 0.2)), seen))
    expect(Math.abs(found.values[0]!.value - 0.5)).toBeLessThan(0.12)
    expect(Math.abs(found.values[1]!.value - 0.2)).toBeLessThan(0.08)
    expect(found.own.map(v => v.text)).toEqual(['10 cm', '12 cm/s'])
    expect(found.runs).toBeLessThanOrEqual(600)
    expect(found.comparison.chance).toBeLessThan(0.001)
    // The judgement's seeds are the last, and of both.
    expect(found.found.runs).toBe(found.given.runs)
    expect(Math.max(...seen)).toBe(seen.size)
    expect(findingSaid(found)).toEqual([
      expect.stringMatching(/^found after \d+ runs: near [\d.]+ cm, fast [\d.]+ cm\/s; the text has near 10 cm, fast 12 cm\/s$/), expect.stringMatching(/^on \d+ fresh seeds, found: met all goals in/), expect.stringMatching(/^on the same seeds, as the text has it: met all goals in/),
      expect.stringMatching(/^what was found meets its goals more often than what the text has, by/),
    ])
  })
  test('does not take luck for skill: where all values are alike, it says better in no more than one of twenty', async () => {
    let claimed = 0
    for (let i = 0; i < 60; i++) {
      const { comparison } = await findValues({ ...search(200), plan: plan({ seeds: [1000 * i, 1000 * i], dials }) }, playing(() => 0.6))
      if (comparison.chance < 0.05 && comparison.more.value > 0) claimed++
    }
    expect(claimed).toBeLessThanOrEqual(3)
  })
  test('among those that always work it takes the quickest', async () => {
    const found = await findValues(search(300), playing(near => near < 0.3 ? 1 : 0))
    expect(found.values[0]!.value).toBeLessThan(0.3)
    expect(found.values[1]!.value).toBeGreaterThan(0.25)
    expect(found.comparison.slower!.value).toBeLessThan(0)
  })
})
