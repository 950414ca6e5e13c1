import type { BodyState, Hit, Scene, Vector } from '../geometry'
import { clamp } from '../maths'
import { ContactSolver, type MutableVector } from './contact-solver'
import type { RandomStream } from '../random'
import type { ByRealism, RealismName } from './device'
import { WHEEL_MODE } from './wheels'

/** A two-wheeled drive as its document gives it. SI units; places in the body's frame. */
export interface DriveSettings {
  readonly radius: number
  readonly track: number
  /** Where the axle is, forward of the body's centre. */
  readonly forward: number
  /** Height of the body's centre above the floor the wheels stand on. */
  readonly height: number
  readonly mass: number
  readonly inertia: Vector
  readonly topSpeed: number
  /** N m of one motor at the wheel when it cannot turn. */
  readonly stallTorque: number
  /** Share of full power below which a motor does not move. */
  readonly deadZone: number
  readonly acceleration: number
  readonly grip: number
  /** Encoder ticks per turn of a wheel. */
  readonly ticks: number
  /** Where unpowered castors touch: forward and left. */
  readonly castors: readonly (readonly [number, number])[]
}

/** How two motors and wheels of one make differ (deviation), and what is left of the grip. */
const WEAR: ByRealism<{ readonly radius: number, readonly motor: number, readonly grip: number }> = {
  ideal: { radius: 0, motor: 0, grip: 1 },
  typical: { radius: 0.004, motor: 0.03, grip: 0.9 },
  rough: { radius: 0.015, motor: 0.09, grip: 0.65 },
}

/** How far a wheel's tyre sinks in under the robot's weight. */
const SAG = 0.002
/** Damping of the tyre, as a share of critical. */
const DAMPING = 0.5
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
/** Cosine of the lean beyond which the wheels have left the floor for good. */
const UPRIGHT = 0.3

interface Wheel {
  /** Place in the body's frame. */
  readonly left: number
  readonly radius: number
  readonly stallTorque: number
  /** Radians a second, and turned in all. */
  spin: number
  angle: number
  /** Commanded speed after the acceleration limit (m/s), and the regulator's sum. */
  target: number
  sum: number
  power: number
  stalledFor: number
  // This step: what turning it takes, and its contact.
  inertia: number
  load: number
  limit: number
  along: number
  across: number
}

/**
 * Motors, wheels and their grip on the floor. Each physics step it turns commands into the
 * forces of the floor on the body (docs/devices.md has the equations).
 */
export class WheelDrive {
  private readonly wheels: readonly [Wheel, Wheel]
  private readonly castorLoads: Float64Array
  private readonly stiffness: number
  private readonly damping: number
  private readonly inertia: number
  private readonly gripShare: number
  private readonly mostLoad: number
  private readonly solver: ContactSolver
  private floorGrip = 1
  private readonly hit: Hit = { distance: 0, nx: 0, ny: 0, nz: 1, solid: null }
  /** Set when a command was beyond what the motors can do. */
  clipped = false

  constructor(readonly settings: DriveSettings, realism: RealismName, noise: RandomStream) {
    const wear = WEAR[realism]
    const make = (left: number): Wheel => ({
      left,
      radius: settings.radius * (1 + wear.radius * noise.normal()),
      stallTorque: settings.stallTorque * (1 + wear.motor * noise.normal()),
      spin: 0, angle: 0, target: 0, sum: 0, power: 0, stalledFor: 0, inertia: 1, load: 0, limit: 0, along: 0, across: 0,
    })
    this.wheels = [make(settings.track / 2), make(-settings.track / 2)]
    this.castorLoads = new Float64Array(settings.castors.length)
    const supports = 2 + settings.castors.length
    this.stiffness = settings.mass * 9.81 / (supports * SAG)
    this.damping = 2 * DAMPING * Math.sqrt(this.stiffness * settings.mass / supports)
    this.inertia = WHEEL_INERTIA * settings.mass * settings.radius * settings.radius
    this.gripShare = wear.grip
    this.mostLoad = settings.mass * 9.81 * 4
    this.solver = new ContactSolver(settings.mass, settings.inertia)
  }

