import { array, object } from 'yup'
import { TAGS } from '../arena'
import { COLORS, REFLECTS } from '../colors'
import { plainNumber, quantity, text } from '../document'
import { atan2, clamp, tan } from '../maths'
import { BlobFinder, Picture, TagFinder, tagDistance } from '../vision'
import { Beam } from './beam'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type PictureMark, type ReadingSpec, type Surroundings, type ParametersOf } from './device'
import { quantityReading, shareReading, truthReading } from './reading'

const DEG = Math.PI / 180

/**
 * Noise of a pixel (bytes, half the width of the triangle), how much the exposure wanders, and what a shaking lens and a
 * picture read line by line do to what is found: deviation of a bearing (radians) and of a size (share of it).
 */
const WEAR: ByRealism<{ readonly noise: number, readonly exposure: number, readonly bearing: number, readonly size: number }> = {
  ideal: { noise: 0, exposure: 0, bearing: 0, size: 0 },
  typical: { noise: 5, exposure: 0.03, bearing: 0.4 * DEG, size: 0.03 },
  rough: { noise: 14, exposure: 0.1, bearing: 1.2 * DEG, size: 0.1 },
}
/** The exposure that makes a well-lit room come out well, and the most that it is opened in the dark. */
const WELL_LIT = 0.6
const WIDEST = 4

const schema = object({
  width: plainNumber().integer().min(16).max(640).default(160),
  height: plainNumber().integer().min(12).max(480).default(120),
  'field of view': quantity('angle', { min: 10 * DEG, max: 120 * DEG }).default(62 * DEG),
  period: quantity('time', { min: 0.02, max: 2 }).default(1 / 15),
  latency: quantity('time', { min: 0, max: 1 }).default(0.05),
  colors: array(text().required()).max(12).default(['red', 'orange', 'yellow', 'green', 'blue', 'violet']),
  tags: array(plainNumber().integer().min(0).max(TAGS - 1).required()).max(8).default([]),
})
type Parameters = ParametersOf<typeof schema>

const COLOR_READINGS = 4
const TAG_READINGS = 5

/** A picture of the arena through a lens, and what is recognised on it. */
export const camera = defineDevice({
  kind: 'camera',
  title: 'camera',
  port: 'bus',
  connections: [],
  schema,
  takesTurns: false,
  hand: 'eye',
  readings: p => [...p.colors.flatMap(c => readingsOf(c, p)), ...p.tags.flatMap(t => [
    ...readingsOf(`tag ${t}`, p),
    quantityReading('distance', 'length', 'how far it is', { of: `tag ${t}`, range: [0, 5], mayMiss: true }),
  ])],
  timing: p => ({ period: p.period, latency: p.latency }),
  errs: { by: 'bearing', loses: true, scales: false },
  problem(p) {
    const twice = p.colors.find((c, i) => p.colors.indexOf(c) !== i)
    return twice === undefined ? null : { path: 'colors', value: JSON.stringify(twice), message: 'stands in the list twice; once is enough' }
  },
  create: setting => new Camera(setting),
})

function readingsOf(target: string, p: Parameters): ReadingSpec[] {
  const half = p['field of view'] / 2
  return [
    truthReading('sees', 'whether it is in the picture', { of: target }),
    quantityReading('bearing', 'angle', 'which way it lies, right positive; where it was last when it is not seen', { of: target, range: [-half, half] }),
    shareReading('size', 'how much of the picture its largest patch fills', { of: target }),
    quantityReading('count', 'number', 'how many of it are in the picture', { of: target }),
  ]
}

