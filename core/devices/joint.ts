import { object } from 'yup'
import { plainNumber, quantity, text } from '../document'
import { yawQuaternion } from '../geometry'
import { clamp } from '../maths'
import { MOTOR_CONNECTIONS, servo } from './connection'
import { defineDevice, type ByRealism, type DeviceKind, type DeviceModel, type DevicePart, type DeviceSetting, type DeviceStep, type LinkSpec, type Motion, type NumberOf, type ParametersOf, type PlannedSlot, type StepMachine, type StepPlan, type StepRobot, type Surroundings, type Work } from './device'
import { choice, clause, device, value, word } from './form'
import { quantityReading, truthReading } from './reading'

const DEG = Math.PI / 180

/** Channels of a joint: what to do, where to, how fast. */
export const JOINT = { mode: 0, target: 1, speed: 2 } as const
export const JOINT_MODE = { hold: 0, home: 1 } as const

/** How far off a joint's own angle may be before it was homed, and the play of its gears: shares of its range. */
const WEAR: ByRealism<{ readonly offset: number, readonly play: number }> = {
  ideal: { offset: 0, play: 0 },
  typical: { offset: 0.008, play: 0.0004 },
  rough: { offset: 0.03, play: 0.0015 },
}
/** A motor brings its own rotor to full speed within this time, seconds: gives the rotor's inertia. */
const SPIN_UP = 0.08
/** Unloaded and unregulated it would turn this many times its full speed. */
const FREE_SPEED = 1.8
/** Damping of the position loop, as a share of critical: a little overshoot, as hobby servos have. */
const DAMPING = 0.7
/** The loop's integral gain, as a share of its proportional one per second. */
const INTEGRAL = 2
/** Reached: within this much (radians, metres), and slower than this share of full speed. */
const NEAR = { turning: 0.7 * DEG, sliding: 0.0007 }
const SLOW = 0.04
/** Homing creeps at this share of full speed and ends when the end stop has held it this long, seconds. */
const HOMING_SPEED = 0.35
const STALL_TIME = 0.2

const body = {
  length: quantity('length', { min: 0.005, max: 1 }).default(0.1),
  width: quantity('length', { min: 0.002, max: 0.5 }).default(0.025),
  height: quantity('length', { min: 0.002, max: 0.5 }).default(0.02),
  mass: quantity('mass', { min: 0.001, max: 20 }).default(0.06),
  stiffness: plainNumber().min(0.3).max(8).default(5),
}

const turningSchema = object({
  axis: text().oneOf(['upright', 'across', 'along'], 'allowed is upright (turns right), across (raises) or along (rolls right)').default('across'),
  from: quantity('angle', { min: -360 * DEG, max: 360 * DEG }).default(-90 * DEG),
  to: quantity('angle', { min: -360 * DEG, max: 360 * DEG }).default(90 * DEG),
  home: quantity('angle', { min: -360 * DEG, max: 360 * DEG }).default(0),
  start: quantity('angle', { min: -360 * DEG, max: 360 * DEG }),
  speed: quantity('turning speed', { min: 1 * DEG, max: 2000 * DEG }).default(120 * DEG),
  torque: quantity('torque', { min: 0.001, max: 100 }).default(0.8),
  ...body,
})

const slidingSchema = object({
  axis: text().oneOf(['up', 'forward', 'right'], 'allowed is up, forward or right').default('up'),
  from: quantity('length', { min: -1, max: 1 }).default(0),
  to: quantity('length', { min: -1, max: 1 }).default(0.1),
  home: quantity('length', { min: -1, max: 1 }).default(0),
  start: quantity('length', { min: -1, max: 1 }),
  speed: quantity('speed', { min: 0.001, max: 2 }).default(0.06),
  force: quantity('force', { min: 0.05, max: 1000 }).default(12),
  ...body,
})

type Parameters = ParametersOf<typeof turningSchema> | ParametersOf<typeof slidingSchema>

/** Nm or N. */
const strengthOf = (p: Parameters): number => 'torque' in p ? p.torque : p.force

/** The link's box reaches forward from the axis. */
function linkPart(p: Parameters): DevicePart {
  return {
    shape: { shape: 'box', hx: p.length / 2, hy: p.width / 2, hz: p.height / 2 },
    pose: { position: { x: p.length / 2, y: 0, z: 0 }, rotation: yawQuaternion(0) },
    friction: 0.4, pad: false, onLink: true,
  }
}

