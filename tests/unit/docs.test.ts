import { readdirSync, readFileSync } from 'node:fs'
import { beforeAll, describe, expect, test } from 'vitest'
import { applyChanges, isEditable, outlineOf, replacePiece, sheetOf, toggleOff } from '../../core/editing'
import { ITEMS, MATERIALS, readArena } from '../../core/arena'
import { BOARDS } from '../../core/hardware'
import { loadPhysics } from '../../core/physics'
import { readRobot } from '../../core/robot'
import { POKE_FIELDS } from '../../core/simulation'
import { GOAL_KINDS } from '../../core/task'
import { demoProjects } from '../../prove/fingerprints'
import { documentsReference, withConnections } from '../../prove/reference'
import { programsOf } from '../../prove/tasks'
import { courseProblems, readCourse, rulesOfMeaning } from './course'
import { demoParts, diagnosticsOf, factsFor, simulate } from './kit'

beforeAll(loadPhysics)

const read = (path: string) => readFileSync(new URL(`../../${path}`, import.meta.url), 'utf8')
/** Programs and the demo robots that they are for. */
const examples = ['docs/language.md', 'docs/measuring.md'].flatMap(page => [...read(page).matchAll(/```mindpath(?: robot=(\w+))?\n([\s\S]*?)```/g)]).map(m => [m[1] ?? 'limpet', m[2]!] as const)

