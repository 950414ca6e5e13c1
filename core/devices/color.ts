import { object } from 'yup'
import { COLORS, REFLECTS, hueOf, type ColorName, type Hue, type Rgb } from '../colors'
import { quantity } from '../document'
import { Nearby, Ray } from '../geometry'
import { clamp, cos, sin } from '../maths'
import { Beam } from './beam'
import { onBus } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type Surroundings, type TaughtColor, type ParametersOf } from './device'
import { colorReading, quantityReading, shareReading } from './reading'

/** Deviation of each channel's noise and of its gain, and how much of the room's light gets in. */
const WEAR: ByRealism<{ readonly noise: number, readonly gain: number, readonly leak: number }> = {
  ideal: { noise: 0, gain: 0, leak: 0 },
  typical: { noise: 0.006, gain: 0.015, leak: 0.02 },
  rough: { noise: 0.02, gain: 0.05, leak: 0.07 },
}
/** Two named colours that fit a measurement almost equally well leave it without a name: the least lead of the better. */
const MARGIN_OF_NAMES = 0.72
/** A measurement farther than this from every named colour has no name (lengths in the space below). */
const FARTHEST_NAME = 0.34
/** Less of its own light than this comes back from nothing at all (a mean of the channels). */
const DARKEST = 0.028
/** How much weaker its light is at the end of its reach. */
const FADES = 0.2
/** Rings of rays over the spot, for solids: radius as a share, rays, and the share of the light that falls there (2 (1 - r²) a unit of area). */
const RINGS = [[0, 1, 0.0494], [0.3, 8, 0.3241], [0.56, 14, 0.3861], [0.81, 20, 0.2404]] as const

const schema = object({
  /** Diameter of the spot it looks at. */
  spot: quantity('length', { min: 0.001, max: 0.1 }).default(0.012),
  /** Farther than this its own light does not reach. */
  reach: quantity('length', { min: 0.003, max: 0.3 }).default(0.06),
  period: quantity('time', { min: 0.002, max: 1 }).default(0.02),
  latency: quantity('time', { min: 0, max: 1 }).default(0),
})
type Parameters = ParametersOf<typeof schema>

/** How much of its light is left at a distance. */
const fade = (distance: number, reach: number): number => 1 - FADES * (distance / reach) * (distance / reach)

/** A spot of its own light on floor or piece, and what comes back in red, green and blue. */
export const color = defineDevice({
  kind: 'color',
  title: 'colour sensor',
  port: 'bus',
  connections: [onBus('it measures red, green, blue and all light by itself and is asked over the bus', [0x29], 20)],
  schema,
  takesTurns: false,
  hand: 'eye',
  readings: () => [
    colorReading('color', 'the named colour it looks at; none when unsure'),
    quantityReading('hue', 'angle', 'the tint, 0 deg red, 120 deg green, 240 deg blue', { range: [0, 2 * Math.PI] }),
    shareReading('reflect', 'how much of its light comes back'),
  ],
  timing: p => ({ period: p.period, latency: p.latency }),
  // The mean of its channels: each of them varies by so much more (the root of three), and reads too much by as much.
  errs: { by: 'reflect', loses: false, scales: false },
  create: setting => new ColorSensor(setting),
})