function linkOf(p: Parameters, motion: LinkSpec['motion']): LinkSpec {
  return {
    motion, axis: p.axis as LinkSpec['axis'], start: p.start ?? p.home, mass: p.mass, center: [p.length / 2, 0, 0],
    inertia: p.mass * (p.length * p.length + Math.max(p.width, p.height) * Math.max(p.width, p.height)) / 12,
  }
}

function rangeProblem(p: Parameters): { path: string, value: string, message: string } | null {
  if (p.from >= p.to) return { path: 'from', value: String(p.from), message: `a joint's range goes from the smaller to the larger end; here from is not less than to (${p.to})` }
  for (const [path, at] of [['home', p.home], ['start', p.start ?? p.home]] as const) {
    if (at < p.from || at > p.to) return { path, value: String(at), message: `allowed is within the joint's range, from ${p.from} to ${p.to} (SI units)` }
  }
  return null
}

function jointKind(kind: 'joint' | 'slide', title: string, schema: typeof turningSchema | typeof slidingSchema, reading: 'angle' | 'position'): DeviceKind {
  const motion = kind === 'joint' ? 'turning' as const : 'sliding' as const
  return defineDevice({
    kind, title, port: 'motor',
    connections: [servo('that it is blocked is not known: its reading is where it was told to be'), ...MOTOR_CONNECTIONS],
    schema,
    takesTurns: false,
    readings: p => [
      quantityReading(reading, kind === 'joint' ? 'angle' : 'length', 'where it is, as its encoder knows it', { range: [p.from, p.to] }),
      truthReading('moving', 'whether it is on its way'),
      truthReading('stalled', 'whether it pushes and does not move', { hidden: true }),
    ],
    timing: () => ({ period: 0, latency: 0 }),
    parts: p => [linkPart(p)],
    link: p => linkOf(p, motion),
    actuator: p => ({ channels: 3, shared: false, stays: true, initial: [JOINT_MODE.hold, p.start ?? p.home, p.speed] }),
    problem: rangeProblem,
    create: setting => new Joint(setting),
  })
}

/** A joint that turns. */
export const joint = jointKind('joint', 'joint', turningSchema, 'angle')
/** A joint that slides. */
export const slide = jointKind('slide', 'sliding joint', slidingSchema, 'position')

/**
 * A motor with a position loop (PID) under a torque limit. The target moves at the commanded speed;
 * the load that it carries slows it, makes it overshoot and shakes what it is mounted on.
 */
class Joint implements DeviceModel {
  readonly beam = null
  private readonly state = { ramp: 0, sum: 0, offset: 0, homing: 0, stalledFor: 0, target: 0 }
  /** Its link. */
  private motion: Motion
  private readonly p: Parameters
  private readonly play: number
  private readonly rotor: number
  private readonly near: number

  constructor(private readonly setting: DeviceSetting<Parameters>) {
    const p = setting.parameters
    this.p = p
    const range = p.to - p.from
    const wear = WEAR[setting.realism]
    const start = p.start ?? p.home
    const { state } = this
    // What it believes at first differs from what is true, until it was homed.
    state.offset = wear.offset * range * setting.noise.normal()
    state.ramp = start
    state.target = start
    this.motion = { at: start, speed: 0 }
    this.play = wear.play * range
    this.near = 'torque' in p ? NEAR.turning : NEAR.sliding
    this.rotor = strengthOf(p) * SPIN_UP / p.speed
  }

  ride(motion: Motion): void { this.motion = motion }

