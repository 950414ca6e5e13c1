import { object } from 'yup'
import { COLORS, REFLECTS, hueOf, type ColorName, type Rgb } from '../colors'
import { quantity } from '../document'
import type { Hit, Solid } from '../geometry'
import { clamp, cos, sin } from '../maths'
import { Beam } from './beam'
import type { ByRealism, DeviceKind, DeviceModel, DeviceSetting, Surroundings, TaughtColor } from './device'
import { colorReading, quantityReading, shareReading } from './reading'

/** Deviation of each channel's noise and of its gain, and how much of the room's light gets in. */
const WEAR: ByRealism<{ readonly noise: number, readonly gain: number, readonly leak: number }> = {
  ideal: { noise: 0, gain: 0, leak: 0 },
  typical: { noise: 0.006, gain: 0.015, leak: 0.02 },
  rough: { noise: 0.02, gain: 0.05, leak: 0.07 },
}
/** Two named colours that fit a measurement almost equally well leave it without a name: the least lead of the better. */
const MARGIN = 0.72
/** A measurement farther than this from every named colour has no name (lengths in the space below). */
const FARTHEST = 0.34
/** Less light than this is darkness: nothing is before the eye. */
const DARKEST = 0.012
/** Rings of rays over the spot, and rays in each. */
const RINGS = [[0, 1], [0.5, 6], [0.87, 12]] as const

const schema = object({
  /** Diameter of the spot it looks at. */
  spot: quantity('length', { min: 0.001, max: 0.1 }).default(0.012),
  /** Farther than this its own light does not reach. */
  reach: quantity('length', { min: 0.003, max: 0.3 }).default(0.06),
  period: quantity('time', { min: 0.002, max: 1 }).default(0.02),
  latency: quantity('time', { min: 0, max: 1 }).default(0),
})
interface Parameters { spot: number, reach: number, period: number, latency: number }

/** A spot of its own light on floor or piece, and what comes back in red, green and blue. */
export const color: DeviceKind<Parameters> = {
  kind: 'color',
  title: 'colour sensor',
  port: 'bus',
  schema: schema as unknown as DeviceKind<Parameters>['schema'],
  takesTurns: false,
  readings: () => [
    colorReading('color', 'the named colour it looks at; none when unsure'),
    quantityReading('hue', 'angle', 'the tint, 0 deg red, 120 deg green, 240 deg blue', { range: [0, 2 * Math.PI] }),
    shareReading('reflect', 'how much of its light comes back'),
  ],
  timing: p => ({ period: p.period, latency: p.latency }),
  create: setting => new ColorSensor(setting),
}