class ColorSensor implements DeviceModel {
  readonly beam = new Float64Array(7)
  private readonly aim: Beam
  private readonly ray = new Ray()
  private readonly gains: Rgb
  /** Deviation of a channel's noise, and what all of them read too much. */
  private readonly grain: number
  private readonly grey: number
  /** What the spot may fall on. */
  private readonly near = new Nearby()
  /** Rays over the spot: place to the left and up, share of the light. */
  private readonly rays: Float64Array
  /** What comes back: red, green, blue, and the share of the spot that fell on something. */
  private readonly light = new Float64Array(4)
  private readonly names: readonly NamedPlace[]
  /** What the latest look measured. */
  private readonly seen: [number, number, number] = [0, 0, 0]

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
    const { gain, noise } = WEAR[setting.realism]
    const own = setting.build.make.errs[setting.name]
    this.grain = noise + Math.sqrt(3) * (own?.noise ?? 0)
    this.grey = own?.bias ?? 0
    this.gains = [1 + gain * setting.noise.normal(), 1 + gain * setting.noise.normal(), 1 + gain * setting.noise.normal()]
    const radius = setting.parameters.spot / 2
    const rays = RINGS.flatMap(([share, count, light]) => Array.from({ length: count }, (_, i) => {
      const a = 2 * Math.PI * (i + 0.5 * (count % 4)) / count
      return [radius * share * cos(a), radius * share * sin(a), light / count]
    }))
    this.rays = Float64Array.from(rays.flat())
    this.names = namedPlaces(setting.taught)
  }

  look(around: Surroundings, into: Float64Array): void {
    const { parameters: p, noise, realism } = this.setting
    const wear = WEAR[realism]
    this.aim.place(around.body)
    const a = this.aim
    const { light } = this
    light.fill(0)
    // Decks are level at height 0: where the middle of its beam meets them needs no ray.
    const floor = a.fz < -1e-6 ? -a.oz / a.fz : Infinity
    this.findNear(around, Math.min(floor, p.reach))
    let nearest = this.near.count === 0 ? p.reach : this.meetSolids(around, Math.min(floor, p.reach))
    if (floor < p.reach) {
      const before = light[3]!
      around.ground.spread(a.ox + floor * a.fx, a.oy + floor * a.fy, p.spot / 2, (1 - before) * fade(floor, p.reach), light)
      if (light[3]! > before) nearest = Math.min(nearest, floor)
    }
    const leak = wear.leak * around.light.ambient(around.time)
    const { seen } = this
    for (let channel = 0; channel < 3; channel++) seen[channel] = clamp(light[channel]! * this.gains[channel]! + leak + this.grey + noise.normal() * this.grain, 0, 1)
    // With its own light off it measures what the room lets in: less than that and a little means that nothing is there.
    const own = (seen[0] + seen[1] + seen[2]) / 3 - leak - this.grey
    into[0] = own < DARKEST ? 0 : nameOf(seen, this.names)
    into[1] = hueOf(seen, HUE).hue
    into[2] = (seen[0] + seen[1] + seen[2]) / 3
    a.write(this.beam, nearest, nearest < p.reach)
  }

  /** Adds the light that solids throw back, ray by ray, each with its share of the spot's light; how far the nearest of them is. */
  private meetSolids(around: Surroundings, reach: number): number {
    const { aim: a, ray, light } = this
    const { reach: farthest } = this.setting.parameters
    let nearest = farthest
    ray.along(a.fx, a.fy, a.fz).reach = reach
    for (let i = 0; i < this.rays.length; i += 3) {
      const l = this.rays[i]!
      const u = this.rays[i + 1]!
      const share = this.rays[i + 2]!
      if (!around.scene.cast(ray.from(a.ox + l * a.lx + u * a.ux, a.oy + l * a.ly + u * a.uy, a.oz + l * a.lz + u * a.uz), this.near.solids, this.near.count)) continue
      const { paint } = ray.solid!.surface
      const bright = share * fade(ray.distance, farthest)
      light[0]! += paint[0] * bright
      light[1]! += paint[1] * bright
      light[2]! += paint[2] * bright
      light[3]! += share
      nearest = Math.min(nearest, ray.distance)
    }
    return nearest
  }

  /** Solids that the spot may fall on: most looks fall on the floor alone. */
  private findNear(around: Surroundings, reach: number): void {
    const { aim: a, near } = this
    const spot = this.setting.parameters.spot / 2
    near.count = 0
    for (const solid of around.solids) {
      const x = solid.px - a.ox
      const y = solid.py - a.oy
      const z = solid.pz - a.oz
      // Only what reaches into the cylinder of its light.
      const along = x * a.fx + y * a.fy + z * a.fz
      if (along < -solid.bound || along > reach + solid.bound) continue
      const wide = spot + solid.bound
      // A wall is long, and far for all that the sphere about it says.
      if (x * x + y * y + z * z - along * along <= wide * wide && solid.away2(a.ox, a.oy, a.oz) <= reach * reach + spot * spot + 1e-9) near.add(solid)
    }
  }

  snapshot(): unknown { return null }
  restore(): void { /* It keeps nothing between looks. */ }
}

/** A colour's place in a space where distances follow what tells paints apart: two of tint, one of brightness. */
interface Place { a: number, b: number, light: number }

interface NamedPlace extends Readonly<Place> { readonly index: number }

/** Filled anew by each that asks: looks leave nothing behind. */
const HUE: Hue = { hue: 0, saturation: 0, brightness: 0 }
const MEASURED: Place = { a: 0, b: 0, light: 0 }

function placeIn(rgb: Rgb, into: Place): Readonly<Place> {
  const { hue, saturation, brightness } = hueOf(rgb, HUE)
  // Tints of dim things are uncertain, so they count less.
  const strong = saturation * Math.min(1, brightness / 0.2)
  into.a = strong * cos(hue)
  into.b = strong * sin(hue)
  into.light = Math.sqrt(brightness) * 0.8
  return into
}

/** The named colours, those that the robot was taught behind the common ones. */
export function namedPlaces(taught: readonly TaughtColor[]): readonly NamedPlace[] {
  const common = COLORS.map((name, index) => ({ index, ...placeIn(REFLECTS[name as ColorName], MEASURED) })).slice(1)
  return [...common, ...taught.map((t, i) => ({ index: COLORS.length + i, ...placeIn(t.paint, MEASURED) }))]
}

/** By how much a measurement may be off a named colour, and how much nearer the nearest must be than the next: what `nameOf` goes by; and what is darker than anything. */
export const NAMING = { farthest: FARTHEST_NAME, margin: MARGIN_OF_NAMES, darkest: DARKEST } as const

/** The named colour nearest to a measurement; 0 (none) where two are almost as near or none is. */
export function nameOf(rgb: Rgb, names: readonly NamedPlace[]): number {
  const p = placeIn(rgb, MEASURED)
  let best = Infinity
  let second = Infinity
  let index = 0
  for (const n of names) {
    const d = Math.sqrt((p.a - n.a) * (p.a - n.a) + (p.b - n.b) * (p.b - n.b) + (p.light - n.light) * (p.light - n.light))
    if (d < best) { second = best; best = d; index = n.index } else if (d < second) second = d
  }
  return best > FARTHEST_NAME || best > MARGIN_OF_NAMES * second ? 0 : index
}
