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
  const summary = summarise(opened.simulation)
  opened.simulation.free()
  return summary
}

describe('what a run is made of besides its documents', () => {
  test('the usual settings are those that were left out', async () => {
    expect(await ran({ dials: { pace: '22 cm/s' }, world: { grip: 1, light: 1 } })).toEqual(await ran({}))
  })
  test.each<[string, Partial<RunInputs>]>([
    ['a dial', { dials: { pace: '0.1 m/s' } }], ['grip', { world: { grip: 0.05 } }], ['light', { world: { light: 0.2 } }], ['a start', { world: { start: { at: ['60 cm', '60 cm'], heading: '90 deg' } } }],
  ])('%s makes another run, the same one each time', async (what, settings) => {
    const [usual, one, again] = [await ran({}), await ran(settings), await ran(settings)]
    expect(one).toEqual(again)
    // Light is seen by devices that ask for it: the tape has it, the way need not.
    if (what !== 'light') expect((one as { path_m: number }).path_m).not.toBe((usual as { path_m: number }).path_m)
  })
  test.each<[string, Partial<RunInputs>, string]>([
    ['a dial that is not there', { dials: { speed: '10 cm/s' } }, 'run dials.speed: 10 cm/s: the program has no dial speed; it has pace'],
    ['a value of another kind', { dials: { pace: '10 s' } }, 'run dials.pace: 10 s'],
    ['a value beyond its range', { dials: { pace: '1 m/s' } }, 'allowed is from 5 cm/s to 40 cm/s'],
    ['a world that cannot be', { world: { grip: -1 } }, 'run world.grip: -1'],
    ['a setting that is none', { world: { wind: 3 } }, 'run world.'],
    ['a start within a wall', { world: { start: { at: ['0 m', '0 m'] } } }, 'arena start'],
  ])('%s is refused, with its place and value', async (_what, settings, message) => {
    expect((await ran(settings) as string[]).join('\n')).toContain(message)
  })
})
