import { array, object } from 'yup'
import { plainNumber, quantity, text } from '../document'
import { Ray, type BodyState, type Scene } from '../geometry'
import { GRAVITY, clamp } from '../maths'
import { ContactSolver, type Foot, type GrippingWheel } from './contact-solver'
import type { RandomStream } from '../random'
import { MOTOR_CONNECTIONS } from './connection'
import { defineDevice, type ByRealism, type DeviceModel, type ParametersOf, type RealismName, type RobotBuild, type Surroundings, type Work } from './device'
import { WHEELS, WHEEL_CHANNELS, WHEEL_MODE, wheelReadings } from './wheels'

const DEG = Math.PI / 180

const schema = object({
  radius: quantity('length', { min: 0.005, max: 0.3 }).required(),
  width: quantity('length', { min: 0.002, max: 0.1 }).required(),
  track: quantity('length', { min: 0.03, max: 1 }).required(),
  // Where the axle is, forward of the body's centre.
  forward: quantity('length', { min: -1, max: 1 }).default(0),
  'top speed': quantity('speed', { min: 0.02, max: 5 }).required(),
  'cruise speed': quantity('speed', { min: 0.01, max: 5 }).required(),
  'turning speed': quantity('turning speed', { min: 5 * DEG, max: 1440 * DEG }).required(),
  acceleration: quantity('acceleration', { min: 0.05, max: 20 }).default(0.8),
  // Of one motor at the wheel when it cannot turn.
  'stall torque': quantity('torque', { min: 0.001, max: 50 }).required(),
  // Share of full power below which a motor does not move.
  'dead zone': quantity('number', { min: 0, max: 0.5 }).default(0.05),
  grip: plainNumber().min(0.05).max(2).default(0.9),
  'encoder ticks': plainNumber().integer().min(4).max(10000).default(720),
  ports: array(text().required()).length(2, 'expected two ports, left and right').required(),
  castors: array(object({
    forward: quantity('length', { min: -1, max: 1 }).required(), right: quantity('length', { min: -1, max: 1 }).default(0),
  }).noUnknown()).min(1, 'expected at least one castor: two wheels alone fall over').max(4).required(),
}).noUnknown()

/** A two-wheeled drive as its document gives it. SI units; places in the body's frame. */
export type DriveSettings = ParametersOf<typeof schema>

/** The two wheels that carry a robot: a device that the document has a place of its own for. */
export const wheelPair = defineDevice({
  kind: WHEELS,
  title: 'pair of wheels',
  port: 'motor',
  connections: MOTOR_CONNECTIONS,
  schema,
  takesTurns: false,
  readings: () => wheelReadings(),
  // Encoders count by themselves: their sums are read in every tick.
  timing: () => ({ period: 0, latency: 0 }),
  actuator: () => ({ channels: WHEEL_CHANNELS, shared: false, stays: false, initial: [0, 0, 0] }),
  problem: p => p['cruise speed'] <= p['top speed'] ? null : {
    path: 'cruise speed', value: `${p['cruise speed']} m/s`, message: `allowed is up to the top speed, ${p['top speed']} m/s`,
  },
  // Encoders count turns of the wheels: over the ground it may be less, or nothing.
  sums: { travel: 'forward' },
  truth: ({ chassis: { velocity, matrix } }, _began, into) => { into[0] = velocity.x * matrix[0]! + velocity.y * matrix[3]! },
  create: setting => new WheelDrive(setting.parameters, setting.build, setting.realism, setting.noise),
})

/** How two motors and wheels of one make differ (deviation), and what is left of the grip. */
const WEAR: ByRealism<{ readonly radius: number, readonly motor: number, readonly grip: number }> = {
  ideal: { radius: 0, motor: 0, grip: 1 },
  typical: { radius: 0.004, motor: 0.03, grip: 0.9 },
  rough: { radius: 0.015, motor: 0.09, grip: 0.65 },
}

/** How far tyres sink in under the robot’s weight, in the mean, metres. */
const SAG = 0.002
/** Damping of the tyre, as a share of critical. */
const DAMPING = 0.7
/** Inertia of a wheel with its geared motor, as a share of the mass of the robot, in units of m r². */
const WHEEL_INERTIA = 0.06
const CASTOR_GRIP = 0.06
/** Rounds of the contact solver: two wheels and a castor settle in three, a fourth to be sure. */
const ROUNDS = 4
/** A driven wheel slower than this for this long counts as stalled. */
const STALL_SPEED = 0.006
const STALL_TIME = 0.2
/** Power that must be on for a standing wheel to count. */
const STALL_POWER = 0.25
/** Gains of the speed regulator: share of full power per share of top speed, and per second of it. */
const REGULATOR_P = 2.2
const REGULATOR_I = 9
/** What braking holds, as a share of the stall torque: shorted windings and gear friction. */
const BRAKE_SHARE = 0.5
const COAST_SHARE = 0.03
/** How much heavier than itself a braked wheel seems to the floor. */
const LOCKED = 1000
/** Rounds in which the supports agree on what each carries: they differ by less than a thousandth of the weight then. */
const SUPPORT_ROUNDS = 8
/** No support stands clear of the floor: it carries at least this share. */
const LEAST_SHARE = 0.02
/** Cosine of the lean beyond which the wheels have left the floor for good. */
const UPRIGHT = 0.3

