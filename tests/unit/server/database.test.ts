import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, test } from 'vitest'
import { loadDemo, loadRobots, readDemo } from '../../../server/database/demo'
import { DATABASE_FILE, openDatabase } from '../../../server/database/open'
import { ProjectRepository } from '../../../server/database/projects'
import { RobotRepository } from '../../../server/database/robots'

const folder = () => mkdtempSync(join(tmpdir(), 'mindpath-'))
let clock = 0
const now = () => new Date(Date.UTC(2026, 0, 1) + 1000 * clock++)
const documents = { robot: { name: 'limpet' }, arena: { name: 'quay' }, task: null }

async function fresh() {
  const { db } = await openDatabase(folder(), now)
  return { db, projects: new ProjectRepository(db, now) }
}

describe('projects in the database', () => {
  test('what is saved is found again, as a new revision', async () => {
    const { projects } = await fresh()
    const id = await projects.create('A', documents, 'start -> halt')
    expect(await projects.find(id)).toMatchObject({ title: 'A', revision: 1, program: 'start -> halt', robot: { name: 'limpet' }, task: null, ranProgram: null })
    expect(await projects.save(id, 1, { program: 'start -> coast' })).toMatchObject({ saved: true, revision: 2 })
    expect((await projects.find(id))!.program).toBe('start -> coast')
  })
  test('a save on an old revision is refused and changes nothing', async () => {
    const { projects } = await fresh()
    const id = await projects.create('A', documents, 'one')
    await projects.save(id, 1, { program: 'two' })
    expect(await projects.save(id, 1, { program: 'three' })).toEqual({ saved: false, current: 2 })
    expect((await projects.find(id))!.program).toBe('two')
  })
  test('every revision stays', async () => {
    const { db, projects } = await fresh()
    const id = await projects.create('A', documents, 'one')
    for (const [i, text] of ['two', 'three', 'three', 'four'].entries()) await projects.save(id, Math.min(i + 1, i === 3 ? 3 : i + 1), { program: text })
    const all = await db.selectFrom('revisions').select('program').where('project_id', '=', id).orderBy('number').execute()
    expect(all.map(r => r.program)).toEqual(['one', 'two', 'three', 'four'])
    expect((await db.selectFrom('documents').selectAll().execute()).length).toBe(2)
  })
  test('deleting is undone by restoring', async () => {
    const { projects } = await fresh()
    const id = await projects.create('A', documents, 'one')
    expect(await projects.remove(id)).toBe(true)
    expect(await projects.find(id)).toBeNull()
    expect(await projects.save(id, 1, { program: 'two' })).toBeNull()
    expect(await projects.remove(id)).toBe(false)
    expect(await projects.restore(id)).toBe(true)
    expect((await projects.find(id))!.program).toBe('one')
  })
  test('the program that ran last stays at hand', async () => {
    const { projects } = await fresh()
    const id = await projects.create('A', documents, 'good')
    await projects.ran(id, 1)
    await projects.save(id, 1, { program: 'bad' })
    expect(await projects.find(id)).toMatchObject({ program: 'bad', ranProgram: 'good' })
  })
  test('the demo projects are offered in the order of their folders', async () => {
    const { projects } = await fresh()
    await loadDemo(projects)
    expect((await projects.list()).map(p => p.title)).toEqual((await readDemo()).map(d => d.title))
  })
})

describe('kept robots', () => {
  test('are found in the order in which they were kept; deleting is undone by restoring', async () => {
    const { db } = await fresh()
    const robots = new RobotRepository(db, now)
    expect(await robots.neverHadAny()).toBe(true)
    const first = await robots.add({ name: 'limpet' })
    const second = await robots.add({ name: 'heron' })
    expect(await robots.list()).toEqual([{ id: first, robot: { name: 'limpet' } }, { id: second, robot: { name: 'heron' } }])
    expect([await robots.remove(first), await robots.remove(first)]).toEqual([true, false])
    expect((await robots.list()).map(r => r.id)).toEqual([second])
    expect([await robots.restore(first), await robots.restore(first)]).toEqual([true, false])
    expect((await robots.list()).length).toBe(2)
  })
  test('all deleted, the demo robots do not come back', async () => {
    const { db } = await fresh()
    const robots = new RobotRepository(db, now)
    await loadRobots(robots)
    expect((await robots.list()).map(r => (r.robot as { name: string }).name).sort()).toEqual(['cuttle', 'heron', 'limpet', 'winkle'])
    for (const { id } of await robots.list()) await robots.remove(id)
    expect(await robots.neverHadAny()).toBe(false)
  })
})

describe('the database file', () => {
  test('is opened again with what it holds', async () => {
    const dir = folder()
    const first = await openDatabase(dir, now)
    expect([first.fresh, first.damaged]).toEqual([true, null])
    const id = await new ProjectRepository(first.db, now).create('A', documents, 'one')
    await first.db.destroy()
    const second = await openDatabase(dir, now)
    expect([second.fresh, second.damaged]).toEqual([false, null])
    expect((await new ProjectRepository(second.db, now).find(id))!.title).toBe('A')
  })
  test('when damaged is kept aside, whole, and a new one begun', async () => {
    const dir = folder()
    writeFileSync(join(dir, DATABASE_FILE), 'this was a database once'.repeat(200))
    const { damaged, fresh, db } = await openDatabase(dir, now)
    expect(fresh).toBe(true)
    expect(damaged).not.toBeNull()
    expect(readFileSync(damaged!, 'utf8')).toContain('this was a database once')
    expect(readdirSync(dir).filter(f => f.includes('damaged')).length).toBe(1)
    await new ProjectRepository(db, now).create('A', documents, 'one')
  })
})
