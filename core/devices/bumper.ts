import { object } from 'yup'
import { quantity } from '../document'
import { yawQuaternion } from '../geometry'
import { truthReading } from './reading'
import { switched } from './connection'
import { defineDevice, type DeviceKind, type DeviceModel, type DeviceSetting, type ParametersOf, type Surroundings } from './device'

const schema = object({
  /** Newtons that close the switch. */
  force: quantity('force', { min: 0.01, max: 50 }).default(0.4),
  width: quantity('length', { min: 0.005, max: 0.5 }).default(0.06),
  height: quantity('length', { min: 0.005, max: 0.3 }).default(0.03),
  period: quantity('time', { min: 0.001, max: 1 }).default(0.02),
})
type Parameters = ParametersOf<typeof schema>

const PAD_THICKNESS = 0.012
const PAD_FRICTION = 0.3
/** How long a switch stays closed after the last touch: contacts of hard things chatter at this scale. */
const RELEASE = 0.04

/** A pad with a switch behind it, closed by the force of what it touches. */
export const bumper = padKind('bumper', 'bumper', schema)
/** The same, as small as a button. */
export const touch = padKind('touch', 'touch sensor', schema.shape({
  width: quantity('length', { min: 0.002, max: 0.5 }).default(0.015), height: quantity('length', { min: 0.002, max: 0.3 }).default(0.015),
}))

function padKind(kind: string, title: string, fields: typeof schema): DeviceKind {
  return defineDevice({
    kind, title,
    port: 'digital',
    connections: [switched('a switch between the pin and ground')],
    schema: fields,
    takesTurns: false,
    hand: 'switch',
    readings: () => [
      truthReading('pressed', 'whether something presses the pad'),
    ],
    timing: p => ({ period: p.period, latency: 0 }),
    create: setting => new Bumper(setting),
    parts: p => [{
      shape: { shape: 'box', hx: PAD_THICKNESS / 2, hy: p.width / 2, hz: p.height / 2 },
      pose: { position: { x: PAD_THICKNESS / 2, y: 0, z: 0 }, rotation: yawQuaternion(0) },
      friction: PAD_FRICTION, pad: true, onLink: false,
    }],
  })
}

class Bumper implements DeviceModel {
  readonly beam = null
  private lastPress = -Infinity

  constructor(private readonly setting: DeviceSetting<Parameters>) {}

  look(around: Surroundings, into: Float64Array): void {
    if (around.pressOn(this.setting.name) >= this.setting.parameters.force) this.lastPress = around.time
    into[0] = around.time - this.lastPress < RELEASE ? 1 : 0
  }

  snapshot(): unknown { return this.lastPress === -Infinity ? null : this.lastPress }
  restore(state: unknown): void { this.lastPress = state === null ? -Infinity : state as number }
}
