import type { SchemaObjectDescription } from 'yup'
import { describe, expect, it } from 'vitest'
import { ITEMS, MATERIALS, layOut, readArena, type Arena } from '../../core/arena'

const EMPTY = { mindpath: 'arena', version: 1, name: 'bare', size: ['4 m', '3 m'], start: { at: ['20 cm', '20 cm'] } }

function arena(parts: object): Arena {
  const read = readArena({ ...EMPTY, ...parts })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

describe('what can stand in an arena', () => {
  for (const item of ITEMS) {
    it(`says of a ${item.one} what each of its fields does`, () => {
      const { fields } = item.schema.describe() as SchemaObjectDescription
      expect(Object.keys(item.says).sort()).toEqual(Object.keys(fields).sort())
      for (const [field, says] of Object.entries(item.says)) expect(says, field).toMatch(/^[A-Z].*[.]$/)
    })

    it(`begins a ${item.one} that can stand there`, () => {
      const read = readArena({ ...EMPTY, [item.list]: [item.fresh(2, 1.5, 'new')] })
      expect(read).toMatchObject({ ok: true })
    })
  }
})

describe('materials', () => {
  const piece = (fields: object) => arena({ pieces: [{ kind: 'block', shape: 'box', length: '10 cm', width: '10 cm', height: '10 cm', at: ['1 m', '1 m'], ...fields }] }).pieces[0]!

  it('give a piece weight by its size, friction, echo, colour and steel', () => {
    expect(piece({ material: 'wood' }).mass).toBeCloseTo(0.55)
    expect(piece({ material: 'steel' })).toMatchObject({ friction: 0.4, echo: 'smooth', steel: true, color: 'blue' })
    expect(piece({ material: 'steel' }).mass).toBeCloseTo(7.8)
  })

  it('leave what the piece itself says', () => {
    expect(piece({ material: 'steel', mass: '90 g', color: 'red', friction: 1, echo: 'soft', steel: false })).toMatchObject({ mass: 0.09, color: 'red', friction: 1, echo: 'soft', steel: false })
  })

  it('may be left out', () => {
    expect(piece({})).toMatchObject({ mass: 0.2, friction: 0.5, echo: 'rough', color: 'grey', steel: false })
  })

  it('are told by name', () => {
    const read = readArena({ ...EMPTY, pieces: [{ kind: 'block', shape: 'box', length: '10 cm', width: '10 cm', height: '10 cm', at: ['1 m', '1 m'], material: 'gold' }] })
    expect(read).toMatchObject({ ok: false, problems: [{ path: 'pieces[0].material', value: '"gold"', message: `allowed is one of ${Object.keys(MATERIALS).join(', ')}` }] })
  })
})

describe('walled lanes', () => {
  const LANES = { name: 'alley', at: ['2 m', '1.5 m'], columns: 4, rows: 3, width: '45 cm', thickness: '3 cm' }
  const PITCH = 0.48

  /** How many lanes are reached from the way in without leaving them, how many passages lead between them, and whether the way out can be reached. */
  function walked(written: object, seed: number): { readonly reached: number, readonly passages: number, readonly out: boolean } {
    const { arena: { walls, areas }, start } = layOut(arena({ lanes: [written], start: { before: 'alley' } }), seed)
    const [columns, rows] = [4, 3]
    const at = (c: number, r: number) => ({ x: 2 + (c + 0.5 - columns / 2) * PITCH, y: 1.5 + (r + 0.5 - rows / 2) * PITCH })
    const blocked = (a: { x: number, y: number }, b: { x: number, y: number }) => walls.some((w) => {
      const [x, y] = [(a.x + b.x) / 2, (a.y + b.y) / 2]
      return w.from[0] === w.to[0] ? Math.abs(w.from[0] - x) < 0.01 && w.from[1] < y && y < w.to[1] : Math.abs(w.from[1] - y) < 0.01 && w.from[0] < x && x < w.to[0]
    })
    const exit = areas.find(a => a.name === 'exit')!
    const seen = new Set<string>()
    const open: (readonly [number, number])[] = []
    const enter = (c: number, r: number) => { if (!seen.has(`${c} ${r}`)) { seen.add(`${c} ${r}`); open.push([c, r]) } }
    let passages = 0
    let out = false
    for (let r = 0; r < rows; r++) if (!blocked(start, at(0, r)) && Math.abs(at(0, r).y - start.y) < 0.01) enter(0, r)
    for (let next = open.pop(); next !== undefined; next = open.pop()) {
      const [c, r] = next
      for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
        const [x, y] = [c + dx, r + dy]
        if (blocked(at(c, r), at(x, y))) continue
        if (Math.abs(at(x, y).x - exit.at[0]) < 0.01 && Math.abs(at(x, y).y - exit.at[1]) < 0.01) out = true
        if (x < 0 || y < 0 || x >= columns || y >= rows) continue
        passages++
        enter(x, y)
      }
    }
    return { reached: seen.size, passages: passages / 2, out }
  }

  it('reach every lane and the way out in exactly one way, whatever the seed', () => {
    for (let seed = 1; seed <= 60; seed++) expect(walked(LANES, seed)).toEqual({ reached: 12, passages: 11, out: true })
  })

  it('have ways round where inner walls are left out', () => {
    for (let seed = 1; seed <= 20; seed++) expect(walked({ ...LANES, open: '100 %' }, seed)).toEqual({ reached: 12, passages: 17, out: true })
  })

  it('are drawn by the seed', () => {
    const drawn = (seed: number) => JSON.stringify(layOut(arena({ lanes: [LANES] }), seed).arena.walls)
    expect(drawn(1)).toBe(drawn(1))
    expect(new Set([1, 2, 3, 4, 5, 6].map(drawn)).size).toBeGreaterThan(4)
  })

  it('put the robot before the way in, looking at it, from every side', () => {
    for (const [side, x, y] of [['west', 1, 0], ['east', -1, 0], ['south', 0, 1], ['north', 0, -1]] as const) {
      const { start } = layOut(arena({ lanes: [{ ...LANES, 'way in': side }], start: { before: 'alley' } }), 3)
      expect(Math.cos(start.heading)).toBeCloseTo(x)
      expect(Math.sin(-start.heading)).toBeCloseTo(y)
      // One lane outside.
      expect(x === 0 ? start.y - 1.5 : start.x - 2).toBeCloseTo((x === 0 ? -y * 2 : -x * 2.5) * PITCH)
    }
  })

  it('are named by a start that lies before them', () => {
    expect(readArena({ ...EMPTY, start: { before: 'alley' } })).toMatchObject({ ok: false, problems: [{ path: 'start.before', value: '"alley"', message: 'the arena has no walled lanes' }] })
    expect(readArena({ ...EMPTY, lanes: [LANES], start: { before: 'valley' } })).toMatchObject({ ok: false, problems: [{ path: 'start.before', message: 'allowed is one of the lanes: alley' }] })
  })

  it('share their names with nothing else', () => {
    expect(readArena({ ...EMPTY, lanes: [LANES], areas: [{ name: 'exit', at: ['1 m', '1 m'], size: ['1 m', '1 m'] }] })).toMatchObject({ ok: false, problems: [{ path: 'lanes[0].exit', value: '"exit"' }] })
  })
})
