import { object } from 'yup'
import { quantity } from '../document'
import { acos, clamp, wrapAngle } from '../maths'
import { yawOf } from '../geometry'
import { quantityReading } from './reading'
import { onBus } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type Surroundings, type ParametersOf } from './device'

const DEG = Math.PI / 180

/** Standing drift (rad/s), noise of the rate (rad/s) and error of the scale, as deviations over many gyros. */
const WEAR: ByRealism<{ readonly drift: number, readonly noise: number, readonly scale: number }> = {
  ideal: { drift: 0, noise: 0, scale: 0 },
  typical: { drift: 0.05 * DEG, noise: 0.2 * DEG, scale: 0.004 },
  rough: { drift: 0.25 * DEG, noise: 0.8 * DEG, scale: 0.015 },
}

const schema = object({
  /** The fastest turn that it can measure. */
  limit: quantity('turning speed', { min: 10 * DEG, max: 4000 * DEG }).default(440 * DEG),
  period: quantity('time', { min: 0.001, max: 1 }).default(0.02),
})
type Parameters = ParametersOf<typeof schema>

/** A turning-rate sensor whose sum is the heading; right is positive. */
export const gyro = defineDevice({
  kind: 'gyro',
  title: 'gyro',
  port: 'bus',
  connections: [onBus('it measures turning and leaning by itself and is asked over the bus', [0x68, 0x69], 4)],
  schema,
  takesTurns: false,
  readings: p => [
    quantityReading('turned', 'angle', 'how far it has turned since the last reset, right positive', { resettable: true }),
    quantityReading('heading', 'angle', 'which way it faces, 0 as it stood at the start, right positive', { range: [-Math.PI, Math.PI] }),
    quantityReading('rate', 'turning speed', 'how fast it turns, right positive', { range: [-p.limit, p.limit] }),
    quantityReading('tilt', 'angle', 'how far it leans from upright', { range: [0, Math.PI] }),
  ],
  timing: p => ({ period: p.period, latency: 0 }),
  sums: { turned: 'turned' },
  // What it turns too much while it stands is its drift.
  errs: { by: 'rate', loses: false, scales: true },
  truth: ({ body, chassis }, began, into) => {
    // On a joint it faces another way than the robot did.
    if (body === chassis) into[1] = wrapAngle(began - yawOf(body.pose.rotation))
    into[2] = -body.spin.z
    into[3] = acos(body.matrix[8]!)
  },
  create: setting => new Gyro(setting),
})

class Gyro implements DeviceModel {
  readonly beam = null
  private readonly drift: number
  private readonly noise: number
  private readonly scale: number
  private state = { turned: 0, lastYaw: 0, lastTime: 0, begun: false }

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    const wear = WEAR[setting.realism]
    const own = setting.build.make.errs[setting.name]
    const drift = wear.drift * setting.noise.normal()
    // Nothing is added where nothing was measured: a zero keeps its sign, and runs their fingerprints.
    this.drift = own === undefined ? drift : drift + own.bias
    this.noise = wear.noise + (own?.noise ?? 0)
    this.scale = (1 + wear.scale * setting.noise.normal()) * (own?.scale ?? 1)
  }

  look(around: Surroundings, into: Float64Array): void {
    const { noise, parameters } = this.setting
    const yaw = yawOf(around.body.pose.rotation)
    const s = this.state
    if (!s.begun) { s.begun = true; s.lastYaw = yaw; s.lastTime = around.time }
    const seconds = around.time - s.lastTime
    const truth = seconds > 0 ? -wrapAngle(yaw - s.lastYaw) / seconds : -around.body.spin.z
    const rate = clamp(truth * this.scale + this.drift + noise.normal() * this.noise, -parameters.limit, parameters.limit)
    s.turned += rate * seconds
    s.lastYaw = yaw
    s.lastTime = around.time
    into[0] = s.turned
    into[1] = wrapAngle(s.turned)
    into[2] = rate
    into[3] = acos(around.body.matrix[8]!)
  }

  snapshot(): unknown { return { ...this.state } }
  restore(state: unknown): void { this.state = { ...state as Gyro['state'] } }
}
