import { object } from 'yup'
import { quantity } from '../document'
import { yawOf } from '../geometry'
import { atan2, wrapAngle } from '../maths'
import { Beam } from './beam'
import { onBus } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type Surroundings, type ParametersOf } from './device'
import { quantityReading } from './reading'

const DEG = Math.PI / 180
/** Deviation of the place (m) and of the heading (rad). */
const WEAR: ByRealism<{ readonly place: number, readonly heading: number }> = {
  ideal: { place: 0, heading: 0 },
  typical: { place: 0.004, heading: 0.6 * DEG },
  rough: { place: 0.02, heading: 2.5 * DEG },
}

const schema = object({
  period: quantity('time', { min: 0.01, max: 2 }).default(0.1),
  latency: quantity('time', { min: 0, max: 1 }).default(0.03),
})
type Parameters = ParametersOf<typeof schema>

/** Knows where it is in the arena, and which way it faces: metres east and north of the south-west corner. */
export const beacon = defineDevice({
  kind: 'beacon',
  title: 'position beacon',
  port: 'bus',
  connections: [onBus('a module that knows its place from beacons about and is asked over the bus', [0x42, 0x43], 60)],
  schema,
  takesTurns: false,
  readings: () => [
    quantityReading('x', 'length', 'how far east it is'),
    quantityReading('y', 'length', 'how far north it is'),
    quantityReading('heading', 'angle', 'which way it faces: 0 deg east, right positive', { range: [-Math.PI, Math.PI] }),
    quantityReading('bearing', 'angle', 'which way a place lies, right positive', { range: [-Math.PI, Math.PI], takes: ['length', 'length'] }),
    quantityReading('distance', 'length', 'how far a place is', { takes: ['length', 'length'] }),
  ],
  timing: p => ({ period: p.period, latency: p.latency }),
  computed: {
    bearing: (r, first, [x, y]) => wrapAngle(-atan2(y! - r[first + 1]!, x! - r[first]!) - r[first + 2]!),
    distance: (r, first, [x, y]) => {
      const dx = x! - r[first]!
      const dy = y! - r[first + 1]!
      return Math.sqrt(dx * dx + dy * dy)
    },
  },
  truth: 'look',
  create: setting => new Beacon(setting),
})

class Beacon implements DeviceModel {
  readonly beam = null
  private readonly aim: Beam

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
  }

  look(around: Surroundings, into: Float64Array): void {
    const { noise, realism } = this.setting
    const wear = WEAR[realism]
    this.aim.place(around.body)
    into[0] = this.aim.ox + wear.place * noise.normal()
    into[1] = this.aim.oy + wear.place * noise.normal()
    into[2] = wrapAngle(-yawOf(around.chassis.pose.rotation) + wear.heading * noise.normal())
    into[3] = 0
    into[4] = 0
  }

  snapshot(): unknown { return null }
  restore(): void { /* It keeps nothing between looks. */ }
}