  /** Writes speed, travel, stalled, turned and turning speed as the encoders know them. */
  look(into: Float64Array): void {
    const { radius, ticks, track } = this.settings
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

  /** What the wheels really did: spin of each in rad/s, for the tape and the picture. */
  spins(): readonly [number, number] {
    return [this.wheels[0].angle, this.wheels[1].angle]
  }

  /**
   * One physics step: motors act, tyres carry, floors grip. Writes the impulse on the body
   * and its turning part into the two vectors.
   */
  step(commands: Float64Array, channel: number, body: BodyState, scene: Scene, dt: number, impulse: MutableVector, turning: MutableVector): void {
    const { forward, radius, castors, grip } = this.settings
    const solver = this.solver
    solver.begin(body)
    const mode = commands[channel]!
    this.wheels.forEach((wheel, i) => {
      this.motor(wheel, mode, commands[channel + 1 + i]!, dt)
      wheel.load = this.carry(body, scene, forward, wheel.left, wheel.radius, dt)
      wheel.limit = wheel.load * dt * grip * this.gripShare * this.floorGrip
      wheel.along = 0
      wheel.across = 0
    })
    castors.forEach(([at, left], i) => {
      this.castorLoads[i] = this.carry(body, scene, at, left, radius, dt)
    })
    for (let round = 0; round < ROUNDS; round++) {
      for (const wheel of this.wheels) if (wheel.load > 0) solver.grip(wheel, forward, wheel.left, -this.settings.height)
      for (let i = 0; i < castors.length; i++) {
        if (this.castorLoads[i]! > 0) solver.drag(castors[i]![0], castors[i]![1], -this.settings.height, this.castorLoads[i]! * dt * CASTOR_GRIP / ROUNDS)
      }
    }
    for (const wheel of this.wheels) {
      wheel.angle += wheel.spin * dt
      const stands = Math.abs(wheel.power) > STALL_POWER && Math.abs(wheel.spin * wheel.radius) < STALL_SPEED
      wheel.stalledFor = stands ? wheel.stalledFor + dt : 0
    }
    solver.write(impulse, turning)
  }

  /** Newtons with which one support is pressed to the floor; its push goes into the solver. */
  private carry(body: BodyState, scene: Scene, forward: number, left: number, radius: number, dt: number): number {
    const m = body.matrix
    if (m[8]! < UPRIGHT) return 0
    const up = radius - this.settings.height
    const rx = m[0]! * forward + m[1]! * left + m[2]! * up
    const ry = m[3]! * forward + m[4]! * left + m[5]! * up
    const rz = m[6]! * forward + m[7]! * left + m[8]! * up
    const { x, y, z } = body.pose.position
    const free = radius + SAG
    if (!scene.cast(x + rx, y + ry, z + rz, -m[2]!, -m[5]!, -m[8]!, free, this.hit, scene.ground)) return 0
    const depth = free - this.hit.distance
    const force = clamp(this.stiffness * depth - this.damping * this.solver.verticalSpeed(rx, ry, rz), 0, this.mostLoad)
    this.floorGrip = this.hit.solid!.surface.friction
    this.solver.lift(rx, ry, rz, force * dt)
    return force
  }

  private motor(wheel: Wheel, mode: number, command: number, dt: number): void {
    const { topSpeed, deadZone, acceleration, radius } = this.settings
    const free = topSpeed / radius
    let power = 0
    if (mode === WHEEL_MODE.speed) {
      if (Math.abs(command) > topSpeed * 1.0001) this.clipped = true
      const wanted = clamp(command, -topSpeed, topSpeed)
      wheel.target = clamp(wanted, wheel.target - acceleration * dt, wheel.target + acceleration * dt)
      if (wheel.target === 0 && wanted === 0) return this.brake(wheel, BRAKE_SHARE, dt)
      const error = (wheel.target - wheel.spin * radius) / topSpeed
      wheel.sum = clamp(wheel.sum + error * REGULATOR_I * dt, -1, 1)
      // The regulator knows its motors' dead zone and steps over it.
      power = clamp(wheel.target / topSpeed + Math.sign(wheel.target) * deadZone + error * REGULATOR_P + wheel.sum, -1, 1)
    } else if (mode === WHEEL_MODE.power) {
      if (Math.abs(command) > 1.0001) this.clipped = true
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
    wheels.forEach((saved, i) => Object.assign(this.wheels[i]!, saved))
    this.solver.restore(solver)
  }
}
