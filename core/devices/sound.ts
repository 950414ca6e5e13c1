import { object } from 'yup'
import { quantity } from '../document'
import { clamp } from '../maths'
import { Beam } from './beam'
import { voltage } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type Surroundings, type ParametersOf } from './device'
import { shareReading } from './reading'

const NOISE: ByRealism<number> = { ideal: 0, typical: 0.008, rough: 0.03 }
/** How fast the reading falls after a sound has ended, seconds to a third: the sensor's own smoothing. */
const FALL = 0.06

const schema = object({ period: quantity('time', { min: 0.002, max: 1 }).default(0.02) })
type Parameters = ParametersOf<typeof schema>

/** How loud it is: what sounds in the arena, the robot's own horn, and the knocks of its own body. */
export const sound = defineDevice({
  kind: 'sound',
  title: 'sound sensor',
  port: 'analogue',
  connections: [voltage('a microphone with an amplifier and a rectifier: a voltage that grows with the loudness', 2)],
  schema,
  takesTurns: false,
  readings: () => [shareReading('level', 'how loud it is')],
  timing: p => ({ period: p.period, latency: 0 }),
  create: setting => new SoundSensor(setting),
})

class SoundSensor implements DeviceModel {
  readonly beam = null
  private readonly aim: Beam
  private state = { level: 0, time: 0 }

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
  }

  look(around: Surroundings, into: Float64Array): void {
    this.aim.place(around.body)
    const heard = around.sound.at({ x: this.aim.ox, y: this.aim.oy, z: this.aim.oz }, around.time)
    const passed = Math.max(0, around.time - this.state.time)
    // Rises at once, falls smoothly: a peak detector.
    const level = Math.max(heard, this.state.level * FALL / (FALL + passed))
    this.state = { level, time: around.time }
    into[0] = clamp(level + this.setting.noise.normal() * NOISE[this.setting.realism], 0, 1)
  }

  snapshot(): unknown { return { ...this.state } }
  restore(state: unknown): void { this.state = { ...state as SoundSensor['state'] } }
}