/** A wheel or castor on the floor: a spring and a damper. Newtons, metres, metres a second; r is its place from the body's centre in the world. */
interface Support {
  readonly forward: number
  readonly left: number
  readonly stiffness: number
  readonly damping: number
  /** How far it sinks in while the robot stands. */
  readonly sag: number
  depth: number
  load: number
  /** How much faster upwards (m/s) the body's point gets for a newton within this step. */
  give: number
  friction: number
  rx: number
  ry: number
  rz: number
}

/**
 * Which share of the weight each support carries while the robot stands level, its weight acting at `balance` (forward, left):
 * the shares of least squares that balance force and both moments (the normal equations of three conditions). Each sinks in
 * by its share, so that a robot at rest is level. Supports that would be lifted off get the least share.
 */
function standingLoads(places: readonly (readonly [number, number])[], balance: readonly [number, number]): readonly number[] {
  const n = places.length
  const sx = places.reduce((s, p) => s + p[0], 0)
  const sy = places.reduce((s, p) => s + p[1], 0)
  const sxx = places.reduce((s, p) => s + p[0] * p[0], 0)
  const sxy = places.reduce((s, p) => s + p[0] * p[1], 0)
  const syy = places.reduce((s, p) => s + p[1] * p[1], 0)
  // Shares are a + b x + c y; a hair on the diagonal keeps places in one line solvable.
  const hair = 1e-9
  const solved = solveSymmetric([n + hair, sx, sy, sxx + hair, sxy, syy + hair], [1, balance[0], balance[1]])
  const raw = places.map(p => Math.max(LEAST_SHARE, solved[0] + solved[1] * p[0] + solved[2] * p[1]))
  const sum = raw.reduce((s, x) => s + x, 0)
  return raw.map(x => x / sum)
}

/** Solves a symmetric 3 by 3 system, its upper half row by row, by Cramer's rule. */
function solveSymmetric([a, b, c, d, e, f]: readonly [number, number, number, number, number, number], [p, q, r]: readonly [number, number, number]): readonly [number, number, number] {
  const all = a * (d * f - e * e) - b * (b * f - c * e) + c * (b * e - c * d)
  return [
    (p * (d * f - e * e) - b * (q * f - e * r) + c * (q * e - d * r)) / all,
    (a * (q * f - e * r) - p * (b * f - c * e) + c * (b * r - c * q)) / all,
    (a * (d * r - e * q) - b * (b * r - c * q) + p * (b * e - c * d)) / all,
  ]
}

interface Wheel extends GrippingWheel {
  readonly stallTorque: number
  /** Radians a second, and turned in all. */
  spin: number
  angle: number
  /** Commanded speed after the acceleration limit (m/s), and the regulator's sum. */
  target: number
  sum: number
  power: number
  stalledFor: number
  inertia: number
}

/**
 * Motors, wheels and their grip on the floor. Each physics step it turns commands into the
 * forces of the floor on the body (docs/devices.md has the equations).
 */
class WheelDrive implements DeviceModel {
  readonly beam = null
  readonly spins = new Float64Array(2)
  private readonly wheels: readonly [Wheel, Wheel]
  /** The two wheels, then the castors: where they bear, and where they grip and slide. */
  private readonly supports: readonly Support[]
  private readonly feet: readonly Foot[]
  private readonly inertia: number
  private readonly gripShare: number
  private readonly mostLoad: number
  private readonly solver: ContactSolver
  private readonly ray = new Ray()
  private readonly impulse = { x: 0, y: 0, z: 0 }
  private readonly turning = { x: 0, y: 0, z: 0 }

