import { describe, expect, it } from 'vitest'
import { ITEMS, layOut, readArena } from '../../../core/arena'
import { GOAL_KINDS, readTask } from '../../../core/task'
import { fieldsOf, reshape, type Field } from '../../../app/features/arena/fields'
import { freshGoal } from '../../../app/features/arena/goals'
import { goalMarks } from '../../../app/features/arena/marks'
import { snap } from '../../../app/features/arena/snap'
import { align, boundsOf, canTurn, dragCorner, dragPoint, distribute, middleOf, mirror, moveBy, outlineOf, pointsOf, turnAbout, type Pen, type Raw } from '../../../app/features/arena/things'

const PEN: Pen = { length: m => `${Math.round(m * 1000) / 10} cm`, angle: a => `${Math.round(a * 1800 / Math.PI) / 10} deg` }
const ref = (list: string) => ({ list, index: 0 })
const wall = (): Raw => ({ from: ['1 m', '1 m'], to: ['2 m', '1 m'] })
const box = (at: readonly [string, string] = ['1 m', '1 m']): Raw => ({ kind: 'box', shape: 'box', length: '20 cm', width: '10 cm', height: '5 cm', at })

describe('a thing as it is written', () => {
  it('moves with all of its points, whatever it is', () => {
    for (const item of ITEMS) {
      const raw: Raw = structuredClone(item.fresh(1, 1, 'new'))
      const [x, y] = middleOf(raw)
      moveBy(raw, 0.25, -0.5, PEN)
      expect(middleOf(raw)[0], item.one).toBeCloseTo(x + 0.25)
      expect(middleOf(raw)[1], item.one).toBeCloseTo(y - 0.5)
    }
  })

  it('turns to the right about a place: a wall by its ends, a piece by its turn', () => {
    const w = wall()
    turnAbout(ref('walls'), w, [1, 1], Math.PI / 2, PEN)
    expect(w).toEqual({ from: ['100 cm', '100 cm'], to: ['100 cm', '0 cm'] })
    const b = { ...box(), turn: '170 deg' }
    turnAbout(ref('pieces'), b, [1, 1], Math.PI / 9, PEN)
    expect(b).toMatchObject({ at: ['100 cm', '100 cm'], turn: '-170 deg' })
    const start: Raw = { at: ['1 m', '1 m'], heading: '0 deg' }
    turnAbout(ref('start'), start, [1, 1], Math.PI / 2, PEN)
    expect(start['heading']).toBe('90 deg')
  })

  it('says what cannot be turned: areas, lamps, and what the seed places', () => {
    expect(canTurn(ref('areas'), { at: ['1 m', '1 m'], size: ['1 m', '1 m'] })).toBe(false)
    expect(canTurn(ref('crates'), { area: { at: ['1 m', '1 m'], size: ['1 m', '1 m'] }, size: ['1 m', '1 m'] })).toBe(false)
    expect(canTurn(ref('walls'), wall())).toBe(true)
  })

  it('is mirrored with its turn', () => {
    const b = { ...box(['1.2 m', '1 m']), turn: '30 deg' }
    mirror(ref('pieces'), b, 1, PEN)
    expect(b).toMatchObject({ at: ['80 cm', '100 cm'], turn: '-30 deg' })
    const start: Raw = { at: ['1 m', '1 m'], heading: '30 deg' }
    mirror(ref('start'), start, 1, PEN)
    expect(start['heading']).toBe('150 deg')
  })

  it('is dragged by one of its points, and by its corner however it is turned', () => {
    const w = wall()
    dragPoint(w, 1, [1.5, 2], PEN)
    expect(pointsOf(w)).toEqual([[1, 1], [1.5, 2]])
    const crate: Raw = { name: 'c', at: ['1 m', '1 m'], size: ['20 cm', '20 cm'], turn: '90 deg' }
    // The corner 30 cm south and 10 cm east of the middle, in the crate's own frame 30 cm east.
    dragCorner(ref('crates'), crate, [1.1, 0.7], PEN)
    expect(crate['size']).toEqual(['60 cm', '20 cm'])
  })

  it('is aligned with others by edges, and put at even distances', () => {
    const things = [box(['50 cm', '50 cm']), box(['1 m', '70 cm']), box(['2 m', '90 cm'])].map((raw, index) => ({ ref: { list: 'pieces', index }, raw }))
    distribute(things, PEN)
    expect(things.map(t => middleOf(t.raw)[0])).toEqual([0.5, 1.25, 2])
    align(things, 'south', PEN)
    expect(new Set(things.map(t => boundsOf([t])[1].toFixed(3)))).toEqual(new Set(['0.450']))
  })

  it('has an outline as its turn says', () => {
    expect(outlineOf(ref('pieces'), { ...box(), turn: '90 deg' })).toEqual({ shape: 'box', at: [1, 1], size: [0.2, 0.1], turn: Math.PI / 2 })
    expect(boundsOf([{ ref: ref('pieces'), raw: { ...box(), turn: '90 deg' } }]).map(v => v.toFixed(3))).toEqual(['0.950', '0.900', '1.050', '1.100'])
  })
})

