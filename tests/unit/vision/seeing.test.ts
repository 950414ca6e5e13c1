import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { REFLECTS } from '../../../core/colors'
import { PLAIN_SURFACE, Ray, Scene, Solid, yawQuaternion } from '../../../core/geometry'
import { RandomStream } from '../../../core/random'
import { BlobFinder, Picture, Rasteriser, toByte, type Lens } from '../../../core/vision'
import { arenaWith } from '../devices/around'

/** What a camera draws and finds, against slow and simple ways to the same. */

const NAMES = ['orange', 'green', 'blue'] as const
const targets = NAMES.map(name => ({ name, paint: REFLECTS[name] }))

/** A picture of cells: 0 is the grey of the background, 1 to 3 the targets. */
function paintedPicture(cells: readonly (readonly number[])[]): Picture {
  const picture = new Picture(cells[0]!.length, cells.length)
  cells.forEach((row, y) => row.forEach((cell, x) => {
    const paint = cell === 0 ? REFLECTS.grey : REFLECTS[NAMES[cell - 1]!]
    for (let c = 0; c < 3; c++) picture.pixels[(y * picture.width + x) * 4 + c] = toByte(paint[c]!)
  }))
  return picture
}

/** Patches by flood fill, four neighbours; each as its area, frame and middle. */
function flooded(cells: readonly (readonly number[])[], color: number): { area: number, left: number, top: number, width: number, height: number, x: number, y: number }[] {
  const seen = cells.map(row => row.map(() => false))
  const found: ReturnType<typeof flooded> = []
  cells.forEach((row, y) => row.forEach((cell, x) => {
    if (cell !== color || seen[y]![x]!) return
    const all: [number, number][] = []
    const stack: [number, number][] = [[x, y]]
    seen[y]![x] = true
    while (stack.length > 0) {
      const [px, py] = stack.pop()!
      all.push([px, py])
      for (const [dx, dy] of [[1, 0], [-1, 0], [0, 1], [0, -1]] as const) {
        if (cells[py + dy]?.[px + dx] !== color || seen[py + dy]![px + dx]!) continue
        seen[py + dy]![px + dx] = true
        stack.push([px + dx, py + dy])
      }
    }
    const xs = all.map(p => p[0])
    const ys = all.map(p => p[1])
    const [left, top] = [Math.min(...xs), Math.min(...ys)]
    found.push({
      area: all.length, left, top, width: Math.max(...xs) + 1 - left, height: Math.max(...ys) + 1 - top,
      x: xs.reduce((s, v) => s + v + 0.5, 0) / all.length, y: ys.reduce((s, v) => s + v + 0.5, 0) / all.length,
    })
  }))
  return found.filter(p => p.area >= 4).sort((a, b) => b.area - a.area || a.x - b.x || a.y - b.y)
}

describe('patches of colour', () => {
  test('are those that a flood fill finds, on any picture', () => {
    const cells = fc.tuple(fc.integer({ min: 4, max: 30 }), fc.integer({ min: 4, max: 24 }), fc.integer(), fc.integer({ min: 30, max: 80 })).map(([w, h, seed, grey]) => {
      const r = RandomStream.named(seed, 'cells')
      return Array.from({ length: h }, () => Array.from({ length: w }, () => r.unit() * 100 < grey ? 0 : 1 + Math.floor(r.unit() * 3)))
    })
    fc.assert(fc.property(cells, (all) => {
      const found = new BlobFinder(targets).find(paintedPicture(all))
      NAMES.forEach((_, i) => {
        const wanted = flooded(all, i + 1)
        expect(found[i]!.map(b => [b.area, b.left, b.top, b.width, b.height])).toEqual(wanted.map(b => [b.area, b.left, b.top, b.width, b.height]))
        found[i]!.forEach((b, k) => { expect([b.x, b.y]).toEqual([expect.closeTo(wanted[k]!.x, 9), expect.closeTo(wanted[k]!.y, 9)]) })
      })
    }), { numRuns: 150 })
  })
  test('a comb and a spiral are one patch each', () => {
    const comb = Array.from({ length: 9 }, (_, y) => Array.from({ length: 15 }, (_, x) => y === 8 || x % 2 === 0 ? 1 : 0))
    expect(new BlobFinder(targets).find(paintedPicture(comb))[0]!.length).toBe(1)
    const spiral = ['1111111', '1000001', '1011101', '1010101', '1010001', '1011111', '1000000'].map(row => [...row].map(Number))
    expect(new BlobFinder(targets).find(paintedPicture(spiral))[0]!.length).toBe(1)
  })
  test('the same finder forgets the picture before', () => {
    const finder = new BlobFinder(targets)
    const full = Array.from({ length: 10 }, () => Array.from({ length: 10 }, () => 2))
    const empty = full.map(row => row.map(() => 0))
    expect(finder.find(paintedPicture(full))[1]!.length).toBe(1)
    expect(finder.find(paintedPicture(empty)).flat()).toEqual([])
  })
})

const LENS: Lens = { ox: 0.5, oy: 1.5, oz: 0.12, fx: 1, fy: 0, fz: 0, lx: 0, ly: 1, lz: 0, ux: 0, uy: 0, uz: 1, focal: 80 }

