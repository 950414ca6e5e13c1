import { expect, test } from 'vitest'
import { readFolder } from '../../../cli/project'
import { openRun, recordOf, replay, type RunInputs, type Simulation } from '../../../core/simulation'
import { Past } from '../../../app/run/past'

/** Going back in a run that goes on. */

async function opened(limit: number, program?: string): Promise<{ readonly simulation: Simulation, readonly past: Past, readonly inputs: RunInputs }> {
  const folder = await readFolder('demo/projects/night-rounds')
  const inputs: RunInputs = { ...folder.documents, program: program ?? folder.program, realism: 'rough', seed: 3, limit }
  const run = await openRun(inputs)
  if (!run.ok) throw new Error('refused')
  return { simulation: run.simulation, past: new Past(run.simulation), inputs }
}
const until = (past: Past, simulation: Simulation, ticks: number): void => { while (simulation.tape.rows < ticks && simulation.end === null) past.advance() }

test('to any instant, hands that were let in and all; and on from there to what it was', async () => {
  const { simulation, past, inputs } = await opened(12)
  until(past, simulation, 120)
  past.poke({ poke: 'hand', device: 'sonar', distance: 0.1 })
  until(past, simulation, 333)
  past.poke({ poke: 'carry', forward: 0.04, right: 1 })
  until(past, simulation, Infinity)
  const digest = simulation.tape.digest()
  for (const ticks of [0, 119, 120, 121, 334, 599, 260]) {
    past.goTo(ticks)
    expect([simulation.tape.rows, simulation.end]).toEqual([ticks, null])
    // What hands do after it is gone with what came after.
    expect(simulation.tape.events.filter(e => e.type === 'poke').length).toBe(ticks > 333 ? 2 : ticks > 120 ? 1 : 0)
  }
  past.goTo(400)
  until(past, simulation, Infinity)
  expect(simulation.tape.digest()).toBe(digest)
  const again = await replay(recordOf('again', inputs, simulation))
  expect(again).toMatchObject({ ok: true, same: true })
  if (again.ok) again.simulation.free()
  simulation.free()
})

test('states lie farther apart in a long run, and any instant is still reached', async () => {
  const { simulation, past } = await opened(400, '')
  until(past, simulation, 13_000)
  const row = simulation.tape.at(7_021).slice()
  past.goTo(7_022)
  expect(simulation.tape.at(7_021)).toEqual(row)
  expect(simulation.tape.rows).toBe(7_022)
  simulation.free()
}, 60_000)