  act(work: Work): void {
    const { state: s, p } = this
    const { dt } = work
    const { motion } = this
    const range = p.to - p.from
    const { inertia: carried, gravity } = work.load()
    const inertia = this.rotor + carried
    const mode = work.commands[work.channel + JOINT.mode]!
    const commanded = work.commands[work.channel + JOINT.target]!
    const fastest = clamp(Math.abs(work.commands[work.channel + JOINT.speed]!), p.speed * 0.02, p.speed)
    let target: number
    let speed = fastest
    if (mode === JOINT_MODE.home && s.homing !== 2) {
      if (s.homing === 0) s.homing = 1
      // Towards the nearer end, through the stop: the stall tells where it is.
      target = this.homeEnd() + (this.homeEnd() === p.from ? -range : range)
      speed = p.speed * HOMING_SPEED
      if (s.stalledFor > STALL_TIME) {
        s.offset = 0
        s.homing = 2
        s.ramp = motion.at
        s.sum = 0
        target = p.home
      }
    } else {
      if (mode !== JOINT_MODE.home) s.homing = 0
      target = clamp((mode === JOINT_MODE.home ? p.home : commanded) + s.offset, p.from, p.to)
    }
    // Start of a move: the target sets off from where the joint is.
    if (Math.abs(target - s.target) > 1e-9) { s.target = target; s.ramp = clamp(s.ramp, motion.at - range * 0.05, motion.at + range * 0.05) }
    const from = s.ramp
    s.ramp = clamp(target, s.ramp - speed * dt, s.ramp + speed * dt)
    // A target that runs away from a joint that cannot follow waits for it.
    s.ramp = clamp(s.ramp, motion.at - range * 0.25, motion.at + range * 0.25)
    const omega = 2 * Math.PI * p.stiffness
    const nominal = this.rotor + p.mass * p.length * p.length / 3
    const gain = nominal * omega * omega
    const damping = 2 * DAMPING * nominal * omega
    const error = s.ramp - motion.at
    const strength = strengthOf(p)
    s.sum = clamp(s.sum + gain * INTEGRAL * error * dt, -strength, strength)
    // Damped against the speed that the target has: it follows without lagging, and has nothing to make up for at the end.
    const wanted = gain * error + s.sum - damping * (motion.speed - clamp((s.ramp - from) / dt, -speed, speed))
    // The motor's torque falls with its speed (the straight line of a direct-current motor).
    const fall = strength * motion.speed / (FREE_SPEED * p.speed)
    const drive = clamp(wanted, -strength - fall, strength - fall)
    const pushes = Math.abs(wanted) >= 0.95 * strength || s.homing === 1
    s.stalledFor = pushes && this.stands ? s.stalledFor + dt : 0
    work.go(clamp(motion.speed + (drive + gravity) * dt / inertia, -1.5 * p.speed, 1.5 * p.speed), inertia, p.from, p.to)
  }

  private get stands(): boolean { return Math.abs(this.motion.speed) < SLOW * this.p.speed }

  private get away(): boolean {
    const { target, ramp } = this.state
    return Math.abs(target - this.motion.at) > this.near || Math.abs(ramp - target) > 1e-9
  }

  private homeEnd(): number {
    const { from, to, home } = this.p
    return Math.abs(home - from) <= Math.abs(to - home) ? from : to
  }

  look(_around: Surroundings, into: Float64Array): void {
    const { state: s } = this
    const jitter = this.play === 0 ? 0 : this.play * this.setting.noise.normal()
    into[0] = this.motion.at - s.offset + jitter
    into[1] = s.homing === 1 || this.away || !this.stands ? 1 : 0
    into[2] = s.stalledFor > STALL_TIME && s.homing !== 1 ? 1 : 0
  }

  snapshot(): unknown { return { ...this.state } }
  restore(state: unknown): void { Object.assign(this.state, state) }
}

/** A target this far beyond a joint's end is told, radians or metres. */
const BEYOND = 1e-6

const JOINTS = ['joint', 'slide']

interface Places { readonly name: string, readonly channel: number, readonly at: number, readonly moving: number, readonly parameters: Parameters }

export function jointPlaces(name: string, robot: StepRobot): Places {
  const kind = robot.kindOf(name)
  return {
    name, channel: robot.channel(name), parameters: robot.parametersOf(name) as Parameters,
    at: robot.readingIndex(name, kind === 'slide' ? 'position' : 'angle'), moving: robot.readingIndex(name, 'moving'),
  }
}

/** Tells a joint where to go; it counts as moving from this tick on. */
export function aim(m: StepMachine, j: Places, target: number, speed: number): void {
  m.commands[j.channel + JOINT.mode] = JOINT_MODE.hold
  m.commands[j.channel + JOINT.target] = clamp(target, j.parameters.from, j.parameters.to)
  m.commands[j.channel + JOINT.speed] = speed
  m.seem(j.moving, 1)
}

const slotDevice: DeviceStep['moves'] = slots => [slots.get('device')!.word!]

