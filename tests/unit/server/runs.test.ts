import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { readFolder } from '../../../cli/project'
import type { RunOutline } from '../../../core/runs'
import { writeKept } from '../../../core/runs/kept'
import { openRun } from '../../../core/simulation'
import { openDatabase } from '../../../server/database/open'
import { ProjectRepository } from '../../../server/database/projects'
import { RunRepository, type RunFacts } from '../../../server/database/runs'
import { facts } from '../../../server/workers/run.worker'

const outline = { ended: 'finished', reason: 'there', time: 3, goals: [], path: 1, away: 1, contacts: [], falls: 0, takeovers: 2, rules: [], stuck: [], notes: 0, pokes: 0 } satisfies RunOutline
const of = (seed: number): RunFacts => ({ seed, realism: 'typical', engine: 1, ticks: 150, fingerprint: '0123456789abcdef', originTicks: null, outline })
const NOWHERE = { revision: null, origin: null }
const megabytes = (n: number): Buffer => Buffer.alloc(n * 1_000_000, 7)

async function fresh() {
  let clock = 0
  const now = () => new Date(Date.UTC(2026, 0, 1) + 1000 * clock++)
  const { db } = await openDatabase(mkdtempSync(join(tmpdir(), 'mindpath-')), now)
  const projects = new ProjectRepository(db, now)
  const project = await projects.create('A', { robot: {}, arena: {}, task: null }, 'start -> halt')
  return { db, projects, project, runs: new RunRepository(db, now) }
}
const seeds = async ({ runs, project }: Awaited<ReturnType<typeof fresh>>): Promise<readonly number[]> => (await runs.list(project)).runs.map(r => r.seed)

describe('kept runs in the database', () => {
  test('are listed the newest first, each with its file; nothing of one is kept for a project that there is not', async () => {
    const { runs, project } = await fresh()
    const first = await runs.add(project, of(1), Buffer.from('one'), { revision: 3, origin: null })
    const second = await runs.add(project, { ...of(2), originTicks: 40 }, Buffer.from('two!'), { revision: null, origin: first })
    const { runs: all, bytes, budget } = await runs.list(project)
    expect(all).toMatchObject([{ id: second, seed: 2, revision: null, origin: first, originTicks: 40, bytes: 4, name: '', starred: false, outline }, { id: first, seed: 1, revision: 3, originTicks: null, bytes: 3 }])
    expect([bytes, budget]).toEqual([7, 200])
    expect((await runs.file(second!))!.toString()).toBe('two!')
    expect(await runs.add('00000000-0000-0000-0000-000000000000', of(1), Buffer.from('x'), NOWHERE)).toBeNull()
    expect(await runs.file('none')).toBeNull()
  })

  test('one is named, starred, put away and brought back', async () => {
    const at = await fresh()
    const id = (await at.runs.add(at.project, of(1), Buffer.from('one'), NOWHERE))!
    expect(await at.runs.change(id, { name: 'the good one', starred: true })).toBe(true)
    expect((await at.runs.list(at.project)).runs[0]).toMatchObject({ name: 'the good one', starred: true })
    expect([await at.runs.remove(id), await at.runs.remove(id), await at.runs.file(id), await seeds(at)]).toEqual([true, false, null, []])
    expect([await at.runs.restore(id), await at.runs.restore(id), await seeds(at)]).toEqual([true, false, [1]])
    expect([await at.runs.change('none', { name: 'x' }), await at.runs.change('none', {})]).toEqual([false, false])
  })

  test('what takes more than it may goes: what was put away first, then the oldest; what is starred or named stays, and the one that has just come', async () => {
    const at = await fresh()
    await at.runs.setBudget(10)
    const add = async (seed: number): Promise<string> => (await at.runs.add(at.project, of(seed), megabytes(3), NOWHERE))!
    const [one, two, three] = [await add(1), await add(2), await add(3)]
    expect(await seeds(at)).toEqual([3, 2, 1])
    await at.runs.change(one, { starred: true })
    await at.runs.change(two, { name: 'kept' })
    await add(4)
    expect(await seeds(at)).toEqual([4, 2, 1])
    expect(await at.runs.file(three)).toBeNull()
    await add(5)
    expect(await seeds(at)).toEqual([5, 2, 1])
    // Put away: its room is taken before that of any that stands.
    await at.runs.remove(two)
    await add(6)
    expect([await seeds(at), await at.runs.restore(two)]).toEqual([[6, 5, 1], false])
    // All are starred: nothing goes, and the new one is not lost either.
    for (const run of (await at.runs.list(at.project)).runs) await at.runs.change(run.id, { starred: true })
    await add(7)
    expect(await seeds(at)).toEqual([7, 6, 5, 1])
    expect((await at.db.selectFrom('run_files').select('run_id').execute()).length).toBe(4)
  })

  test('a smaller budget lets go at once', async () => {
    const at = await fresh()
    for (let seed = 0; seed < 5; seed++) await at.runs.add(at.project, of(seed), megabytes(4), NOWHERE)
    await at.runs.setBudget(12)
    expect([await seeds(at), (await at.runs.list(at.project)).budget]).toEqual([[4, 3, 2], 12])
  })
})

test('what is listed of a run is read from its file; a file that is none says why', async () => {
  const { documents, program } = await readFolder('demo/projects/kiss-the-fender')
  const inputs = { ...documents, program, realism: 'rough', seed: 9, limit: 2 } as const
  const opened = await openRun(inputs)
  if (!opened.ok) throw new Error('refused')
  opened.simulation.runToEnd()
  expect(facts(writeKept('x', inputs, opened.simulation))).toMatchObject({ ok: true, value: { seed: 9, realism: 'rough', ticks: 100, fingerprint: opened.simulation.tape.digest(), originTicks: null, outline: { ended: 'time', goals: [{ status: 'failed' }, { status: 'met' }, { status: 'met' }] } } })
  expect(facts(Buffer.from('no run'))).toMatchObject({ ok: false, problems: [{ path: 'the file', message: 'this is no tape' }] })
  opened.simulation.free()
})
