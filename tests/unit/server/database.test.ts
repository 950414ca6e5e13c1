import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import Sqlite from 'better-sqlite3'
import { Kysely, Migrator, SqliteDialect } from 'kysely'
import { describe, expect, test } from 'vitest'
import { loadDemo, loadShelf, readDemo } from '../../../server/database/demo'
import { MIGRATIONS } from '../../../server/database/migrations'
import { DATABASE_FILE, openDatabase } from '../../../server/database/open'
import { ProjectRepository } from '../../../server/database/projects'
import { ShelfRepository } from '../../../server/database/shelf'
import { troubleOf } from '../../../server/database/trouble'

const folder = () => mkdtempSync(join(tmpdir(), 'mindpath-'))
/** Whether this machine lets a test have a disk of its own. */
function canMount(): boolean {
  const dir = folder()
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=100k', 'tmpfs', dir], { stdio: 'ignore' })
    execFileSync('umount', ['-l', dir])
    return true
  } catch {
    return false
  }
}
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

describe('what is kept for any project', () => {
  test('is found by kind in the order in which it was kept; deleting is undone by restoring', async () => {
    const { db } = await fresh()
    const shelf = new ShelfRepository(db, now)
    expect(await shelf.neverHadAny('robot')).toBe(true)
    const first = await shelf.add('robot', { name: 'limpet' })
    const second = await shelf.add('robot', { name: 'heron' })
    const arena = await shelf.add('arena', { name: 'quay' })
    expect(await shelf.list('robot')).toMatchObject([{ id: first, value: { name: 'limpet' } }, { id: second, value: { name: 'heron' } }])
    expect(await shelf.list('arena')).toMatchObject([{ id: arena, value: { name: 'quay' } }])
    expect([await shelf.remove('robot', first), await shelf.remove('robot', first), await shelf.remove('robot', arena)]).toEqual([true, false, false])
    expect((await shelf.list('robot')).map(r => r.id)).toEqual([second])
    expect([await shelf.restore('arena', first), await shelf.restore('robot', first), await shelf.restore('robot', first)]).toEqual([false, true, false])
    expect((await shelf.list('robot')).length).toBe(2)
    expect(await shelf.neverHadAny('task')).toBe(true)
  })
  test('all deleted, the demo robots do not come back', async () => {
    const { db } = await fresh()
    const shelf = new ShelfRepository(db, now)
    await loadShelf(shelf, 'robot')
    const names = async (kind: 'robot' | 'arena' | 'task') => (await shelf.list(kind)).map(r => (r.value as { name: string }).name).sort()
    expect(await names('robot')).toEqual(['cuttle', 'heron', 'limpet', 'limpet_plough', 'limpet_watch', 'winkle'])
    for (const { id } of await shelf.list('robot')) await shelf.remove('robot', id)
    expect(await shelf.neverHadAny('robot')).toBe(false)
    await loadShelf(shelf, 'arena')
    await loadShelf(shelf, 'task')
    expect([(await names('arena')).length, (await names('task')).length]).toEqual([12, 12])
  })
  test('robots kept before arenas and tasks were go on, deleted ones too', async () => {
    const dir = folder()
    const sqlite = new Sqlite(join(dir, DATABASE_FILE))
    const db = new Kysely<unknown>({ dialect: new SqliteDialect({ database: sqlite }) })
    const before = Object.fromEntries(Object.entries(MIGRATIONS).filter(([name]) => name < '0004'))
    await new Migrator({ db, provider: { getMigrations: () => Promise.resolve(before) } }).migrateToLatest()
    sqlite.exec("insert into documents values ('d1', '{\"name\":\"limpet\"}'), ('d2', '{\"name\":\"heron\"}')")
    sqlite.exec("insert into robots values ('r1', 'd1', '2026-01-01', null), ('r2', 'd2', '2026-01-02', '2026-01-03')")
    await db.destroy()
    const shelf = new ShelfRepository((await openDatabase(dir, now)).db, now)
    expect((await shelf.list('robot')).map(k => [k.id, k.document])).toEqual([['r1', 'd1']])
    expect(await shelf.restore('robot', 'r2')).toBe(true)
  })
})

