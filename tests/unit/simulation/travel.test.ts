import fc from 'fast-check'
import { strToU8, zipSync } from 'fflate'
import { describe, expect, test } from 'vitest'
import { LARGEST_PROJECT, filesOf, pack, projectOf, unpack, type TravellingProject } from '../../../core/simulation'

/** Projects that go to a zip and come back. */

const seed = Number(process.env['SEED'] ?? 8)
const plain = fc.jsonValue({ maxDepth: 3 }).filter(v => v !== null)
const project: fc.Arbitrary<TravellingProject> = fc.record({
  title: fc.string({ minLength: 1, maxLength: 80, unit: 'grapheme' }).filter(t => t.trim() !== '' && !/[\uFFFD\0]/.test(t)), program: fc.string({ unit: 'grapheme' }).filter(t => !/[\uFFFD\0]/.test(t)), robot: plain, arena: plain, task: fc.option(plain),
})
const zip = (files: Readonly<Record<string, string>>): Uint8Array => zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)])))

describe('a project in a zip', () => {
  test('comes back as it went, and the same project is the same bytes', () => {
    fc.assert(fc.property(project, (p) => {
      const bytes = pack(p)
      const read = unpack(bytes)
      if (!read.ok) throw new Error(JSON.stringify(read.problems))
      expect(JSON.stringify(read.value)).toBe(JSON.stringify({ title: p.title.trim(), robot: p.robot, arena: p.arena, task: p.task, program: p.program }))
      expect(pack(p)).toEqual(bytes)
    }), { seed, numRuns: 60 })
  })
  test('is found in a folder of its own, with documents elsewhere in the zip', () => {
    const files = filesOf({ title: 'A', program: 'halt', robot: { r: 1 }, arena: { a: 1 }, task: null })
    const list = { ...JSON.parse(files['project.json']!) as object, robot: '../robots/r.json' }
    const read = projectOf({ 'away/project.json': JSON.stringify(list), 'robots/r.json': files['robot.json']!, 'away/arena.json': files['arena.json']!, 'away/program.mindpath': 'halt' })
    expect(read).toMatchObject({ ok: true, value: { title: 'A', robot: { r: 1 }, arena: { a: 1 }, program: 'halt' } })
  })
  test.each([
    ['without project.json', { 'robot.json': '{}' }, 'project.json', 'this is no project'],
    ['with a project.json that is none', { 'project.json': '{"mindpath":"robot","version":1,"title":"A","robot":"a","arena":"a"}' }, 'project.json', 'expected "project"'],
    ['without a document that it names', { 'project.json': '{"mindpath":"project","version":1,"title":"A","robot":"r.json","arena":"a.json"}', 'a.json': '{}', 'program.mindpath': '' }, 'r.json', 'there is no such file'],
    ['with a path out of it', { 'project.json': '{"mindpath":"project","version":1,"title":"A","robot":"../../etc/passwd","arena":"a.json"}', 'a.json': '{}', 'program.mindpath': '' }, '../../etc/passwd', 'there is no such file'],
    ['with a program that is no text', { 'project.json': '{"mindpath":"project","version":1,"title":"A","robot":"a.json","arena":"a.json"}', 'a.json': '{}', 'program.mindpath': '\0\0' }, 'program.mindpath', 'it is no text'],
  ])('%s is told, by its file', (_name, files, at, says) => {
    expect(unpack(zip(files as unknown as Record<string, string>))).toMatchObject({ ok: false, problems: [{ file: at, message: expect.stringContaining(says) as string }] })
  })
  test('that would unpack to more than a project may be is refused before it is unpacked', () => {
    const bomb = zip({ 'project.json': ' '.repeat(LARGEST_PROJECT + 1) })
    expect(bomb.length).toBeLessThan(100_000)
    expect(unpack(bomb)).toMatchObject({ ok: false, problems: [{ message: expect.stringContaining('larger than a project may be') as string }] })
  })
  test('of any bytes is read or refused, never thrown over', () => {
    const good = pack({ title: 'A', program: 'halt', robot: {}, arena: {}, task: null })
    fc.assert(fc.property(fc.uint8Array({ maxLength: 300 }), fc.nat(good.length - 1), fc.nat(255), (bytes, at, value) => {
      expect(typeof unpack(bytes).ok).toBe('boolean')
      expect(typeof unpack(good.map((b, i) => i === at ? value : b)).ok).toBe('boolean')
      expect(typeof unpack(good.slice(0, at)).ok).toBe('boolean')
    }), { seed, numRuns: 300 })
  })
})
