import { object } from 'yup'
import { cos, sin, clamp } from '../maths'
import { plainNumber, quantity } from '../document'
import { Beam } from './beam'
import { quantityReading, truthReading } from './reading'
import { onBus, voltage } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type Surroundings, type ParametersOf } from './device'
import { Nearby, Ray, type MutableVector } from '../geometry'

/** What of a sonar's datasheet depends on how kind the world is. */
interface Wear {
  /** Deviation of the noise: a fixed part (m) and a share of the distance. */
  readonly noise: number
  readonly share: number
  /** Probability that a ping is not heard. */
  readonly dropout: number
  /** The steepest angle off the normal, radians, at which a smooth face still answers. */
  readonly glance: number
}

const DEG = Math.PI / 180
const WEAR: ByRealism<Wear> = {
  ideal: { noise: 0, share: 0, dropout: 0, glance: 90 * DEG },
  typical: { noise: 0.002, share: 0.004, dropout: 0.004, glance: 42 * DEG },
  rough: { noise: 0.005, share: 0.012, dropout: 0.03, glance: 32 * DEG },
}

/** Rays across the cone and in height. Between two at 1 m lies less than a bollard's width. */
const ACROSS = 17
const HIGH = 3
/** A soft face answers to this share of the range only. */
const SOFT_RANGE = 0.4
/** Two ways of working the same distance out differ by less, metres. */
const ROUNDING = 1e-9
/** Datasheets give distances to the millimetre. */
const RESOLUTION = 0.001

const schema = object({
  range: quantity('length', { min: 0.2, max: 10 }).default(2.5),
  nearest: quantity('length', { min: 0, max: 0.5 }).default(0.02),
  cone: quantity('angle', { min: 2 * DEG, max: 120 * DEG }).default(44 * DEG),
  period: quantity('time', { min: 0.01, max: 1 }).default(0.05),
  latency: quantity('time', { min: 0, max: 1 }).default(0.01),
  dropout: plainNumber().min(0).max(1).default(0),
})
type Parameters = ParametersOf<typeof schema>

/**
 * Sound sent out in a cone; the first echo tells the distance. A smooth face that is met
 * at a glance throws the sound away (docs/devices.md has the model and its figures).
 */
export const sonar = defineDevice({
  kind: 'sonar',
  title: 'sonar',
  port: 'digital',
  connections: [
    { name: 'trigger and echo', says: 'a pulse on its trigger sends a ping, its echo is high until the sound is back', lines: [{ name: 'trigger', needs: 'output' }, { name: 'echo', needs: 'pulse', volts: 5 }], feeds: 15 },
    voltage('a voltage that grows with the distance', 5),
    onBus('it measures by itself and is asked over the bus', [0x70, 0x71, 0x72, 0x73, 0x74, 0x75, 0x76, 0x77], 15),
  ],
  schema,
  takesTurns: true,
  hand: 'eye',
  readings: p => [
    quantityReading('distance', 'length', 'how far the first echo is', { range: [p.nearest, p.range], mayMiss: true }),
    truthReading('sees', 'whether there was an echo'),
  ],
  timing: p => ({ period: p.period, latency: p.latency }),
  create: setting => new Sonar(setting),
})

