import { object } from 'yup'
import { quantity } from '../document'
import { Ray, yawQuaternion } from '../geometry'
import { clamp } from '../maths'
import { Beam } from './beam'
import { MOTOR_CONNECTIONS, servo } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type DevicePart, type DeviceSetting, type DeviceStep, type LooseThing, type Motion, type StepPlan, type Surroundings, type Work, type ParametersOf } from './device'
import { device, word } from './form'
import { quantityReading, truthReading } from './reading'

/** The one channel of a claw. */
export const CLAW = { rest: 0, open: 1, close: 2 } as const

/** What is left of the grip on a worn claw. */
const WEAR: ByRealism<number> = { ideal: 1, typical: 0.9, rough: 0.7 }
/** Its motor brings the jaws to full speed within this time, seconds: gives their inertia. */
const SPIN_UP = 0.02
/** Slower than this share of full speed, the jaws stand. */
const STANDS = 0.02
/** Thickness of a jaw, metres. */
const JAW = 0.006
/** A jaw touches when no more than this is between, and no more than that pressed in, metres. */
const TOUCH = 0.0006
const PRESSED = -0.0008
/** Places on a jaw's inner face that feel for something, along and up, as shares of the face. */
const ALONG = [0.15, 0.4, 0.65, 0.9] as const
const UP = [-0.8, 0, 0.8] as const

const schema = object({
  opening: quantity('length', { min: 0.005, max: 0.5 }).default(0.07),
  depth: quantity('length', { min: 0.005, max: 0.3 }).default(0.05),
  height: quantity('length', { min: 0.003, max: 0.2 }).default(0.02),
  force: quantity('force', { min: 0.05, max: 500 }).default(5),
  speed: quantity('speed', { min: 0.002, max: 1 }).default(0.08),
})
type Parameters = ParametersOf<typeof schema>

/** Two jaws that close on a piece and hold it by friction; mounted so that they reach forward. */
export const claw = defineDevice({
  kind: 'claw',
  title: 'claw',
  port: 'motor',
  connections: [servo('that it is blocked, and so whether it holds anything, is not known'), ...MOTOR_CONNECTIONS],
  schema,
  takesTurns: false,
  readings: p => [
    quantityReading('gap', 'length', 'how far its jaws are apart', { range: [0, p.opening] }),
    truthReading('holding', 'whether something is between its closed jaws'),
    truthReading('moving', 'whether its jaws move'),
    truthReading('stalled', '', { hidden: true }),
  ],
  timing: () => ({ period: 0, latency: 0 }),
  actuator: () => ({ channels: 1, shared: false, stays: true, initial: [CLAW.rest] }),
  parts: p => [jaw(p, 1), jaw(p, -1)],
  jaws: p => p.opening,
  create: setting => new Claw(setting),
})

function jaw(p: Parameters, side: 1 | -1): DevicePart {
  return {
    shape: { shape: 'box', hx: p.depth / 2, hy: JAW / 2, hz: p.height / 2 },
    pose: { position: { x: p.depth / 2, y: side * (p.opening / 2 + JAW / 2), z: 0 }, rotation: yawQuaternion(0) },
    friction: 0.8, pad: false, onLink: false, opens: side / 2,
  }
}

/** Something between the jaws: how far each jaw is from it, and whether its faces are square enough to hold. */
interface Between { readonly thing: LooseThing, readonly left: number, readonly right: number, readonly square: boolean }

/** Whether a jaw that is so far from a thing, metres, touches it. */
function touches(gap: number): boolean { return gap >= PRESSED && gap <= TOUCH }

/** Faces that lean more than the angle of friction are squeezed out: the least cosine of their lean. */
function squareness(friction: number): number {
  return 1 / Math.sqrt(1 + friction * friction)
}

