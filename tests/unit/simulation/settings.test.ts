import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { openRun, summarise, type RunInputs } from '../../../core/simulation'
import { demo, demoText } from '../kit'

beforeAll(loadPhysics)

const project = 'projects/night-rounds'
const file = demo(`${project}/project.json`) as { robot: string, arena: string, task: string }
const inputs: RunInputs = {
  robot: demo(`${project}/${file.robot}`), arena: demo(`${project}/${file.arena}`), task: demo(`${project}/${file.task}`),
  program: `dial pace = 22 cm/s from 5 cm/s to 40 cm/s\n${demoText(`${project}/program.mindpath`).replace('22 cm/s', 'pace')}`, realism: 'typical', seed: 2, limit: 4,
}
async function ran(more: Partial<RunInputs>) {
  const opened = await openRun({ ...inputs, ...more })
  if (!opened.ok) return opened.problems.map(p => `${p.document} ${p.path}: ${p.value}: ${p.message}`)
  opened.simulation.runToEnd()
  const summary = { ...summarise(opened.simulation), fingerprint: opened.simulation.tape.digest() }
  opened.simulation.free()
  return summary
}

describe('what a run is made of besides its documents', () => {
  test('the usual settings are those that were left out', async () => {
    expect(await ran({ dials: { pace: '22 cm/s' }, world: { grip: 1, light: 1, noise: 1, motors: 0, wheels: 0, moved: {} } })).toEqual(await ran({}))
  })
  test.each<[string, Partial<RunInputs>]>([
    ['a dial', { dials: { pace: '0.1 m/s' } }], ['grip', { world: { grip: 0.05 } }], ['light', { world: { light: 0.2 } }], ['noise', { world: { noise: 2.5 } }], ['unlike motors', { world: { motors: 0.2 } }], ['unlike wheels', { world: { wheels: -0.04 } }], ['a thing that stands elsewhere', { world: { moved: { kiosk: { east: '-40 cm', north: '-60 cm' } } } }],
    ['a start', { world: { start: { at: ['60 cm', '60 cm'], heading: '90 deg' } } }],
  ])('%s makes another run, the same one each time', async (what, settings) => {
    const [usual, one, again] = [await ran({}), await ran(settings), await ran(settings)]
    expect(one).toEqual(again)
    // Light is seen by devices that ask for it: here by none. In so short a time not all of it changes the way.
    if (['a dial', 'grip', 'a start'].includes(what)) expect((one as { path_m: number }).path_m).not.toBe((usual as { path_m: number }).path_m)
    if (what !== 'light') expect((one as { fingerprint: string }).fingerprint).not.toBe((usual as { fingerprint: string }).fingerprint)
  })
  test.each<[string, Partial<RunInputs>, string]>([
    ['a dial that is not there', { dials: { speed: '10 cm/s' } }, 'run dials.speed: 10 cm/s: the program has no dial speed; it has pace'],
    ['a value of another kind', { dials: { pace: '10 s' } }, 'run dials.pace: 10 s'],
    ['a value beyond its range', { dials: { pace: '1 m/s' } }, 'allowed is from 5 cm/s to 40 cm/s'],
    ['a world that cannot be', { world: { grip: -1 } }, 'run world.grip: -1'],
    ['a setting that is none', { world: { wind: 3 } }, 'run world.'],
    ['noise without end', { world: { noise: 100 } }, 'run world.noise: 100'],
    ['a thing that is not there', { world: { moved: { shed: { east: '1 cm' } } } }, 'run world.moved.shed: shed: the arena has nothing of this name'],
    ['a way that a thing cannot go', { world: { moved: { kiosk: { up: '1 cm' } } } }, 'run world.moved.kiosk'],
    ['a start within a wall', { world: { start: { at: ['0 m', '0 m'] } } }, 'arena start'],
  ])('%s is refused, with its place and value', async (_what, settings, message) => {
    expect((await ran(settings) as string[]).join('\n')).toContain(message)
  })
})

describe('how a world differs', () => {
  const quay = (program: string): RunInputs => ({ robot: demo('robots/limpet.json'), arena: demo('arenas/fender-quay.json'), task: null, program, realism: 'typical', seed: 1, limit: 2 })
  /** What it comes to: where it stands, what its sonar read with each look, and what an ideal one would have. */
  async function course(inputs: RunInputs) {
    const opened = await openRun(inputs)
    if (!opened.ok) throw new Error(JSON.stringify(opened.problems))
    const { simulation } = opened
    const errors: number[] = []
    const began = simulation.pose().x
    const at = simulation.facts.devices.find(d => d.name === 'sonar')!.first
    while (simulation.end === null) {
      simulation.advance()
      const [read, truth] = [simulation.readings[at]!, simulation.truths()[at]!]
      if (Math.abs(read - truth) < 0.2) errors.push(read - truth)
    }
    const pose = simulation.pose()
    const pieces = simulation.layout.pieces.map(p => ({ name: p.name, at: p.at, turn: p.turn }))
    simulation.free()
    return { pose: { ...pose, began }, pieces, deviation: Math.sqrt(errors.reduce((s, e) => s + e * e, 0) / errors.length) }
  }
  test('sensors deviate so many times as far; not at all with none', async () => {
    const still = quay('otherwise -> halt\n')
    const [none, once, thrice] = [await course({ ...still, world: { noise: 0 } }), await course(still), await course({ ...still, world: { noise: 3 } })]
    expect(none.deviation).toBeLessThan(once.deviation / 4)
    expect(thrice.deviation / once.deviation).toBeCloseTo(3, 1)
  })
  test('a larger left wheel turns a robot to the right that drives straight on, as far as the arc says', async () => {
    const ahead = { ...quay('otherwise -> drive 20 cm/s\n'), realism: 'ideal' as const, limit: 4 }
    const [even, uneven] = [await course(ahead), await course({ ...ahead, world: { wheels: 0.02 } })]
    // Both wheels turn alike: the ways differ by 2 % of what was driven, over the track.
    const [driven, track] = [even.pose.x - even.pose.began, 0.138]
    expect(even.pose.yaw).toBeCloseTo(0, 2)
    expect(-uneven.pose.yaw / (0.02 * driven / track)).toBeGreaterThan(0.7)
    expect(-uneven.pose.yaw / (0.02 * driven / track)).toBeLessThan(1.4)
  })
  test('a thing stands where it was moved to, turned; all else where it was', async () => {
    const still = quay('otherwise -> halt\n')
    const [as, moved] = [await course(still), await course({ ...still, world: { moved: { crate_1: { east: '30 cm', north: '-10 cm', turn: '20 deg' } } } })]
    const [a, b] = [as.pieces.find(p => p.name === 'crate_1')!, moved.pieces.find(p => p.name === 'crate_1')!]
    expect([b.at[0] - a.at[0], b.at[1] - a.at[1], (b.turn - a.turn) * 180 / Math.PI].map(x => Number(x.toFixed(9)))).toEqual([0.3, -0.1, 20])
    expect(moved.pieces.filter(p => p.name !== 'crate_1')).toEqual(as.pieces.filter(p => p.name !== 'crate_1'))
  })
})