class Sonar implements DeviceModel {
  readonly beam = new Float64Array(7)
  private readonly aim: Beam
  private readonly fan: Float64Array
  private readonly ray = new Ray()
  /** What may echo at all: within its range and about its cone. */
  private readonly near = new Nearby()
  /** Where the solid that is tried is nearest. */
  private readonly point: MutableVector = { x: 0, y: 0, z: 0 }
  /** The nearest echo so far, and the cosine of the steepest angle at which a smooth face answers. */
  private best = Infinity
  private readonly steepest: number
  /** Cosine of half its cone, and what a solid's size and place against its axis are measured with. */
  private readonly inside: number
  private readonly flare: number
  private readonly slope: number

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
    const half = setting.parameters.cone / 2
    this.steepest = cos(WEAR[setting.realism].glance)
    this.inside = cos(half)
    this.flare = Math.max(0.2, this.inside)
    this.slope = sin(half) / this.flare
    const rays: number[] = []
    for (let i = 0; i < ACROSS; i++) {
      const a = half * (2 * i / (ACROSS - 1) - 1)
      for (let k = 0; k < HIGH; k++) {
        // The cone is round: rays at its side have no height left.
        const reach = Math.sqrt(Math.max(0, half * half - a * a))
        const e = reach * (2 * k / (HIGH - 1) - 1)
        rays.push(cos(a) * cos(e), sin(a) * cos(e), sin(e))
      }
    }
    this.fan = Float64Array.from(rays)
  }

  look(around: Surroundings, into: Float64Array): void {
    const { parameters: p, noise } = this.setting
    const wear = WEAR[this.setting.realism]
    this.aim.place(around.body)
    const heard = this.firstEcho(around, p)
    // Draws are made whatever was met, so that the stream keeps step with the pings.
    const error = noise.normal()
    const lost = noise.unit() < wear.dropout + p.dropout
    let distance = heard
    if (distance !== Infinity) {
      distance += error * (wear.noise + wear.share * distance)
      if (this.setting.realism !== 'ideal') distance = Math.round(distance / RESOLUTION) * RESOLUTION
      distance = clamp(distance, p.nearest, p.range)
    }
    if (lost) distance = Infinity
    into[0] = distance
    into[1] = distance === Infinity ? 0 : 1
    const shown = distance === Infinity ? p.range : distance
    this.aim.write(this.beam, shown, distance !== Infinity)
  }

  private firstEcho(around: Surroundings, p: Parameters): number {
    const { aim: a, near, inside, flare, slope } = this
    near.count = 0
    for (const solid of around.solids) {
      const cx = solid.px - a.ox
      const cy = solid.py - a.oy
      const cz = solid.pz - a.oz
      const reach = p.range + solid.bound
      const far = cx * cx + cy * cy + cz * cz
      if (far > reach * reach) continue
      const along = cx * a.fx + cy * a.fy + cz * a.fz
      const off = Math.sqrt(Math.max(0, far - along * along))
      if (along < -solid.bound || off - solid.bound / flare > Math.max(0, along + solid.bound) * slope) continue
      near.add(solid)
    }
    if (near.count === 0) return Infinity
    this.ray.from(a.ox, a.oy, a.oz)
    this.best = Infinity
    // Straight at the nearest point of each first: no ray of the fan may happen to meet it, and what lies behind the nearest
    // echo needs no ray at all.
    for (let i = 0; i < near.count; i++) {
      const point = near.solids[i]!.nearest(a.ox, a.oy, a.oz, this.point)
      const dx = point.x - a.ox
      const dy = point.y - a.oy
      const dz = point.z - a.oz
      const length = Math.sqrt(dx * dx + dy * dy + dz * dz)
      if (length < 1e-9 || (dx * a.fx + dy * a.fy + dz * a.fz) / length < inside) continue
      this.ray.along(dx / length, dy / length, dz / length)
      this.tryRay(around, p)
    }
    this.leaveOutFarther()
    if (near.count === 0) return this.best
    const fan = this.fan
    for (let i = 0; i < fan.length; i += 3) {
      const u = fan[i]!
      const v = fan[i + 1]!
      const w = fan[i + 2]!
      this.ray.along(u * a.fx + v * a.lx + w * a.ux, u * a.fy + v * a.ly + w * a.uy, u * a.fz + v * a.lz + w * a.uz)
      this.tryRay(around, p)
    }
    return this.best
  }

  /** Of what may echo, leaves what may do so from nearer than the best. */
  private leaveOutFarther(): void {
    const { near: { solids, count }, aim: a } = this
    if (this.best === Infinity) return
    const best = this.best + ROUNDING
    let kept = 0
    for (let i = 0; i < count; i++) if (solids[i]!.away2(a.ox, a.oy, a.oz) < best * best) solids[kept++] = solids[i]!
    this.near.count = kept
  }

  /** Whether the ray brings an echo that is nearer than the best so far. */
  private tryRay(around: Surroundings, p: Parameters): void {
    const { ray } = this
    ray.reach = Math.min(this.best, p.range)
    if (!around.scene.cast(ray, this.near.solids, this.near.count)) return
    const { echo } = ray.solid!.surface
    if (echo === 'smooth' && -(ray.dx * ray.nx + ray.dy * ray.ny + ray.dz * ray.nz) < this.steepest) return
    if (echo === 'soft' && ray.distance > p.range * SOFT_RANGE) return
    this.best = ray.distance
  }

  snapshot(): unknown { return null }
  restore(): void { /* It keeps nothing between looks. */ }
}
