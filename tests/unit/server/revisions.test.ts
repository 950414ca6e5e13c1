import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { openDatabase } from '../../../server/database/open'
import { ProjectRepository } from '../../../server/database/projects'
import { thinned } from '../../../server/database/thinning'
import { chosenText, sidesOf, stretchesOf } from '../../../app/draft/differences'

const HOUR = 3600_000
const now = new Date(Date.UTC(2026, 5, 15, 12))
const seed = Number(process.env['SEED'] ?? 4)

describe('revisions thin out with age', () => {
  test('all of a day stay, then one an hour, after a week one a day; the newest and what ran stay; again, nothing more goes', () => {
    fc.assert(fc.property(fc.array(fc.record({ hours: fc.double({ min: 0, max: 24 * 30, noNaN: true }), stays: fc.boolean() }), { minLength: 1, maxLength: 120 }), (made) => {
      const all = [...made].sort((a, b) => b.hours - a.hours).map((m, i) => ({ number: i + 1, at: new Date(now.getTime() - m.hours * HOUR).toISOString(), stays: m.stays }))
      const gone = new Set(thinned(all, now))
      const left = all.filter(r => !gone.has(r.number))
      const age = (r: { at: string }) => (now.getTime() - Date.parse(r.at)) / HOUR
      for (const r of all) if (r.stays || age(r) <= 24 || r.number === all.length) expect([r, gone.has(r.number)]).toEqual([r, false])
      // At most one of each hour, and later of each day, but for those that stay anyhow.
      const slots = (from: number, to: number, size: number): number[] => left.filter(r => !r.stays && r.number !== all.length && age(r) > from && age(r) <= to).map(r => Math.floor(Date.parse(r.at) / (size * HOUR)))
      for (const taken of [slots(24, 24 * 7, 1), slots(24 * 7, Infinity, 24)]) expect(new Set(taken).size).toBe(taken.length)
      // Something of every hour, and of every day, is left.
      const hours = (rows: readonly { at: string }[]) => new Set(rows.filter(r => age(r) <= 24 * 7).map(r => Math.floor(Date.parse(r.at) / HOUR)))
      expect(hours(left)).toEqual(hours(all))
      expect(thinned(left, now)).toEqual([])
    }), { seed, numRuns: 200 })
  })
  test('a mark keeps one; taken away, it goes with the others; documents that changed are named', async () => {
    let at = now.getTime() - 40 * 24 * HOUR
    const { db } = await openDatabase(mkdtempSync(join(tmpdir(), 'mindpath-')), () => new Date(at))
    const projects = new ProjectRepository(db, () => new Date(at))
    const id = await projects.create('A', { robot: { name: 'limpet' }, arena: { name: 'quay' }, task: null }, 'one')
    const saves = async (from: number, to: number): Promise<void> => { for (let i = from; i < to; i++) { at += 1000; await projects.save(id, i, { program: `p${i}` }) } }
    await saves(1, 10)
    expect([await projects.mark(id, 5, true), await projects.mark(id, 99, true), await projects.mark('nowhere', 5, true)]).toEqual([true, false, false])
    at = now.getTime()
    await saves(10, 21)
    expect((await projects.revisions(id))!.filter(r => r.number < 10).map(r => [r.number, r.marked])).toEqual([[5, true]])
    await projects.mark(id, 5, false)
    await saves(21, 41)
    expect((await projects.revisions(id))!.some(r => r.number === 5)).toBe(false)
    await projects.save(id, 41, { program: 'p40', arena: { name: 'yard' }, task: { name: 'night' } })
    expect((await projects.revisions(id))![0]).toMatchObject({ number: 42, changed: ['arena', 'task'] })
    expect(await projects.revision(id, 42)).toEqual({ program: 'p40', robot: { name: 'limpet' }, arena: { name: 'yard' }, task: { name: 'night' } })
    await projects.save(id, 42, { program: 'p40', task: null })
    expect((await projects.find(id))!.task).toBeNull()
  })
  test('in the database, where each is found with its program and robot, and none of another project', async () => {
    let at = now.getTime() - 40 * 24 * HOUR
    const { db } = await openDatabase(mkdtempSync(join(tmpdir(), 'mindpath-')), () => new Date(at))
    const projects = new ProjectRepository(db, () => new Date(at))
    const id = await projects.create('A', { robot: { name: 'limpet' }, arena: { name: 'quay' }, task: null }, 'one')
    const other = await projects.create('B', { robot: { name: 'limpet' }, arena: { name: 'quay' }, task: null }, 'other')
    for (let i = 1; i < 60; i++) {
      // Five an hour, then five today.
      at = i < 55 ? at + HOUR / 5 : now.getTime() + i
      expect(await projects.save(id, i, i === 3 ? { program: `p${i}`, robot: { name: 'winkle' } } : { program: `p${i}` })).toMatchObject({ saved: true })
      if (i === 2) await projects.ran(id, 3)
    }
    const list = (await projects.revisions(id))!
    expect(list[0]).toMatchObject({ number: 60, length: 3, ran: false })
    expect(list.length).toBeLessThan(25)
    expect(list.slice(0, 5).map(r => r.number)).toEqual([60, 59, 58, 57, 56])
    expect(list.find(r => r.ran)?.number).toBe(3)
    expect(await projects.revision(id, 3)).toMatchObject({ program: 'p2', robot: { name: 'limpet' } })
    expect(await projects.revision(id, 60)).toMatchObject({ program: 'p59', robot: { name: 'winkle' } })
    expect(await projects.revision(other, 3)).toBeNull()
    await projects.remove(id)
    expect([await projects.revisions(id), await projects.revision(id, 60), await projects.revisions('nowhere')]).toEqual([null, null, null])
  })
})

describe('two texts side by side', () => {
  test('each is whole, and what is marked on one side is missing on the other', () => {
    const lines = fc.array(fc.constantFrom('halt', 'drive 9 cm/s', '', '  wait 1 s', 'otherwise'), { maxLength: 12 })
    fc.assert(fc.property(lines, lines, (a, b) => {
      const text = (l: readonly string[]): string => l.length === 0 ? '' : `${l.join('\n')}\n`
      const { before, after } = sidesOf(text(a), text(b))
      expect(before.map(l => l.text)).toEqual(a)
      expect(after.map(l => l.text)).toEqual(b)
      expect(before.filter(l => !l.own).map(l => l.text)).toEqual(after.filter(l => !l.own).map(l => l.text))
    }), { seed })
  })
  test('with a side chosen at each place: all of one gives that text, and what both have always stays', () => {
    const lines = fc.array(fc.constantFrom('halt', 'drive 9 cm/s', '', '  wait 1 s', 'otherwise'), { maxLength: 12 })
    fc.assert(fc.property(lines, lines, fc.infiniteStream(fc.boolean()), (a, b, choices) => {
      const text = (l: readonly string[]): string => l.length === 0 ? '' : `${l.join('\n')}\n`
      const all = stretchesOf(text(a), text(b))
      const places = all.filter(s => 'mine' in s)
      expect(chosenText(all, places.map(() => 'mine'))).toBe(text(a))
      expect(chosenText(all, places.map(() => 'theirs'))).toBe(text(b))
      const sides = places.map(() => choices.next().value ? 'mine' as const : 'theirs' as const)
      const came = chosenText(all, sides).split('\n')
      const length = all.reduce((n, s) => n + ('same' in s ? s.same.length : 0), 0) + places.reduce((n, s, i) => n + s[sides[i]!].length, 0)
      expect(came.length - 1).toBe(length)
    }), { seed })
  })
})
