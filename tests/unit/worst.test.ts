import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../core/physics'
import { openRun, readProject } from '../../core/simulation'
import { arenaWith, findFailure, inputsOf, jobOf, readPlan, runTrial, worstSaid, type RunJobs, type Trial, type TrialBasis, type Worst } from '../../core/trials'
import { RandomStream } from '../../core/random'
import { demo } from './kit'

beforeAll(loadPhysics)

const DEG = Math.PI / 180
const robot = demo('robots/limpet.json')
const task = { mindpath: 'task', version: 1, name: 'clear', title: 'Clear of the post', limit: '11 s', goals: [{ goal: 'never-touch' }, { goal: 'travels', distance: '4.1 m' }] }
const PROGRAM = 'when wheels.travel > 4.2 m -> finish "there"\notherwise -> drive 50 cm/s\n'
/** A robot in the middle of a wide deck, and a thin post 4.2 m away at a bearing: it is met by few of all headings. */
const around = (bearing: number | null) => ({
  mindpath: 'arena', version: 1, name: 'wide', size: ['9.4 m', '9.4 m'], start: { at: ['4.7 m', '4.7 m'], heading: '0 deg' },
  pieces: bearing === null ? [] : [{ name: 'post', kind: 'post', shape: 'cylinder', diameter: '2 cm', height: '20 cm', fixed: true, at: [`${4.7 + 4.2 * Math.cos(bearing * DEG)} m`, `${4.7 - 4.2 * Math.sin(bearing * DEG)} m`] }],
})
function planWith(world: object, seed = 1) {
  const read = readPlan({ mindpath: 'trials', version: 1, seeds: [seed, seed], realisms: ['ideal'], world })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}
const partsOf = (arena: object) => { const read = readProject({ robot, arena, task }); if (!read.ok) throw new Error(JSON.stringify(read.problems)); return read.value }
const runIn = (arena: object): RunJobs => async (basis, numbers) => {
  const answers: (Trial | string)[] = []
  for (const number of numbers) answers.push(await runTrial(basis, jobOf(basis.plan, basis.programs.length, number), partsOf(arena).arena))
  return answers
}
const BUDGET = 60
const ATTEMPTS = 12
const search = (arena: object, world: object, seed = 1): Promise<Worst> => findFailure({ documents: { robot, arena, task }, name: 'p', text: PROGRAM, plan: planWith(world, seed), budget: BUDGET }, runIn(arena))
const TURNS = { turn: ['-180 deg', '180 deg'] }

describe('where it fails', () => {
  test('is found mostly in a narrow range of headings, which as many headings drawn at random mostly miss, and made small', async () => {
    const bearings = [-140, -75, 38, 101]
    let [found, luck] = [0, 0]
    for (const [i, bearing] of bearings.entries()) {
      const arena = around(bearing)
      const { fails, runs } = await search(arena, { ...TURNS, grip: [0.6, 1] }, i + 1)
      expect(runs).toBeLessThanOrEqual(BUDGET)
      if (fails !== null) {
        found++
        // Nothing but the turn does it; it is within what the robot's width reaches.
        expect(Object.keys(fails.world)).toEqual(['turn'])
        expect(Math.abs(fails.world.turn! / DEG - bearing)).toBeLessThan(2)
        expect(fails.trial.met).toBe(false)
      }
    }
    // As many headings at random, again and again; only those that point within 4 deg of the post can meet it, and are run.
    const arena = around(38)
    for (let i = 0; i < ATTEMPTS; i++) {
      const stream = RandomStream.named(i, 'luck')
      const worlds = Array.from({ length: BUDGET }, () => ({ turn: stream.between(-Math.PI, Math.PI) })).filter(w => Math.abs(w.turn / DEG - 38) < 4)
      const basis: TrialBasis = { documents: { robot, arena, task }, programs: [{ name: 'p', text: PROGRAM, values: [] }], plan: { ...planWith(TURNS), cases: worlds.map(world => ({ seed: 1, world })) } }
      if ((await runIn(arena)(basis, worlds.map((_, n) => n))).some(t => typeof t !== 'string' && !t.met)) luck++
    }
    expect(found).toBeGreaterThanOrEqual(3)
    expect(luck).toBeLessThan(ATTEMPTS / 2)
  })

  test('is not claimed where nothing fails; what was nearest is told with its margin', async () => {
    const worst = await search(around(null), TURNS)
    expect(worst).toMatchObject({ fails: null, runs: expect.any(Number), refused: 0 })
    expect(worstSaid(worst, partsOf(around(null)).task!.goals)[0]).toMatch(/^no failure found in \d+ runs; nearest to it with /)
  })

  test('is told at once where it fails as it is, and in words with what was missed by how much', async () => {
    const worst = await search(around(0), TURNS)
    expect(worst).toMatchObject({ runs: 1, fails: { world: {} } })
    expect(worstSaid(worst, partsOf(around(0)).task!.goals)[0]).toBe('fails with the arena as it is: touches nothing, missed by 1 cm')
  })

  test('can be kept as an arena of its own, in which it fails the same to the bit', async () => {
    const arena = around(38)
    const world = { 'turn': 38 * DEG, 'grip': 0.7, 'east': 0.05, 'post.north': 0.02, 'post.east': -0.01 }
    const of = async (inputs: object) => {
      const opened = await openRun({ robot, arena, task, program: PROGRAM, realism: 'typical', seed: 3, limit: null, ...inputs })
      if (!opened.ok) throw new Error(JSON.stringify(opened.problems))
      opened.simulation.runToEnd()
      return opened.simulation.tape.digest()
    }
    const basis: TrialBasis = { documents: { robot, arena, task }, programs: [{ name: 'p', text: PROGRAM, values: [] }], plan: { ...planWith(TURNS), realisms: ['typical'], cases: [{ seed: 3, world }] } }
    const inputs = inputsOf(basis, jobOf(basis.plan, 1, 0), partsOf(arena).arena)
    expect(await of({ arena: arenaWith(arena, partsOf(arena).arena, world, 3) })).toBe(await of({ world: inputs.world }))
    expect(arenaWith({ ...arena, light: { level: '50 %', changes: [{ at: '3 s', level: '20 %' }] } }, partsOf({ ...arena, light: { level: '50 %', changes: [{ at: '3 s', level: '20 %' }] } }).arena, { light: 0.5 }, 3)).toMatchObject({ name: 'wide_fails', light: { level: '25 %', changes: [{ at: '3 s', level: '10 %' }] } })
  })
})
