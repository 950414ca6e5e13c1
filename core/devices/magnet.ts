import { object } from 'yup'
import { quantity } from '../document'
import { yawQuaternion, type Vector } from '../geometry'
import { Beam } from './beam'
import { defineDevice, type ByRealism, type DeviceModel, type DeviceSetting, type DeviceStep, type Surroundings, type Work, type ParametersOf } from './device'
import { choice, device, word } from './form'
import { truthReading } from './reading'

/** What is left of the force of a worn magnet. */
const WEAR: ByRealism<number> = { ideal: 1, typical: 0.92, rough: 0.75 }
/** Beyond this nothing is felt, metres. */
const REACH = 0.08
/** Nearer than this counts as touching, metres. */
const TOUCH = 0.0025
/** After losing something it does not catch it again for this long, seconds. */
const LOST = 0.4
const HALF_HEIGHT = 0.006
/** Places of its face, as shares of its radius to the left and up: the middle, and eight about it. */
const FACE = [[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1], [0.7, 0.7], [0.7, -0.7], [-0.7, 0.7], [-0.7, -0.7]] as const

const schema = object({
  /** Newtons at its face. */
  force: quantity('force', { min: 0.05, max: 1000 }).default(8),
  /** The gap over which the force falls to a quarter. */
  falloff: quantity('length', { min: 0.0005, max: 0.05 }).default(0.006),
  diameter: quantity('length', { min: 0.005, max: 0.2 }).default(0.03),
})
type Parameters = ParametersOf<typeof schema>

/** Holds steel while it is on; its face looks where it faces (tilt it -90 deg to look down). */
export const magnet = defineDevice({
  kind: 'magnet',
  title: 'electromagnet',
  port: 'digital',
  connections: [{ name: 'transistor', says: 'a transistor that switches it to the battery, a diode across it', lines: [{ name: 'signal', needs: 'output' }], feeds: 0, battery: true }],
  schema,
  takesTurns: false,
  readings: () => [truthReading('holding', 'whether something hangs on it'), truthReading('on', 'whether it is switched on')],
  timing: () => ({ period: 0, latency: 0 }),
  actuator: () => ({ channels: 1, shared: true, stays: true, initial: [0] }),
  parts: p => [{
    shape: { shape: 'box', hx: HALF_HEIGHT, hy: p.diameter / 2, hz: p.diameter / 2 },
    pose: { position: { x: -HALF_HEIGHT, y: 0, z: 0 }, rotation: yawQuaternion(0) },
    friction: 0.6, pad: false, onLink: false,
  }],
  create: setting => new Magnet(setting),
})

class Magnet implements DeviceModel {
  readonly beam = null
  private readonly aim: Beam
  private readonly state = { holds: 0, lost: 0, on: 0 }

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
  }

  act(work: Work): void {
    const { parameters: p, realism } = this.setting
    const { state: s } = this
    s.on = work.commands[work.channel]! > 0 ? 1 : 0
    s.lost = Math.max(0, s.lost - work.dt)
    if (s.on === 0) {
      if (s.holds === 1) work.release()
      s.holds = 0
      return
    }
    if (s.holds === 1) {
      if (work.held() !== null) return
      // More hung on it than it can hold.
      s.holds = 0
      s.lost = LOST
    }
    if (s.lost > 0) return
    const a = this.aim
    a.place(work.body)
    const face = p.force * WEAR[realism]
    for (const thing of work.loose) {
      if (!thing.solid.surface.steel) continue
      const reach = REACH + thing.solid.bound + p.diameter
      if (Math.abs(thing.solid.px - a.ox) > reach || Math.abs(thing.solid.py - a.oy) > reach || Math.abs(thing.solid.pz - a.oz) > reach) continue
      // Each place of the face pulls its share at what is nearest to it, so that a flat thing is pulled flat.
      const pulls: { gap: number, x: number, y: number, z: number, at: Vector }[] = []
      for (const [l, u] of FACE) {
        const x = a.ox + p.diameter / 2 * (l * a.lx + u * a.ux)
        const y = a.oy + p.diameter / 2 * (l * a.ly + u * a.uy)
        const z = a.oz + p.diameter / 2 * (l * a.lz + u * a.uz)
        const near = thing.solid.nearest(x, y, z)
        const [dx, dy, dz] = [x - near.x, y - near.y, z - near.z]
        pulls.push({ gap: Math.sqrt(dx * dx + dy * dy + dz * dz), x: dx, y: dy, z: dz, at: near })
      }
      if (pulls.some(pull => pull.gap <= TOUCH)) {
        s.holds = 1
        work.hold(thing, face)
        return
      }
      for (const { gap, x, y, z, at } of pulls) {
        // Only what lies before its face.
        if (gap > REACH || -(x * a.fx + y * a.fy + z * a.fz) < 0.5 * gap) continue
        // Flux falls with the gap, force with its square (magnetic circuit with an air gap).
        const force = face / FACE.length / ((1 + gap / p.falloff) * (1 + gap / p.falloff))
        work.pull(thing, at, force * x / gap, force * y / gap, force * z / gap)
      }
    }
  }

  look(_around: Surroundings, into: Float64Array): void {
    into[0] = this.state.holds
    into[1] = this.state.on
  }

  snapshot(): unknown { return { ...this.state } }
  restore(state: unknown): void { Object.assign(this.state, state) }
}

export const magnetSteps: readonly DeviceStep[] = [{
  form: { id: 'switch', parts: [word('switch'), device('device', 'magnet'), choice('state', 'on', 'off')], mayLast: false, summary: 'switch a magnet', example: 'switch magnet on' },
  needs: ['magnet'],
  moves: slots => [slots.get('device')!.word!],
  plan(slots, robot) {
    const channel = robot.channel(slots.get('device')!.word!)
    const on = slots.get('state')!.word === 'on' ? 1 : 0
    return { timing: 'setting', cells: 0, done: () => true, apply(m) { m.commands[channel] = on } }
  },
}]