describe('snapping', () => {
  it('takes the nearest end, else a line with one, else the grid', () => {
    expect(snap([1.02, 0.51], [[1, 0.5], [2, 2]], 0.05, 0.1)).toEqual({ at: [1, 0.5], to: 'end' })
    expect(snap([1.02, 0.86], [[1, 0.5]], 0.05, 0.1)).toEqual({ at: [1, 0.9], to: 'along' })
    const free = snap([0.33, 0.86], [[1, 0.5]], 0.05, 0.1)
    expect(free.to).toBe('grid')
    expect(free.at.map(v => v.toFixed(2))).toEqual(['0.30', '0.90'])
    expect(snap([0.333, 0.866], [], 0.05, 0)).toEqual({ at: [0.333, 0.866], to: null })
  })
  it('goes along the edges of what stands there, by steps of the grid from their beginning', () => {
    const wall = [[1, 1], [2, 2]] as const
    const step = Math.SQRT1_2 / 10
    const on = snap([1.23, 1.2], [], 0.1, 0.1, [wall])
    expect([on.to, ...on.at.map(v => v.toFixed(6))]).toEqual(['edge', (1 + 3 * step).toFixed(6), (1 + 3 * step).toFixed(6)])
    expect(snap([1.23, 1.2], [], 0.1, 0, [wall]).at[0]).toBeCloseTo(1.215, 6)
    expect([snap([1.4, 1.2], [], 0.1, 0, [wall]).to, snap([2.1, 2.15], [], 0.1, 0, [wall]).to]).toEqual([null, null])
    // Its end is nearer than the edge itself.
    expect(snap([1.02, 1.03], [wall[0]], 0.1, 0.1, [wall]).to).toBe('end')
  })
})

describe('what the panel and the task show', () => {
  const fieldOf = (list: string, name: string) => { const item = ITEMS.find(i => i.list === list)!; return fieldsOf(item.schema, item.says).find(f => f.form !== 'value' && f.name === name)! }
  const namesIn = (field: Field): string[] => 'fields' in field ? field.fields.map(f => f.form === 'value' ? f.spec.name : f.name) : []
  it('has fields for the parts of lamps and belts, down to what a feeder brings', () => {
    expect([fieldOf('lamps', 'on').form, namesIn(fieldOf('lamps', 'on'))]).toEqual(['list', ['from', 'to']])
    const feeder = fieldOf('belts', 'feeder') as Extract<Field, { form: 'part' | 'list' }>
    expect([feeder.form, namesIn(feeder)]).toEqual(['part', ['first', 'every', 'items']])
    expect(namesIn(feeder.fields.find(f => f.form === 'list')!)).toEqual(expect.arrayContaining(['kind', 'shape', 'diameter', 'color', 'count']))
  })
  it.each([
    [{ shape: 'ball', diameter: '5 cm', height: '6 cm', stack: 2 }, false, { shape: 'ball', diameter: '5 cm' }],
    [{ shape: 'box', diameter: '5 cm', height: '6 cm' }, false, { shape: 'box', length: '5 cm', width: '5 cm', height: '6 cm' }],
    [{ shape: 'cylinder', length: '5 cm', width: '8 cm', height: '6 cm' }, false, { shape: 'cylinder', diameter: '5 cm', height: '6 cm' }],
    [{ shape: 'cylinder', diameter: '5 cm' }, false, { shape: 'cylinder', diameter: '5 cm', height: '10 cm' }],
    [{ shape: 'disc', size: ['30 cm', '20 cm'] }, true, { shape: 'disc', diameter: '30 cm' }],
    [{ shape: 'box', diameter: '30 cm' }, true, { shape: 'box', size: ['30 cm', '30 cm'] }],
  ])('another shape takes its measures from the one before: %j', (raw, paint, after) => {
    const now = { ...raw }
    reshape(now, paint)
    expect(now).toEqual(after)
  })
  it('has a field for each that an item can have', () => {
    for (const item of ITEMS) {
      const names = fieldsOf(item.schema, item.says).map(f => f.form === 'value' ? f.spec.name : f.name)
      expect(names.sort()).toEqual(Object.keys(item.says).sort())
    }
  })

  const arena = readArena({
    mindpath: 'arena', version: 1, name: 'quay', size: ['2 m', '2 m'], start: { at: ['30 cm', '30 cm'] },
    pieces: [{ name: 'fender', kind: 'fender', shape: 'box', length: '20 cm', width: '40 cm', height: '10 cm', at: ['1 m', '1 m'] }],
    areas: [{ name: 'home', at: ['50 cm', '50 cm'], size: ['40 cm', '20 cm'] }], lines: [{ name: 'rope', points: [['0 m', '1 m'], ['1 m', '1 m']] }],
  })
  if (!arena.ok) throw new Error(JSON.stringify(arena.problems))

  it('begins every kind of goal so that it can be asked here', () => {
    for (const kind of GOAL_KINDS) {
      expect(kind.summary, kind.goal).toMatch(/^[a-z].*[^.]$/)
      const task = readTask({ mindpath: 'task', version: 1, name: 't', title: 'T', goals: [freshGoal(kind, arena.value, ['horn'])] }, arena.value)
      expect(task, kind.goal).toMatchObject({ ok: true })
    }
  })

  it('marks goals where they lie: around a thing, in an area, along a line; others nowhere', () => {
    const task = readTask({
      mindpath: 'task', version: 1, name: 't', title: 'T',
      goals: [{ goal: 'at-distance', of: 'fender', distance: '10 cm', within: '2 cm' }, { goal: 'robot-in', area: 'home' }, { goal: 'follow', line: 'rope' }, { goal: 'finish' }],
    }, arena.value)
    if (!task.ok) throw new Error(JSON.stringify(task.problems))
    const marks = goalMarks(task.value.goals, layOut(arena.value, 1))
    expect(marks.map(m => m.words)).toEqual(['1', '2', '3'])
    expect(marks[0]!.path.map(p => p.map(v => v.toFixed(2)))).toEqual([['0.80', '0.70'], ['1.20', '0.70'], ['1.20', '1.30'], ['0.80', '1.30']])
    expect(marks[1]!.at).toEqual([0.5, 0.5])
    expect(marks[2]!.at).toEqual([1, 1])
  })
})