describe('the database file', () => {
  test('is opened again with what it holds', async () => {
    const dir = folder()
    const first = await openDatabase(dir, now)
    expect(first.damaged).toBeNull()
    const id = await new ProjectRepository(first.db, now).create('A', documents, 'one')
    await first.close()
    const second = await openDatabase(dir, now)
    expect(second.damaged).toBeNull()
    expect((await new ProjectRepository(second.db, now).find(id))!.title).toBe('A')
    await second.close()
  })
  test('when damaged is kept aside, whole, and a new one begun', async () => {
    const dir = folder()
    writeFileSync(join(dir, DATABASE_FILE), 'this was a database once'.repeat(200))
    const { damaged, db } = await openDatabase(dir, now)
    expect(damaged).not.toBeNull()
    expect(readFileSync(damaged!, 'utf8')).toContain('this was a database once')
    expect(readdirSync(dir).filter(f => f.includes('damaged')).length).toBe(1)
    await new ProjectRepository(db, now).create('A', documents, 'one')
  })
  test('of 0 bytes, as a kill leaves it, is begun', async () => {
    const dir = folder()
    writeFileSync(join(dir, DATABASE_FILE), '')
    const { damaged, db } = await openDatabase(dir, now)
    expect(damaged).toBeNull()
    expect(await new ProjectRepository(db, now).neverHadAny()).toBe(true)
  })
  test('with tables of a migration that was never finished is completed', async () => {
    const dir = folder()
    const sqlite = new Sqlite(join(dir, DATABASE_FILE))
    sqlite.exec('create table robots (id text)')
    sqlite.close()
    const { db } = await openDatabase(dir, now)
    const shelf = new ShelfRepository(db, now)
    await shelf.add('robot', { name: 'limpet' })
    expect((await shelf.list('robot')).length).toBe(1)
  })
  test('of a newer version is refused in a sentence and not touched', async () => {
    const dir = folder()
    await (await openDatabase(dir, now)).close()
    const path = join(dir, DATABASE_FILE)
    const sqlite = new Sqlite(path)
    sqlite.exec("insert into kysely_migration values ('9999-later', '2030-01-01')")
    sqlite.pragma('wal_checkpoint(TRUNCATE)')
    sqlite.close()
    const before = readFileSync(path)
    await expect(openDatabase(dir, now)).rejects.toThrow(/newer version of Mindpath and was not touched/)
    expect(readFileSync(path).equals(before)).toBe(true)
    expect(readdirSync(dir).filter(f => f.includes('damaged'))).toEqual([])
  })
  test('locked by another program is neither put aside nor touched, and opens when it is free', async () => {
    const dir = folder()
    await (await openDatabase(dir, now)).close()
    const other = new Sqlite(join(dir, DATABASE_FILE))
    other.pragma('locking_mode = EXCLUSIVE')
    other.exec('begin exclusive')
    await expect(openDatabase(dir, now)).rejects.toThrow(/locked by another program/)
    other.close()
    const { damaged } = await openDatabase(dir, now)
    expect(damaged).toBeNull()
  })
  test('of a folder that another server has is refused', async () => {
    const dir = folder()
    const first = await openDatabase(dir, now)
    await expect(openDatabase(dir, now)).rejects.toMatchObject({ kind: 'in-use', message: expect.stringContaining(dir) as string })
    await first.close()
    await (await openDatabase(dir, now)).close()
  })
  test('in a folder that is a file is refused in a sentence', async () => {
    const path = join(folder(), 'notes.txt')
    writeFileSync(path, 'mine')
    await expect(openDatabase(path, now)).rejects.toThrow(`${path} is not a folder`)
    expect(readFileSync(path, 'utf8')).toBe('mine')
  })
  test.skipIf(!canMount())('in a folder that cannot be written to is shown, and says that nothing can be saved', async () => {
    const dir = folder()
    const first = await openDatabase(dir, now)
    const id = await new ProjectRepository(first.db, now).create('A', documents, 'one')
    await first.close()
    execFileSync('mount', ['--bind', dir, dir])
    execFileSync('mount', ['-o', 'remount,ro,bind', dir])
    try {
      const { db, notice, close } = await openDatabase(dir, now)
      expect(notice).toContain('cannot be written to')
      const projects = new ProjectRepository(db, now)
      expect((await projects.find(id))!.title).toBe('A')
      await expect(projects.save(id, 1, { program: 'two' })).rejects.toMatchObject({ code: 'SQLITE_READONLY' })
      await close()
    } finally {
      execFileSync('umount', ['-l', dir])
    }
  })
  test.skipIf(!canMount())('on a full disk is shown, and a save says why it failed', async () => {
    const dir = folder()
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', dir])
    try {
      const { db, close } = await openDatabase(dir, now)
      const projects = new ProjectRepository(db, now)
      const id = await projects.create('A', documents, 'one')
      const error: unknown = await projects.save(id, 1, { program: 'x'.repeat(2_000_000) }).catch((e: unknown) => e)
      expect(troubleOf(error, dir)).toMatchObject({ kind: 'full', status: 507 })
      expect((await projects.find(id))!.program).toBe('one')
      await close()
    } finally {
      execFileSync('umount', ['-l', dir])
    }
  })
})

