import { COLORS, REFLECTS, hueOf, type Rgb } from '../colors'
import { cos, sin } from '../maths'
import { fromByte, type Picture } from './picture'

/** A colour that a camera looks for. */
export interface Target { readonly name: string, readonly paint: Rgb }

/** A patch of one colour: pixels in all, their middle, and the frame around them. */
export interface Blob { readonly area: number, readonly x: number, readonly y: number, readonly left: number, readonly top: number, readonly width: number, readonly height: number }

/** Bits of each channel in the table of colours. */
const BITS = 5
const SIDE = 1 << BITS
/** How far a tint may be from its colour's, in shares of full saturation. */
const TINT = 0.3
/** Dimmer than this has no tint to tell. */
const DIM = 0.035
/** Less saturated than this is black, grey or white. */
const NEUTRAL = 0.2
const BLACK_BELOW = 0.16
const WHITE_ABOVE = 0.58
/** Smaller patches are noise: a share of the picture. */
const SMALLEST = 0.0006

const tables = new Map<string, Uint8Array>()

/** For every coarse colour the number (from 1) of the target it belongs to; 0 for none. */
function tableOf(targets: readonly Target[]): Uint8Array {
  const key = JSON.stringify(targets)
  const known = tables.get(key)
  if (known !== undefined) return known
  // Colours that nobody looks for still take what is theirs, so that yellow is not taken for orange.
  const names = new Set(targets.map(t => t.name))
  const all = [...targets, ...COLORS.filter(c => c !== 'none' && !names.has(c)).map(c => ({ name: c as string, paint: REFLECTS[c] }))]
  const places = all.map(t => {
    const { hue, saturation, brightness } = hueOf(t.paint)
    return { neutral: saturation < NEUTRAL, a: saturation * cos(hue), b: saturation * sin(hue), brightness }
  })
  const table = new Uint8Array(SIDE * SIDE * SIDE)
  for (let i = 0; i < table.length; i++) {
    const byte = (k: number): number => fromByte(((i >> (BITS * k) & (SIDE - 1)) + 0.5) * 256 / SIDE)
    const { hue, saturation, brightness } = hueOf([byte(2), byte(1), byte(0)])
    let best = TINT
    let index = 0
    if (saturation < NEUTRAL || brightness < DIM) {
      const name = brightness < BLACK_BELOW ? 'black' : brightness > WHITE_ABOVE ? 'white' : 'grey'
      index = all.findIndex(t => t.name === name) + 1
    } else {
      places.forEach((p, k) => {
        if (p.neutral) return
        const a = saturation * cos(hue) - p.a
        const b = saturation * sin(hue) - p.b
        const far = Math.sqrt(a * a + b * b)
        if (far < best) { best = far; index = k + 1 }
      })
    }
    table[i] = index <= targets.length ? index : 0
  }
  if (tables.size > 32) tables.clear()
  tables.set(key, table)
  return table
}

/**
 * Finds the patches of taught colours in a picture: each pixel gets its colour from a table, runs of
 * one colour in a row are joined with those that they touch in the row above (union and find).
 */
export class BlobFinder {
  private readonly table: Uint8Array
  private labels = new Uint8Array(0)
  // Runs of a row and of the one above, and per patch what it adds up to.
  private readonly rows: readonly [number[], number[]] = [[], []]
  private parent = new Int32Array(1024)
  private sums = new Float64Array(1024 * 7)
  private colors = new Uint8Array(1024)

  constructor(private readonly targets: readonly Target[]) {
    this.table = tableOf(targets)
  }

  /** Patches by target, largest first. */
  find(picture: Picture): Blob[][] {
    const { width, height, pixels } = picture
    if (this.labels.length !== width * height) this.labels = new Uint8Array(width * height)
    const { labels, table } = this
    for (let i = 0, k = 0; i < labels.length; i++, k += 4) {
      labels[i] = table[pixels[k]! >> 3 << 10 | pixels[k + 1]! >> 3 << 5 | pixels[k + 2]! >> 3]!
    }
    let count = 0
    let [above, runs] = this.rows
    above.length = 0
    for (let y = 0; y < height; y++) {
      runs.length = 0
      let first = 0
      for (let x = 0; x < width;) {
        const color = labels[y * width + x]!
        let end = x + 1
        while (end < width && labels[y * width + end] === color) end++
        if (color !== 0) {
          const patch = this.newPatch(count++, color, x, end, y)
          // Runs of the row above that touch this one; both lists go from left to right.
          while (first < above.length && above[first + 1]! <= x) first += 3
          for (let k = first; k < above.length && above[k]! < end; k += 3) {
            if (this.colors[above[k + 2]!] === color) this.join(patch, above[k + 2]!)
          }
          runs.push(x, end, patch)
        }
        x = end
      }
      [above, runs] = [runs, above]
    }
    return this.collect(count, width * height)
  }

  private newPatch(patch: number, color: number, from: number, to: number, y: number): number {
    if (patch >= this.parent.length) this.grow()
    this.parent[patch] = patch
    this.colors[patch] = color
    const n = to - from
    const s = patch * 7
    this.sums[s] = n
    this.sums[s + 1] = n * (from + to) / 2
    this.sums[s + 2] = n * (y + 0.5)
    this.sums[s + 3] = from
    this.sums[s + 4] = to
    this.sums[s + 5] = y
    this.sums[s + 6] = y + 1
    return patch
  }

  private grow(): void {
    const size = this.parent.length * 2
    const keep = <T extends Int32Array | Float64Array | Uint8Array>(from: T, to: T): T => { to.set(from); return to }
    this.parent = keep(this.parent, new Int32Array(size))
    this.colors = keep(this.colors, new Uint8Array(size))
    this.sums = keep(this.sums, new Float64Array(size * 7))
  }

  private root(patch: number): number {
    const { parent } = this
    let at = patch
    while (parent[at] !== at) {
      parent[at] = parent[parent[at]!]!
      at = parent[at]!
    }
    return at
  }

  private join(a: number, b: number): void {
    const ra = this.root(a)
    const rb = this.root(b)
    if (ra === rb) return
    const { sums } = this
    const into = Math.min(ra, rb)
    const from = Math.max(ra, rb)
    this.parent[from] = into
    const s = into * 7
    const t = from * 7
    for (let i = 0; i < 3; i++) sums[s + i] = sums[s + i]! + sums[t + i]!
    sums[s + 3] = Math.min(sums[s + 3]!, sums[t + 3]!)
    sums[s + 4] = Math.max(sums[s + 4]!, sums[t + 4]!)
    sums[s + 5] = Math.min(sums[s + 5]!, sums[t + 5]!)
    sums[s + 6] = Math.max(sums[s + 6]!, sums[t + 6]!)
  }

  private collect(count: number, all: number): Blob[][] {
    const found: Blob[][] = this.targets.map(() => [])
    const { sums } = this
    for (let i = 0; i < count; i++) {
      const s = i * 7
      if (this.parent[i] !== i || sums[s]! < Math.max(4, SMALLEST * all)) continue
      const area = sums[s]!
      found[this.colors[i]! - 1]!.push({
        area, x: sums[s + 1]! / area, y: sums[s + 2]! / area,
        left: sums[s + 3]!, top: sums[s + 5]!, width: sums[s + 4]! - sums[s + 3]!, height: sums[s + 6]! - sums[s + 5]!,
      })
    }
    for (const list of found) list.sort((a, b) => b.area - a.area || a.x - b.x || a.y - b.y)
    return found
  }
}