/** A move to a place worked out when it begins; it waits for the joint to settle there, or to come as near as it says, or does not. */
function moveStep(j: Places, targetOf: NumberOf, speedOf: NumberOf, waits: boolean, nearOf: NumberOf | null = null): StepPlan {
  // Cells: the target, the tick in which it began.
  return {
    timing: waits ? 'timed' : 'setting', cells: 2,
    begin(m, at) {
      m.cells[at] = targetOf(m)
      m.cells[at + 1] = m.tick
      return true
    },
    apply(m, at) {
      const target = waits ? m.cells[at]! : targetOf(m)
      const { from, to } = j.parameters
      // Said once, in the tick in which it sets off.
      if ((target < from - BEYOND || target > to + BEYOND) && m.tick === m.cells[at + 1]) m.clip(j.name)
      aim(m, j, target, speedOf(m))
    },
    done: (m, at) => m.tick > m.cells[at + 1]! && (m.raw[j.moving] === 0 || (nearOf !== null && Math.abs(m.raw[j.at]! - clamp(m.cells[at]!, j.parameters.from, j.parameters.to)) <= Math.abs(nearOf(m)))),
  }
}

function mismatch(slots: ReadonlyMap<string, PlannedSlot>, robot: StepRobot, slot: string): string | null {
  const name = slots.get('device')?.word
  const kind = slots.get(slot)?.kind
  if (name == null || kind == null) return null
  const wanted = robot.kindOf(name) === 'slide' ? 'length' : 'angle'
  const given = kind.length !== 0 ? 'length' : 'angle'
  return wanted === given ? null : `${name} ${wanted === 'length' ? 'slides: it moves by lengths, such as 4 cm' : 'turns: it moves by angles, such as 30 deg'}.`
}

const move: DeviceStep = {
  form: {
    id: 'move',
    parts: [word('move'), device('device', ...JOINTS), word('to'), value('target', 'angle', 'length'), clause(word('at'), value('speed', 'turning speed', 'speed')), clause(word('within'), value('near', 'angle', 'length')), clause(word('without'), choice('free', 'waiting'))],
    mayLast: false, summary: 'move a joint to a place', example: 'move lift to 40 deg at 60 deg/s',
  },
  needs: JOINTS,
  moves: slotDevice,
  problem: (slots, robot) => mismatch(slots, robot, 'target') ?? mismatch(slots, robot, 'near'),
  plan(slots, robot) {
    const j = jointPlaces(slots.get('device')!.word!, robot)
    const speed = slots.get('speed')?.value ?? (() => j.parameters.speed)
    return moveStep(j, slots.get('target')!.value!, speed, !slots.has('free'), slots.get('near')?.value ?? null)
  },
}

const moveBy: DeviceStep = {
  form: {
    id: 'moveBy',
    parts: [word('move'), device('device', ...JOINTS), word('by'), value('target', 'angle', 'length'), clause(word('at'), value('speed', 'turning speed', 'speed'))],
    mayLast: false, summary: 'move a joint by so much', example: 'move lift by -20 deg',
  },
  needs: JOINTS,
  moves: slotDevice,
  problem: (slots, robot) => mismatch(slots, robot, 'target'),
  plan(slots, robot) {
    const j = jointPlaces(slots.get('device')!.word!, robot)
    const by = slots.get('target')!.value!
    const speed = slots.get('speed')?.value ?? (() => j.parameters.speed)
    // From where it was sent last, so that several moves by the same amount add up exactly.
    return moveStep(j, m => m.commands[j.channel + JOINT.target]! + by(m), speed, true)
  },
}

const home: DeviceStep = {
  form: { id: 'home', parts: [word('home'), device('device', ...JOINTS)], mayLast: false, summary: 'find the end stop, then go to the home place', example: 'home lift' },
  needs: JOINTS,
  moves: slotDevice,
  plan(slots, robot) {
    const j = jointPlaces(slots.get('device')!.word!, robot)
    return {
      timing: 'timed', cells: 1,
      begin(m, at) { m.cells[at] = m.tick; m.commands[j.channel + JOINT.mode] = JOINT_MODE.hold; return true },
      apply(m, at) {
        // Homing begins with the tick after, so that one that ended before begins anew.
        if (m.tick > m.cells[at]!) m.commands[j.channel + JOINT.mode] = JOINT_MODE.home
        m.commands[j.channel + JOINT.target] = j.parameters.home
        m.commands[j.channel + JOINT.speed] = j.parameters.speed
        m.seem(j.moving, 1)
      },
      done: (m, at) => m.tick > m.cells[at]! + 2 && m.raw[j.moving] === 0,
    }
  },
}

export const jointSteps: readonly DeviceStep[] = [home, move, moveBy]
