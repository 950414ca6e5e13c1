import { expect, test } from 'vitest'
import { readFolder } from '../../../cli/project'
import { broughtOver, columnsOf, type Compared } from '../../../core/runs'
import { contextOf } from '../../../core/runs/context'
import { openRun } from '../../../core/simulation'

/** What was before the instant at which a run went on, on the tape of the new one. */

async function ran(program: string, ticks: number): Promise<Compared> {
  const { documents } = await readFolder('demo/projects/night-rounds')
  const inputs = { ...documents, program, realism: 'typical', seed: 1, limit: 10 } as const
  const opened = await openRun(inputs)
  if (!opened.ok) throw new Error('refused')
  for (let i = 0; i < ticks; i++) opened.simulation.advance()
  const context = contextOf(inputs)
  if (!context.ok) throw new Error('refused')
  opened.simulation.free()
  return { tape: opened.simulation.tape, facts: context.value.facts, program: context.value.map }
}
const PROGRAM = 'memory n = 4\nwhen sonar.distance < 60 cm\n  note "near"\n  set n = n + 1\n  turn right 90 deg\notherwise -> drive 22 cm/s\n'

test('of the same program it is what it was', async () => {
  const from = await ran(PROGRAM, 200)
  const { rows, events } = broughtOver(from, { facts: from.facts, program: from.program, layout: from.tape.layout }, 150)
  expect(rows).toEqual(from.tape.slice(0, 150))
  expect(events).toEqual(from.tape.events.filter(e => e.tick < 150))
})

test('of another, readings and places stay, names go to their columns, and rules to those that say the same', async () => {
  const from = await ran(PROGRAM, 200)
  const to = await ran(`memory other = 2\n${PROGRAM.replace('when sonar', 'when bumper_left.pressed -> halt\nwhen sonar')}`, 1)
  const { layout } = to.tape
  const { rows } = broughtOver(from, { facts: to.facts, program: to.program, layout }, 200)
  expect(rows.length).toBe(200 * layout.width)
  const column = (of: Compared, id: string): number => columnsOf({ facts: of.facts, layout: of.tape.layout, program: of.program }).find(c => c.id === id)!.column
  for (const tick of [0, 80, 199]) {
    const [old, now] = [from.tape.at(tick), rows.subarray(tick * layout.width, (tick + 1) * layout.width)]
    const same = (id: string): void => { expect([id, now[column(to, id)]]).toEqual([id, old[column(from, id)]]) }
    for (const id of ['sonar.distance', 'gyro.turned', 'told wheels 1', 'named n']) same(id)
    expect(now.subarray(layout.body, layout.body + 7)).toEqual(old.subarray(from.tape.layout.body, from.tape.layout.body + 7))
    expect(now.subarray(layout.beams)).toEqual(old.subarray(from.tape.layout.beams))
    // With one rule more above, every number is by one larger.
    expect(now[layout.lanes + 2]).toBe(old[from.tape.layout.lanes + 2]! + 1)
    expect([...now.subarray(layout.wants, layout.wants + 3)]).toEqual([0, ...old.subarray(from.tape.layout.wants, from.tape.layout.wants + 2)])
    expect(now[column(to, 'named other')]).toBe(0)
  }
})
