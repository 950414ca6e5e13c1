import { object } from 'yup'
import { quantity } from '../document'
import { clamp } from '../maths'
import { Beam } from './beam'
import { voltage } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type Surroundings, type ParametersOf } from './device'
import { shareReading } from './reading'

const WEAR: ByRealism<{ readonly noise: number, readonly gain: number }> = {
  ideal: { noise: 0, gain: 0 },
  typical: { noise: 0.006, gain: 0.03 },
  rough: { noise: 0.02, gain: 0.1 },
}

const schema = object({ period: quantity('time', { min: 0.002, max: 1 }).default(0.02) })
type Parameters = ParametersOf<typeof schema>

/** How bright it is where it looks: the room, and the lamps that it sees. */
export const light = defineDevice({
  kind: 'light',
  title: 'light sensor',
  port: 'analogue',
  connections: [voltage('a light-dependent resistor to the supply and 10 kΩ to ground: the voltage between them grows with the light', 1)],
  schema,
  takesTurns: false,
  hand: 'eye',
  readings: () => [shareReading('level', 'how bright it is')],
  timing: p => ({ period: p.period, latency: 0 }),
  create: setting => new LightSensor(setting),
})

class LightSensor implements DeviceModel {
  readonly beam = null
  private readonly aim: Beam
  private readonly gain: number

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
    this.gain = 1 + WEAR[setting.realism].gain * setting.noise.normal()
  }

  look(around: Surroundings, into: Float64Array): void {
    const a = this.aim
    a.place(around.body)
    const level = around.light.at({ x: a.ox, y: a.oy, z: a.oz }, { x: a.fx, y: a.fy, z: a.fz }, around.time, around.scene)
    into[0] = clamp(level * this.gain + this.setting.noise.normal() * WEAR[this.setting.realism].noise, 0, 1)
  }

  snapshot(): unknown { return null }
  restore(): void { /* It keeps nothing between looks. */ }
}