class Claw implements DeviceModel {
  readonly beam = null
  private readonly aim: Beam
  private readonly ray = new Ray()
  private readonly state = { gripped: 0 }
  /** Its jaws. */
  private motion: Motion

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    this.aim = new Beam(setting.mount)
    // A run begins with the claw open.
    this.motion = { at: setting.parameters.opening, speed: 0 }
  }

  ride(motion: Motion): void { this.motion = motion }

  act(work: Work): void {
    const { parameters: p } = this.setting
    const { state: s } = this
    const { motion } = this
    const told = work.commands[work.channel]!
    let wanted = 0
    if (told === CLAW.open) {
      if (s.gripped === 1) { s.gripped = 0; work.release() }
      wanted = motion.at < p.opening ? p.speed : 0
    } else if (told === CLAW.close && s.gripped === 0) {
      this.aim.place(work.body)
      const thing = this.between(work.loose)
      if (thing !== null && touches(thing.left) && touches(thing.right) && thing.square) {
        s.gripped = 1
        const friction = thing.thing.solid.surface.friction
        // Two faces press: Coulomb's law on both.
        work.hold(thing.thing, 2 * friction * p.force * WEAR[this.setting.realism])
      } else wanted = motion.at > 0 ? -p.speed : 0
    } else if (s.gripped === 1 && work.held() === null) {
      // It slipped out: the jaws close on what is left, nothing.
      s.gripped = 0
    }
    // As hard as its motor can within the step; screw or worm: it holds by itself where it is.
    const inertia = p.force * SPIN_UP / p.speed
    const most = p.force * work.dt / inertia
    work.go(wanted === 0 ? 0 : clamp(wanted, motion.speed - most, motion.speed + most), inertia, 0, p.opening)
  }

  /** What is between the jaws, and how far each jaw is from it; null when nothing is. */
  private between(loose: readonly LooseThing[]): Between | null {
    const { parameters: p } = this.setting
    const gap = this.motion.at
    const { aim: a, ray } = this
    let found: Between | null = null
    for (const thing of loose) {
      const { solid } = thing
      const reach = p.depth + gap + solid.bound
      const cx = solid.px - a.ox
      const cy = solid.py - a.oy
      const cz = solid.pz - a.oz
      if (cx * cx + cy * cy + cz * cz > reach * reach) continue
      let left = Infinity
      let right = Infinity
      let leftFacing = 0
      let rightFacing = 0
      for (const f of ALONG) {
        for (const u of UP) {
          // From the middle of each jaw, so that a face that is just touched is met.
          const from = (gap + JAW) / 2
          const x = a.ox + a.fx * p.depth * f + a.ux * p.height * u / 2
          const y = a.oy + a.fy * p.depth * f + a.uy * p.height * u / 2
          const z = a.oz + a.fz * p.depth * f + a.uz * p.height * u / 2
          ray.reach = gap + JAW
          if (solid.cast(ray.from(x + a.lx * from, y + a.ly * from, z + a.lz * from).along(-a.lx, -a.ly, -a.lz)) && ray.distance - JAW / 2 < left) {
            left = ray.distance - JAW / 2
            leftFacing = ray.nx * a.lx + ray.ny * a.ly + ray.nz * a.lz
          }
          if (solid.cast(ray.from(x - a.lx * from, y - a.ly * from, z - a.lz * from).along(a.lx, a.ly, a.lz)) && ray.distance - JAW / 2 < right) {
            right = ray.distance - JAW / 2
            rightFacing = -(ray.nx * a.lx + ray.ny * a.ly + ray.nz * a.lz)
          }
        }
      }
      if (left === Infinity || right === Infinity) continue
      if (found === null || left + right < found.left + found.right) found = { thing, left, right, square: Math.min(leftFacing, rightFacing) > squareness(solid.surface.friction) }
    }
    return found
  }

  look(_around: Surroundings, into: Float64Array): void {
    into[0] = clamp(this.motion.at, 0, this.setting.parameters.opening)
    into[1] = this.state.gripped
    into[2] = Math.abs(this.motion.speed) > STANDS * this.setting.parameters.speed ? 1 : 0
    into[3] = 0
  }

  snapshot(): unknown { return { ...this.state } }
  restore(state: unknown): void { Object.assign(this.state, state) }
}

function clawStep(id: 'open' | 'close', summary: string): DeviceStep {
  return {
    form: { id, parts: [word(id), device('device', 'claw')], mayLast: false, summary, example: `${id} claw` },
    needs: ['claw'],
    moves: slots => [slots.get('device')!.word!],
    plan(slots, robot): StepPlan {
      const name = slots.get('device')!.word!
      const channel = robot.channel(name)
      const moving = robot.readingIndex(name, 'moving')
      return {
        timing: 'timed', cells: 1,
        begin(m, at) { m.cells[at] = m.tick; return true },
        apply(m) { m.commands[channel] = CLAW[id]; m.seem(moving, 1) },
        // The jaws set off with the tick after the command.
        done: (m, at) => m.tick > m.cells[at]! + 1 && m.raw[moving] === 0,
      }
    },
  }
}

export const clawSteps: readonly DeviceStep[] = [
  clawStep('open', 'open a claw, and let go'),
  clawStep('close', 'close a claw until it grips or is shut'),
]
