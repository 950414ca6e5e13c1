import { object } from 'yup'
import { quantity } from '../document'
import { Nearby, Ray, type Solid } from '../geometry'
import { clamp, cos, sin } from '../maths'
import { Beam } from './beam'
import { onBus, voltage } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type Surroundings, type ParametersOf } from './device'
import { quantityReading, truthReading } from './reading'

const DEG = Math.PI / 180

const WEAR: ByRealism<{ readonly noise: number, readonly share: number, readonly dropout: number }> = {
  ideal: { noise: 0, share: 0, dropout: 0 },
  typical: { noise: 0.0015, share: 0.01, dropout: 0.002 },
  rough: { noise: 0.004, share: 0.025, dropout: 0.02 },
}
/** A face that throws nothing back is still seen at this share of the range; a white one at all of it. */
const DARK_RANGE = 0.3
/** The address at which all such parts begin. */
const USUAL = 0x29
/** Rays about the middle one. */
const RING = 6

const schema = object({
  range: quantity('length', { min: 0.03, max: 4 }).default(0.8),
  nearest: quantity('length', { min: 0, max: 0.2 }).default(0.01),
  cone: quantity('angle', { min: 0, max: 30 * DEG }).default(6 * DEG),
  period: quantity('time', { min: 0.005, max: 1 }).default(0.03),
  latency: quantity('time', { min: 0, max: 1 }).default(0.005),
})
type Parameters = ParametersOf<typeof schema>

/** A flash of light, timed until it is back: a narrow beam, and dark faces shorten its range. */
export const tof = defineDevice({
  kind: 'tof',
  title: 'time-of-flight sensor',
  port: 'bus',
  connections: [
    onBus('it measures by itself and is asked over the bus', [USUAL], 19),
    { ...onBus('as before; a line keeps it still at the start until the others have their addresses, and it takes another', [0x30, 0x31, 0x32, 0x33, 0x34, 0x35, 0x36, 0x37], 19), name: 'bus and shut line', wakes: USUAL, lines: [{ name: 'shut', needs: 'output' }] },
    voltage('a voltage that falls with the distance', 33),
  ],
  schema,
  takesTurns: false,
  hand: 'eye',
  readings: p => [
    quantityReading('distance', 'length', 'how far what it looks at is', { range: [p.nearest, p.range], mayMiss: true }),
    truthReading('sees', 'whether it looks at anything in range'),
  ],
  timing: p => ({ period: p.period, latency: p.latency }),
  create: setting => new TimeOfFlight(setting),
})

class TimeOfFlight implements DeviceModel {
  readonly beam = new Float64Array(7)
  private readonly aim: Beam
  private readonly ray = new Ray()
  private readonly rays: Float64Array
  /** What the look at work can meet. */
  /** What its rays may meet. */
  private readonly near = new Nearby()
  /** How wide half its beam is, for each metre that it is long. */
  private readonly spread: number

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
    const half = setting.parameters.cone / 2
    this.spread = sin(half)
    const rays = [1, 0, 0]
    for (let i = 0; i < RING; i++) {
      const a = 2 * Math.PI * i / RING
      rays.push(cos(half), sin(half) * cos(a), sin(half) * sin(a))
    }
    this.rays = Float64Array.from(rays)
  }

  look(around: Surroundings, into: Float64Array): void {
    const { parameters: p, noise, realism } = this.setting
    const wear = WEAR[realism]
    this.aim.place(around.body)
    this.ahead(around.solids, p)
    let sum = 0
    let weight = 0
    for (let i = 0; i < this.rays.length; i += 3) {
      const strength = this.cast(around, this.rays[i]!, this.rays[i + 1]!, this.rays[i + 2]!, p.range)
      if (strength === 0) continue
      // What comes back counts by its strength, as the sensor's diode adds it up.
      sum += this.ray.reach * strength
      weight += strength
    }
    const error = noise.normal()
    const lost = noise.unit() < wear.dropout
    let distance = Infinity
    if (weight > 0 && !lost) {
      const true_ = sum / weight
      distance = true_ + error * (wear.noise + wear.share * true_)
      if (realism !== 'ideal') distance = Math.round(distance * 1000) / 1000
      distance = clamp(distance, p.nearest, p.range)
    }
    into[0] = distance
    into[1] = distance === Infinity ? 0 : 1
    this.aim.write(this.beam, distance === Infinity ? p.range : distance, distance !== Infinity)
  }

  /** Leaves what its rays cannot meet out, once for all of them: what lies out of range, or off the beam. */
  private ahead(solids: readonly Solid[], p: Parameters): void {
    const { aim: a, near } = this
    near.count = 0
    for (let i = 0; i < solids.length; i++) {
      const solid = solids[i]!
      const cx = solid.px - a.ox
      const cy = solid.py - a.oy
      const cz = solid.pz - a.oz
      const along = cx * a.fx + cy * a.fy + cz * a.fz
      if (along < -solid.bound || along > p.range + solid.bound) continue
      // The beam is no wider there than at its end.
      const most = solid.bound + p.range * this.spread
      if (cx * cx + cy * cy + cz * cz - along * along <= most * most && solid.away2(a.ox, a.oy, a.oz) <= p.range * p.range) near.add(solid)
    }
  }

  /** Sends a ray, its direction in the sensor's frame. How strong it comes back, from the end of the ray's reach; 0 where it does not. */
  private cast(around: Surroundings, u: number, v: number, w: number, range: number): number {
    const a = this.aim
    const { ray } = this
    ray.from(a.ox, a.oy, a.oz).along(u * a.fx + v * a.lx + w * a.ux, u * a.fy + v * a.ly + w * a.uy, u * a.fz + v * a.lz + w * a.uz).reach = range
    let distance = Infinity
    let bright = 0
    if (around.scene.cast(ray, this.near.solids, this.near.count)) {
      distance = ray.distance
      const { paint } = ray.solid!.surface
      bright = (paint[0] + paint[1] + paint[2]) / 3
    }
    ray.reach = Math.min(range, distance)
    if (around.scene.cast(ray, around.scene.ground)) {
      const paint = around.ground.paintAt(ray.ox + ray.dx * ray.distance, ray.oy + ray.dy * ray.distance)
      distance = ray.distance
      bright = paint === null ? 0 : (paint[0] + paint[1] + paint[2]) / 3
    }
    const reach = range * Math.min(1, DARK_RANGE + (1 - DARK_RANGE) * bright / 0.4)
    ray.reach = distance
    return distance > reach ? 0 : 0.05 + bright
  }

  snapshot(): unknown { return null }
  restore(): void { /* It keeps nothing between looks. */ }
}
