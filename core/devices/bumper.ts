import { object } from 'yup'
import { quantity } from '../document'
import type { DeviceKind, DeviceModel, DeviceSetting, Surroundings } from './device'

const schema = object({
  /** Newtons that close the switch. */
  force: quantity('force', { min: 0.01, max: 50 }).default(0.4),
  width: quantity('length', { min: 0.005, max: 0.5 }).default(0.06),
  height: quantity('length', { min: 0.005, max: 0.3 }).default(0.03),
  period: quantity('time', { min: 0.001, max: 1 }).default(0.02),
})
interface Parameters { force: number, width: number, height: number, period: number }

/** How long a switch stays closed after the last touch: contacts of hard things chatter at this scale. */
const RELEASE = 0.04

/** A pad with a switch behind it, closed by the force of what it touches. */
export const bumper: DeviceKind<Parameters> = {
  kind: 'bumper',
  title: 'bumper',
  port: 'digital',
  schema: schema as unknown as DeviceKind<Parameters>['schema'],
  takesTurns: false,
  readings: () => [
    { name: 'pressed', type: { type: 'truth' }, range: null, mayMiss: false, resettable: false, hidden: false, summary: 'whether something presses the pad' },
  ],
  timing: p => ({ period: p.period, latency: 0 }),
  create: setting => new Bumper(setting),
  pad: p => ({ width: p.width, height: p.height }),
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