describe('the reference of the language', () => {
  test('has its examples', () => { expect(examples.length).toBeGreaterThanOrEqual(8) })
  test.each(examples.map((e, i) => [i + 1, ...e] as const))('example %i, for %s, is right and runs', (_n, robot, program) => {
    // A hint is no mistake: some examples show what it is about.
    expect(diagnosticsOf(program, factsFor(robot)).filter(d => d.severity !== 'hint').map(d => `${d.severity} ${d.code}: ${d.message}`)).toEqual([])
    const s = simulate(demoParts('bollard-yard', null, robot), program, { limit: 8 })
    const end = s.runToEnd()
    expect(end.ended).not.toBe('error')
    // Something happens: it moves, or it ends by itself.
    const { wheels } = s.tape.layout
    const turned = Math.max(...Array.from({ length: s.tape.rows - s.tape.first }, (_, t) => Math.abs(s.tape.at(s.tape.first + t)[wheels]!)))
    expect(turned > 0.5 || end.ended === 'finished').toBe(true)
    s.free()
  })
  const rules = rulesOfMeaning()
  test.each([...examples.map(e => e[1]), ...[...read('docs/language.md').matchAll(/```program\n([\s\S]*?)```/g)].map(m => m[1]!)].map((e, i) => [i + 1, e] as const))('program %i reads the same after a round trip through Rules', (_n, program) => {
    const sheet = sheetOf(program)
    const rows = outlineOf(sheet).cards.flatMap(c => c.rows)
    expect(rows.filter(r => r.what === 'unread')).toEqual([])
    let text = program
    // Every rule and every piece is put in its own place again.
    for (const row of rows) {
      for (const p of [...row.when, ...row.until, ...row.steps.flatMap(s => s.pieces)]) if (isEditable(p)) text = applyChanges(text, replacePiece(sheetOf(text), p.from, p.to, p.text)!)
      if (row.what !== 'rule') continue
      const off = applyChanges(text, toggleOff(sheetOf(text), row.at)!)
      expect(off).not.toBe(text)
      text = applyChanges(off, toggleOff(sheetOf(off), row.at)!)
    }
    expect(text).toBe(program)
  })
  test('numbers its rules of meaning without a gap', () => { expect(rules.map(r => r[0])).toEqual(rules.map((_, i) => `M${i + 1}`)); expect(rules.length).toBeGreaterThan(30) })
  test.each(rules)('%s holds on its course', (_name, program, course) => {
    expect(courseProblems(program, readCourse(course))).toEqual([])
  })
  test('a course that does not hold is told, line by line', () => {
    const program = 'when sonar.sees -> note "x"\notherwise -> drive 20 cm/s'
    expect(courseProblems(program, readCourse('sonar.sees no -> rule 1, drive 10 cm/s\nsonar.sees yes -> rule 1')).map(p => p.replace(/, but .*/, ''))).toEqual([
      'sonar.sees no -> rule 1, drive 10 cm/s: rule 1', 'sonar.sees no -> rule 1, drive 10 cm/s: drive 10 cm/s', 'sonar.sees yes -> rule 1: came note "x"', 'sonar.sees yes -> rule 1: note "x" came 1 times',
    ])
  })
  test('every poke stands in its table with its fields', () => {
    const table = [...read('docs/hands.md').matchAll(/^\| `(\w+)` \| (.*) \|$/gm)].map(m => [m[1]!, [...m[2]!.matchAll(/`(\w+)`/g)].map(f => f[1]!)] as const).slice(1)
    expect(table.map(t => t[0])).toEqual(Object.keys(POKE_FIELDS))
    for (const [name, fields] of table) expect(fields.filter(f => f !== 'robot'), name).toEqual(POKE_FIELDS[name])
  })
  test('every field of every document stands in its reference, as the schemas have it', () => {
    expect(read('docs/documents.md')).toBe(documentsReference())
    expect(documentsReference()).not.toMatch(/undefined|NaN|\[object/)
  })
  test('every way in which a device may be connected, and every board, stands on the page of hardware', () => {
    const page = read('docs/hardware.md')
    expect(page).toBe(withConnections(page))
    for (const { name } of BOARDS) expect(page).toContain(`| \`${name}\` |`)
    const example = JSON.parse(`{${/\n {4}"wiring": ([\s\S]*?)\n\n/.exec(page)![0]}}`) as object
    const limpet = JSON.parse(read('demo/robots/limpet.json')) as object
    expect(readRobot({ ...limpet, ...example })).toMatchObject({ ok: true, value: { wiring: { board: 'rp2040' } } })
  })
  test('every thing of an arena, every material and every goal is explained', () => {
    const [arenas, tasks] = [read('docs/arenas.md'), read('docs/tasks.md')]
    const rows = (page: string): string[] => [...page.matchAll(/^\| `([\w-]+)` \|/gm)].map(m => m[1]!)
    expect(rows(arenas).sort()).toEqual(ITEMS.map(i => i.list).sort())
    expect(rows(tasks).sort()).toEqual(GOAL_KINDS.map(k => k.goal).sort())
    for (const [name, m] of Object.entries(MATERIALS)) expect(arenas).toContain(`| ${name} | ${m.density} | ${m.friction} | ${m.echo} | ${m.color} | ${m.steel ? 'yes' : 'no'} |`)
    const examples = [...arenas.matchAll(/```json\n([\s\S]*?)```/g)].map(m => JSON.parse(m[1]!) as unknown)
    expect(examples.map(e => readArena(e).ok)).toEqual([true])
  })
  test('the table of the demo tasks has every one of their programs', () => {
    const found = [...read('docs/tasks.md').matchAll(/^\| ([a-z-]+) \| ([a-z-]+) \| \d+ of \d+ \(\d+ to \d+ %\) \|/gm)].map(m => `${m[1]!} ${m[2]!}`)
    expect(found).toEqual(demoProjects().flatMap(p => programsOf(p).map(f => `${p} ${f.replace('.mindpath', '')}`)))
  })
  test('links and pictures of the documents exist', () => {
    const root = new Set(readdirSync(new URL('../../docs', import.meta.url)).map(f => `docs/${f}`))
    const pictures = new Set(readdirSync(new URL('../../docs/screenshots', import.meta.url)).map(f => `docs/screenshots/${f}`))
    for (const match of read('README.md').matchAll(/\]\((docs\/[^)]+)\)/g)) expect(root.has(match[1]!) || pictures.has(match[1]!), match[1]).toBe(true)
  })
})