class Camera implements DeviceModel {
  readonly beam = null
  readonly picture: { width: number, height: number, pixels: Uint8ClampedArray, marks: PictureMark[] }
  private readonly drawn: Picture
  private readonly aim: Beam
  private readonly focal: number
  private readonly blobs: BlobFinder
  private readonly tags: TagFinder | null
  /** Bearings vary by so much, and are too large by so much; and how many pictures show nothing. */
  private readonly sways: number
  private readonly turned: number
  private readonly dropout: number
  /** Bearings as they were seen last. */
  private bearings: Float64Array

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    const { parameters: p, taught } = setting
    const own = setting.build.make.errs[setting.name]
    this.sways = WEAR[setting.realism].bearing + (own?.noise ?? 0)
    this.turned = own?.bias ?? 0
    this.dropout = own?.dropout ?? 0
    this.drawn = new Picture(p.width, p.height)
    this.picture = { width: p.width, height: p.height, pixels: this.drawn.pixels, marks: [] }
    this.aim = new Beam(setting.mount)
    this.focal = p.width / 2 / tan(p['field of view'] / 2)
    this.blobs = new BlobFinder(p.colors.map(name => ({
      name, paint: taught.find(t => t.name === name)?.paint ?? REFLECTS[COLORS.find(c => c === name) ?? 'none'],
    })))
    this.tags = p.tags.length === 0 ? null : new TagFinder()
    this.bearings = new Float64Array(p.colors.length + p.tags.length)
  }

  look(around: Surroundings, into: Float64Array): void {
    const { parameters: p, noise, realism } = this.setting
    const wear = WEAR[realism]
    const half = p['field of view'] / 2
    this.aim.place(around.body)
    this.expose(around)
    const { marks } = this.picture
    marks.length = 0
    const pixels = p.width * p.height
    const lost = this.dropout > 0 && noise.chance(this.dropout)
    const write = (at: number, target: number, found: number, x: number, area: number): void => {
      // A centre left of the middle lies to the left: negative.
      if (found > 0) this.bearings[target] = clamp(atan2(x - p.width / 2, this.focal) + this.turned + this.sways * noise.normal(), -half, half)
      into[at] = found > 0 ? 1 : 0
      into[at + 1] = this.bearings[target]!
      into[at + 2] = found > 0 ? clamp(area / pixels * (1 + wear.size * noise.normal()), 0, 1) : 0
      into[at + 3] = found
    }
    // A picture that is lost shows nothing.
    this.blobs.find(this.drawn).forEach((all, i) => {
      const list = lost ? [] : all
      const best = list[0]
      write(COLOR_READINGS * i, i, list.length, best?.x ?? 0, best?.area ?? 0)
      for (const b of list) marks.push({ label: p.colors[i]!, x: b.left, y: b.top, width: b.width, height: b.height })
    })
    if (this.tags === null) return
    const found = lost ? [] : this.tags.find(this.drawn)
    const first = COLOR_READINGS * p.colors.length
    p.tags.forEach((tag, i) => {
      const same = found.filter(f => f.tag === tag).sort((a, b) => b.side - a.side)
      const best = same[0]
      const at = first + TAG_READINGS * i
      write(at, p.colors.length + i, same.length, best?.x ?? 0, best === undefined ? 0 : best.side * best.side)
      into[at + 4] = best === undefined ? Infinity : tagDistance(best.side, this.focal)
      for (const f of same) marks.push({ label: `tag ${tag}`, x: f.left, y: f.top, width: f.width, height: f.height })
    })
  }

  /** Draws the picture, as bright as the room and the exposure make it, with its noise. */
  private expose(around: Surroundings): void {
    const { noise, realism } = this.setting
    const wear = WEAR[realism]
    const ambient = Math.max(0.001, around.light.ambient(around.time))
    const exposure = Math.min(WIDEST, WELL_LIT / ambient) * (1 + wear.exposure * noise.normal())
    const { aim, focal } = this
    around.rasteriser.draw(this.drawn, {
      ox: aim.ox, oy: aim.oy, oz: aim.oz, fx: aim.fx, fy: aim.fy, fz: aim.fz, lx: aim.lx, ly: aim.ly, lz: aim.lz, ux: aim.ux, uy: aim.uy, uz: aim.uz, focal,
    }, around.solids, clamp(ambient * exposure / WELL_LIT, 0, 2))
    let word = noise.bits() | 1
    if (wear.noise === 0) return
    const { pixels } = this.drawn
    const scale = wear.noise / 256
    for (let i = 0; i < pixels.length; i += 4) {
      // One 32-bit word a pixel (Marsaglia's xorshift): four bytes give three near triangles.
      word ^= word << 13
      word ^= word >>> 17
      word ^= word << 5
      const a = word & 255
      const b = word >>> 8 & 255
      const c = word >>> 16 & 255
      const d = word >>> 24
      pixels[i] = pixels[i]! + (a - b) * scale
      pixels[i + 1] = pixels[i + 1]! + (b - c) * scale
      pixels[i + 2] = pixels[i + 2]! + (c - d) * scale
    }
  }

  snapshot(): unknown { return [...this.bearings] }
  restore(state: unknown): void { this.bearings = Float64Array.from(state as number[]) }
}
