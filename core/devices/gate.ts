import { object } from 'yup'
import { quantity } from '../document'
import { Ray } from '../geometry'
import { Beam } from './beam'
import { switched } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type Surroundings, type ParametersOf } from './device'
import { truthReading } from './reading'

/** Probability that a look flickers. */
const FLICKER: ByRealism<number> = { ideal: 0, typical: 2e-5, rough: 4e-4 }

const schema = object({
  /** How far the mirror is that throws the beam back. */
  span: quantity('length', { min: 0.01, max: 2 }).default(0.12),
  period: quantity('time', { min: 0.002, max: 1 }).default(0.01),
})
type Parameters = ParametersOf<typeof schema>

/** A beam across a way; blocked while something stands in it. */
export const gate = defineDevice({
  kind: 'gate',
  title: 'light gate',
  port: 'digital',
  connections: [switched('a light barrier with an open collector')],
  schema,
  takesTurns: false,
  hand: 'eye',
  readings: () => [truthReading('blocked', 'whether something stands in its beam')],
  timing: p => ({ period: p.period, latency: 0 }),
  create: setting => new Gate(setting),
})

class Gate implements DeviceModel {
  readonly beam = new Float64Array(7)
  private readonly aim: Beam
  private readonly ray = new Ray()

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
  }

  look(around: Surroundings, into: Float64Array): void {
    const { parameters: p, noise, realism } = this.setting
    const a = this.aim
    a.place(around.body)
    this.ray.from(a.ox, a.oy, a.oz).along(a.fx, a.fy, a.fz).reach = p.span
    const met = around.scene.cast(this.ray, around.solids)
    const flickers = noise.unit() < FLICKER[realism]
    into[0] = met !== flickers ? 1 : 0
    a.write(this.beam, met ? this.ray.distance : p.span, met)
  }

  snapshot(): unknown { return null }
  restore(): void { /* It keeps nothing between looks. */ }
}