  constructor(private readonly settings: DriveSettings, private readonly build: RobotBuild, realism: RealismName, noise: RandomStream) {
    const wear = WEAR[realism]
    // What differs between the sides is shared by both, so that their mean stays.
    const make = (left: number, side: 1 | -1): Wheel => ({
      forward: settings.forward, left, rx: 0, ry: 0, rz: 0,
      radius: settings.radius * (1 + build.make.radius) * (1 + wear.radius * noise.normal()) * (1 + side * build.make.wheels / 2),
      stallTorque: settings['stall torque'] * (1 + wear.motor * noise.normal()) * (1 + side * build.make.motors / 2),
      spin: 0, angle: 0, target: 0, sum: 0, power: 0, stalledFor: 0, inertia: 1, limit: 0, along: 0, across: 0, alongGive: 1, acrossGive: 1,
    })
    const apart = settings.track * (1 + build.make.track) / 2
    this.wheels = [make(apart, 1), make(-apart, -1)]
    this.feet = [...this.wheels, ...settings.castors.map(c => ({ forward: c.forward, left: -c.right, rx: 0, ry: 0, rz: 0, limit: 0 }))]
    const places = this.feet.map(f => [f.forward, f.left] as const)
    const weight = build.mass * GRAVITY
    const stiffness = weight / (places.length * SAG)
    this.supports = standingLoads(places, build.balance).map((share, i): Support => ({
      forward: places[i]![0], left: places[i]![1], stiffness, sag: share * weight / stiffness,
      damping: 2 * DAMPING * Math.sqrt(stiffness * build.mass / places.length),
      depth: 0, load: 0, give: 0, friction: 1, rx: 0, ry: 0, rz: 0,
    }))
    this.inertia = WHEEL_INERTIA * build.mass * settings.radius * settings.radius
    this.gripShare = wear.grip
    this.mostLoad = build.mass * GRAVITY * 4
    this.solver = new ContactSolver(build.mass, build.inertia)
  }

  /** Writes speed, travel, stalled, turned and turning speed as the encoders know them. */
  look(_around: Surroundings, into: Float64Array): void {
    const { radius, 'encoder ticks': ticks, track } = this.settings
    const step = 2 * Math.PI / ticks
    const [l, r] = this.wheels
    const left = Math.round(l.angle / step) * step * radius
    const right = Math.round(r.angle / step) * step * radius
    into[0] = (l.spin + r.spin) / 2 * radius
    into[1] = (left + right) / 2
    into[2] = l.stalledFor > STALL_TIME || r.stalledFor > STALL_TIME ? 1 : 0
    into[3] = (left - right) / track
    into[4] = (l.spin - r.spin) * radius / track
  }

  /** One physics step: motors act, tyres carry, floors grip. */
  carry(work: Work): void {
    const { commands, channel, body, scene, dt } = work
    const { radius, grip } = this.settings
    const solver = this.solver
    solver.begin(body, work.pushes, GRAVITY * dt)
    const mode = commands[channel]!
    if (beyond(mode, commands[channel + 1]!, this.settings['top speed']) || beyond(mode, commands[channel + 2]!, this.settings['top speed'])) work.clip()
    const { wheels, supports, feet } = this
    for (let i = 0; i < 2; i++) {
      const wheel = wheels[i]!
      this.motor(wheel, mode, commands[channel + 1 + i]!, dt)
      this.meet(supports[i]!, body, scene, wheel.radius)
    }
    for (let i = 2; i < supports.length; i++) this.meet(supports[i]!, body, scene, radius)
    this.share(dt)
    const down = -this.build.height
    for (let i = 0; i < supports.length; i++) {
      const { load, friction } = supports[i]!
      const foot = feet[i]!
      solver.stand(foot, down)
      foot.limit = i < 2 ? load * dt * grip * this.gripShare * friction : load * dt * CASTOR_GRIP / ROUNDS
    }
    for (let i = 0; i < 2; i++) solver.ready(wheels[i]!)
    for (let round = 0; round < ROUNDS; round++) {
      for (let i = 0; i < supports.length; i++) {
        if (supports[i]!.load <= 0) continue
        if (i < 2) solver.grip(wheels[i]!)
        else solver.drag(feet[i]!)
      }
    }
    for (let i = 0; i < 2; i++) {
      const wheel = wheels[i]!
      wheel.angle += wheel.spin * dt
      this.spins[i] = wheel.angle
      const stands = Math.abs(wheel.power) > STALL_POWER && Math.abs(wheel.spin * wheel.radius) < STALL_SPEED
      wheel.stalledFor = stands ? wheel.stalledFor + dt : 0
    }
    solver.write(this.impulse, this.turning)
    work.push(this.impulse, this.turning)
  }