/** A lens that looks along a direction of the plan, tilted (radians). */
function lensAt(x: number, y: number, up: number, yaw: number, tilt: number): Lens {
  const [c, s, ct, st] = [Math.cos(yaw), Math.sin(yaw), Math.cos(tilt), Math.sin(tilt)]
  return { ox: x, oy: y, oz: up, fx: c * ct, fy: s * ct, fz: st, lx: -s, ly: c, lz: 0, ux: -c * st, uy: -s * st, uz: ct, focal: 80 }
}

const box = (id: string, x: number, y: number, size: number, color: keyof typeof REFLECTS, yaw = 0) =>
  new Solid(id, { shape: 'box', hx: size, hy: size, hz: size }, { ...PLAIN_SURFACE, paint: REFLECTS[color] }, { x, y, z: size }, yawQuaternion(yaw))

/** The solid that the ray through a pixel's middle meets first; null for none. */
function met(solids: readonly Solid[], lens: Lens, picture: Picture, px: number, py: number): Solid | null {
  const l = (picture.width / 2 - px - 0.5) / lens.focal
  const u = (picture.height / 2 - py - 0.5) / lens.focal
  const n = Math.hypot(1, l, u)
  const scene = new Scene()
  scene.solids.push(...solids)
  const ray = new Ray().from(lens.ox, lens.oy, lens.oz).along((lens.fx + l * lens.lx + u * lens.ux) / n, (lens.fy + l * lens.ly + u * lens.uy) / n, (lens.fz + l * lens.lz + u * lens.uz) / n)
  ray.reach = 20
  return scene.cast(ray) ? ray.solid : null
}

/** Which of some paints a pixel has the tint of; null for greyish ones. */
function tintAt(picture: Picture, px: number, py: number): string | null {
  const at = (py * picture.width + px) * 4
  const [r, g, b] = [picture.pixels[at]!, picture.pixels[at + 1]!, picture.pixels[at + 2]!]
  const most = Math.max(r, g, b)
  if (most - Math.min(r, g, b) < 0.3 * most) return null
  return b === most ? 'blue' : g === most ? 'green' : 'orange'
}

describe('the drawn picture', () => {
  test('shows at each pixel what a ray through it meets', () => {
    fc.assert(fc.property(fc.integer({ min: 0, max: 1e6 }), (seed) => {
      const r = RandomStream.named(seed, 'raster')
      const solids = Array.from({ length: 5 }, (_, i) => box(`it${i}`, 1.2 + 1.6 * r.unit(), 0.6 + 1.8 * r.unit(), 0.04 + 0.1 * r.unit(), NAMES[i % 3]!, 3 * r.unit()))
      const lens = lensAt(0.5, 1.5, 0.08 + 0.2 * r.unit(), -0.4 + 0.8 * r.unit(), -0.2 + 0.2 * r.unit())
      const picture = new Picture(96, 72)
      new Rasteriser(arenaWith()).draw(picture, lens, solids, 1)
      let [same, all] = [0, 0]
      for (let py = 1; py < 71; py += 3) {
        for (let px = 1; px < 95; px += 3) {
          // Away from edges: where the neighbours show the same.
          const here = met(solids, lens, picture, px, py)
          if ([[1, 0], [-1, 0], [0, 1], [0, -1]].some(([dx, dy]) => met(solids, lens, picture, px + dx!, py + dy!) !== here)) continue
          all++
          const wanted = here === null ? null : NAMES[Number(here.id.slice(2)) % 3]!
          if (tintAt(picture, px, py) === wanted) same++
        }
      }
      expect(all).toBeGreaterThan(300)
      expect(same / all).toBeGreaterThan(0.995)
    }), { numRuns: 25 })
  })
  test('the nearer hides the farther, in whatever order they are drawn', () => {
    const [near, far] = [box('it0', 1.2, 1.5, 0.08, 'orange'), box('it1', 1.8, 1.5, 0.08, 'green')]
    const shot = (solids: readonly Solid[]): Uint8ClampedArray => {
      const picture = new Picture(96, 72)
      new Rasteriser(arenaWith()).draw(picture, LENS, solids, 1)
      return picture.pixels
    }
    expect(shot([near, far])).toEqual(shot([far, near]))
    const picture = new Picture(96, 72)
    new Rasteriser(arenaWith()).draw(picture, LENS, [near, far], 1)
    expect(tintAt(picture, 48, 36)).toBe('orange')
  })
  test('of twice the distance has half the width', () => {
    const width = (x: number): number => {
      const picture = new Picture(160, 120)
      new Rasteriser(arenaWith()).draw(picture, { ...LENS, focal: 160 }, [box('it0', x, 1.5, 0.05, 'orange')], 1)
      return new BlobFinder(targets).find(picture)[0]![0]!.width
    }
    // Its front is 5 cm nearer than its middle.
    expect(width(0.95) / width(1.35)).toBeCloseTo(2, 0.8)
  })
  test('is darker in a dark room, and black without light', () => {
    const sum = (light: number): number => {
      const picture = new Picture(60, 40)
      new Rasteriser(arenaWith()).draw(picture, LENS, [box('it0', 1.2, 1.5, 0.08, 'orange')], light)
      return picture.pixels.reduce((s, v, i) => i % 4 === 3 ? s : s + v, 0)
    }
    expect(sum(0.3)).toBeLessThan(0.7 * sum(1))
    expect(sum(0)).toBe(0)
  })
})