class ColorSensor implements DeviceModel {
  readonly beam = new Float64Array(7)
  private readonly aim: Beam
  private readonly hit: Hit = { distance: 0, nx: 0, ny: 0, nz: 1, solid: null }
  private readonly gains: Rgb
  private readonly near: Solid[] = []
  private readonly offsets: Float64Array
  private readonly names: readonly NamedPlace[]

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
    const { gain } = WEAR[setting.realism]
    this.gains = [1 + gain * setting.noise.normal(), 1 + gain * setting.noise.normal(), 1 + gain * setting.noise.normal()]
    const radius = setting.parameters.spot / 2
    this.offsets = Float64Array.from(RINGS.flatMap(([share, count]) => Array.from({ length: count }, (_, i) => {
      const a = 2 * Math.PI * i / count
      return [radius * share * cos(a), radius * share * sin(a)]
    }).flat()))
    this.names = namedPlaces(setting.taught)
  }

  look(around: Surroundings, into: Float64Array): void {
    const { parameters: p, noise, realism } = this.setting
    const wear = WEAR[realism]
    this.aim.place(around.body)
    const a = this.aim
    let r = 0
    let g = 0
    let b = 0
    let nearest = p.reach
    this.findNear(around, p.reach + p.spot)
    const rays = this.offsets.length / 2
    for (let i = 0; i < this.offsets.length; i += 2) {
      const l = this.offsets[i]!
      const u = this.offsets[i + 1]!
      const met = this.meet(around, a.ox + l * a.lx + u * a.ux, a.oy + l * a.ly + u * a.uy, a.oz + l * a.lz + u * a.uz, p.reach)
      if (met === null) continue
      // Its light fades to the end of its reach.
      const share = 1 - 0.5 * (met.distance / p.reach) * (met.distance / p.reach)
      r += met.paint[0] * share
      g += met.paint[1] * share
      b += met.paint[2] * share
      nearest = Math.min(nearest, met.distance)
    }
    const leak = wear.leak * around.light.ambient(around.time)
    const measure = (sum: number, gain: number): number => clamp(sum / rays * gain + leak + noise.normal() * wear.noise, 0, 1)
    const seen: Rgb = [measure(r, this.gains[0]), measure(g, this.gains[1]), measure(b, this.gains[2])]
    into[0] = nameOf(seen, this.names)
    into[1] = hueOf(seen).hue
    into[2] = (seen[0] + seen[1] + seen[2]) / 3
    a.write(this.beam, nearest, nearest < p.reach)
  }

  /** Solids that the spot may fall on: most looks fall on the floor alone. */
  private findNear(around: Surroundings, reach: number): void {
    const { aim: a, near } = this
    near.length = 0
    for (const solid of around.solids) {
      const x = solid.px - a.ox
      const y = solid.py - a.oy
      const z = solid.pz - a.oz
      const within = reach + solid.bound
      if (x * x + y * y + z * z <= within * within) near.push(solid)
    }
  }

  private meet(around: Surroundings, x: number, y: number, z: number, reach: number): { distance: number, paint: Rgb } | null {
    const { aim: a, hit } = this
    let distance = reach
    let paint: Rgb | null = null
    if (this.near.length > 0 && around.scene.cast(x, y, z, a.fx, a.fy, a.fz, distance, hit, this.near)) {
      distance = hit.distance
      paint = hit.solid!.surface.paint
    }
    if (around.scene.cast(x, y, z, a.fx, a.fy, a.fz, distance, hit, around.scene.ground)) {
      const floor = around.ground.paintAt(x + a.fx * hit.distance, y + a.fy * hit.distance)
      if (floor !== null) { distance = hit.distance; paint = floor }
    }
    return paint === null ? null : { distance, paint }
  }

  snapshot(): unknown { return null }
  restore(): void { /* It keeps nothing between looks. */ }
}

/** A colour's place in a space where distances follow what tells paints apart: two of tint, one of brightness. */
interface NamedPlace { readonly index: number, readonly a: number, readonly b: number, readonly light: number }

function placeIn(rgb: Rgb): { a: number, b: number, light: number } {
  const { hue, saturation, brightness } = hueOf(rgb)
  // Tints of dim things are uncertain, so they count less.
  const strong = saturation * Math.min(1, brightness / 0.2)
  return { a: strong * cos(hue), b: strong * sin(hue), light: Math.sqrt(brightness) * 0.8 }
}

/** The named colours, those that the robot was taught behind the common ones. */
export function namedPlaces(taught: readonly TaughtColor[]): readonly NamedPlace[] {
  const common = COLORS.map((name, index) => ({ index, ...placeIn(REFLECTS[name as ColorName]) })).slice(1)
  return [...common, ...taught.map((t, i) => ({ index: COLORS.length + i, ...placeIn(t.paint) }))]
}

/** The named colour nearest to a measurement; 0 (none) where two are almost as near or none is. */
export function nameOf(rgb: Rgb, names: readonly NamedPlace[]): number {
  if (Math.max(rgb[0], rgb[1], rgb[2]) < DARKEST) return 0
  const p = placeIn(rgb)
  let best = Infinity
  let second = Infinity
  let index = 0
  for (const n of names) {
    const d = Math.sqrt((p.a - n.a) * (p.a - n.a) + (p.b - n.b) * (p.b - n.b) + (p.light - n.light) * (p.light - n.light))
    if (d < best) { second = best; best = d; index = n.index } else if (d < second) second = d
  }
  return best > FARTHEST || best > MARGIN * second ? 0 : index
}