describe('documents', () => {
  const sound = 'UklGR'.repeat(20_000)
  test('with a long text in them come back as they were, and the text is kept once for all revisions', async () => {
    const { db, projects } = await fresh()
    const robot = { name: 'limpet', clips: [{ name: 'gull', wav: sound }] }
    const id = await projects.create('A', { ...documents, robot }, 'one')
    await projects.save(id, 1, { program: 'one', robot: { ...robot, about: 'changed' } })
    expect((await projects.find(id))!.robot).toEqual({ ...robot, about: 'changed' })
    const sizes = await db.selectFrom('documents').select('body').execute()
    expect(sizes.filter(s => s.body.length > 50_000).length).toBe(1)
  })
  test('one that is damaged makes its own project unreadable, by name, and the list and the others work', async () => {
    const { db, projects } = await fresh()
    const good = await projects.create('Good', documents, 'one')
    const bad = await projects.create('Bad', { ...documents, robot: { name: 'heron' } }, 'one')
    const { robot } = await db.selectFrom('revisions').select('robot').where('project_id', '=', bad).executeTakeFirstOrThrow()
    await db.updateTable('documents').set({ body: '{"name": "her' }).where('id', '=', robot).execute()
    expect((await projects.list()).map(p => [p.title, p.broken, p.robotName])).toEqual([['Bad', true, '?'], ['Good', false, 'limpet']])
    await expect(projects.find(bad)).rejects.toThrow(/robot of “Bad” is damaged/)
    expect((await projects.find(good))!.title).toBe('Good')
    expect((await projects.used('robot')).map(r => r.name)).toEqual(['limpet'])
  })
  test('what projects have is offered once each, the last changed first; a task once for each of its arenas', async () => {
    const { projects } = await fresh()
    const task = { name: 'night', title: 'Night rounds', about: 'touch nothing' }
    await projects.create('A', { robot: { name: 'limpet', about: 'a rover' }, arena: { name: 'yard' }, task }, '')
    await projects.create('B', { robot: { name: 'limpet', about: 'a rover' }, arena: { name: 'quay' }, task }, '')
    const gone = await projects.create('C', { robot: { name: 'gone' }, arena: { name: 'gone' }, task: null }, '')
    await projects.remove(gone)
    const robots = await projects.used('robot')
    expect(robots.map(r => [r.name, r.about])).toEqual([['limpet', 'a rover']])
    const arenas = await projects.used('arena')
    expect(arenas.map(a => [a.name, a.project]).sort()).toEqual([['quay', 'B'], ['yard', 'A']])
    const tasks = await projects.used('task')
    expect(new Set(tasks.map(t => t.name))).toEqual(new Set(['Night rounds']))
    expect(tasks.map(t => t.arena).sort()).toEqual(arenas.map(a => a.document).sort())
  })
  test('the list asks one question, however many projects there are', async () => {
    const dir = folder()
    const { db } = await openDatabase(dir, now)
    const projects = new ProjectRepository(db, now)
    for (let i = 0; i < 30; i++) await projects.create(`P${i}`, { ...documents, robot: { name: `r${i}` } }, 'one')
    let asked = 0
    const counting = db.withPlugin({ transformQuery: ({ node }) => { asked++; return node }, transformResult: ({ result }) => Promise.resolve(result) })
    const list = await new ProjectRepository(counting, now).list()
    expect([list.length, list[0]!.robotName, asked]).toEqual([30, 'r29', 1])
  })
})