  /** Where one support meets the floor in this step, and how deep its tyre sinks in there. */
  private meet(support: Support, body: BodyState, scene: Scene, radius: number): void {
    const m = body.matrix
    support.depth = 0
    if (m[8]! < UPRIGHT) return
    const { forward, left } = support
    const up = radius - this.build.height
    support.rx = m[0]! * forward + m[1]! * left + m[2]! * up
    support.ry = m[3]! * forward + m[4]! * left + m[5]! * up
    support.rz = m[6]! * forward + m[7]! * left + m[8]! * up
    const { x, y, z } = body.pose.position
    const free = radius + support.sag
    const { ray } = this
    ray.from(x + support.rx, y + support.ry, z + support.rz).along(-m[2]!, -m[5]!, -m[8]!).reach = free
    if (!scene.cast(ray, scene.ground)) return
    support.depth = free - ray.distance
    support.friction = ray.solid!.surface.friction
  }

  /**
   * How much each support carries: springs and dampers, all at once, in rounds until they agree, so that it does not
   * matter in which order they stand. Damping is taken at the end of the step, which is stable however stiff.
   */
  private share(dt: number): void {
    const { solver } = this
    const { supports } = this
    for (let i = 0; i < supports.length; i++) {
      const s = supports[i]!
      s.load = 0
      s.give = dt * solver.giveUpward(s.rx, s.ry)
    }
    for (let round = 0; round < SUPPORT_ROUNDS; round++) {
      for (let i = 0; i < supports.length; i++) {
        const s = supports[i]!
        if (s.depth <= 0) continue
        const { give } = s
        // The speed that it would have without its own push.
        const speed = solver.verticalSpeed(s.rx, s.ry) - give * s.load
        const asked = (s.stiffness * s.depth - s.damping * speed) / (1 + s.damping * give)
        // In place of `clamp`: in a loop as hot as this a call would have the engine make an object of the number.
        const load = asked < 0 ? 0 : asked > this.mostLoad ? this.mostLoad : asked
        solver.lift(s.rx, s.ry, s.rz, (load - s.load) * dt)
        s.load = load
      }
    }
  }

  private motor(wheel: Wheel, mode: number, command: number, dt: number): void {
    const { 'top speed': topSpeed, 'dead zone': deadZone, acceleration, radius } = this.settings
    const free = topSpeed / radius
    let power = 0
    if (mode === WHEEL_MODE.speed) {
      const wanted = clamp(command, -topSpeed, topSpeed)
      wheel.target = clamp(wanted, wheel.target - acceleration * dt, wheel.target + acceleration * dt)
      if (wheel.target === 0 && wanted === 0) return this.brake(wheel, BRAKE_SHARE, dt)
      const error = (wheel.target - wheel.spin * radius) / topSpeed
      wheel.sum = clamp(wheel.sum + error * REGULATOR_I * dt, -1, 1)
      // The regulator knows its motors' dead zone and steps over it.
      power = clamp(wheel.target / topSpeed + Math.sign(wheel.target) * deadZone + error * REGULATOR_P + wheel.sum, -1, 1)
    } else if (mode === WHEEL_MODE.power) {
      power = clamp(command, -1, 1)
      wheel.target = wheel.spin * radius
      wheel.sum = 0
    } else {
      wheel.target = wheel.spin * radius
      if (Math.abs(wheel.target) < STALL_SPEED) wheel.target = 0
      return this.brake(wheel, mode === WHEEL_MODE.coast ? COAST_SHARE : BRAKE_SHARE, dt)
    }
    wheel.power = power
    const driving = Math.abs(power) < deadZone ? 0 : power
    // Torque falls with speed to nothing at the free speed. It is taken at the end of the step, so
    // that it cannot overshoot: to the floor's push the wheel then seems as much heavier.
    wheel.inertia = this.inertia + dt * wheel.stallTorque / free
    wheel.spin = (wheel.spin * this.inertia + dt * wheel.stallTorque * driving) / wheel.inertia
  }

  private brake(wheel: Wheel, share: number, dt: number): void {
    wheel.power = 0
    wheel.sum = 0
    const most = wheel.stallTorque * share * dt / this.inertia
    // A wheel that the brake brings to rest is held there against the floor's push.
    wheel.inertia = Math.abs(wheel.spin) < most ? this.inertia * LOCKED : this.inertia
    wheel.spin -= clamp(wheel.spin, -most, most)
  }

  snapshot(): unknown {
    return { wheels: this.wheels.map(w => ({ ...w })), solver: this.solver.snapshot() }
  }

  restore(state: unknown): void {
    const { wheels, solver } = state as { wheels: Wheel[], solver: readonly number[] }
    wheels.forEach((saved, i) => { Object.assign(this.wheels[i]!, saved); this.spins[i] = saved.angle })
    this.solver.restore(solver)
  }
}

/** Whether a command asks for more than a motor can do. */
function beyond(mode: number, command: number, topSpeed: number): boolean {
  return (mode === WHEEL_MODE.speed && Math.abs(command) > topSpeed * 1.0001) || (mode === WHEEL_MODE.power && Math.abs(command) > 1.0001)
}
