import type { BodyState, MutableVector, Vector } from '../geometry'
import { clamp } from '../maths'

/** Where a wheel or castor stands on the floor: in the body's frame, and in this step from the body's centre in the world (`stand`). Metres. */
export interface Foot {
  readonly forward: number
  readonly left: number
  rx: number
  ry: number
  rz: number
  /** N s that the floor can give within this step, in any direction; of a castor, within a round. */
  limit: number
}

/** A wheel as the solver sees it: its spin changes with what the floor gives back. */
export interface GrippingWheel extends Foot {
  readonly radius: number
  /** kg m² that turning it takes, motor and brake included. */
  readonly inertia: number
  /** How much faster its slip gets for 1 N s along and across, in this step. */
  alongGive: number
  acrossGive: number
  spin: number
  /** N s given so far, along and across the wheel. */
  along: number
  across: number
}

/**
 * A change of speed within one step beyond this is a blow, not a push that goes on: metres a
 * second, radians a second.
 */
const SUDDEN = 0.05
const SUDDEN_TURN = 0.5

/**
 * Works out the impulses of a flat floor on a rigid body within one step: the sequential
 * impulse method (Catto, "Fast and simple physics using sequential impulses", 2006), with the
 * spin of the wheels among its unknowns and the circle of friction as the bound.
 */
export class ContactSolver {
  private body!: BodyState
  private known!: Float64Array
  private fall = 0
  private vx = 0
  private vy = 0
  private vz = 0
  private wx = 0
  private wy = 0
  private wz = 0
  private fx = 1
  private fy = 0
  // What else will push within the step, as far as the last one tells: speeds, and turning.
  private ex = 0
  private ey = 0
  private ewx = 0
  private ewy = 0
  private ewz = 0
  /** Speeds and turning that this solver left the body with, once it has. */
  private readonly left = new Float64Array(5)
  private began = false

  constructor(private readonly mass: number, private readonly inertia: Vector) {}

  /** Begins a step in which `known` pushes besides, impulse and turning impulse in the world, and gravity makes it faster downwards by `fall`. */
  begin(body: BodyState, known: Float64Array, fall: number): void {
    this.body = body
    this.known = known
    this.fall = fall
    this.vx = body.velocity.x
    this.vy = body.velocity.y
    this.vz = body.velocity.z - fall
    this.wx = body.spin.x
    this.wy = body.spin.y
    this.wz = body.spin.z
    if (this.began) {
      const { left } = this
      this.ex = clamp(this.vx - left[0]!, -SUDDEN, SUDDEN)
      this.ey = clamp(this.vy - left[1]!, -SUDDEN, SUDDEN)
      this.ewx = clamp(this.wx - left[2]!, -SUDDEN_TURN, SUDDEN_TURN)
      this.ewy = clamp(this.wy - left[3]!, -SUDDEN_TURN, SUDDEN_TURN)
      this.ewz = clamp(this.wz - left[4]!, -SUDDEN_TURN, SUDDEN_TURN)
    }
    this.apply(0, 0, 0, known[0]!, known[1]!, known[2]!)
    this.turn(known[3]!, known[4]!, known[5]!)
    const m = body.matrix
    const length = Math.sqrt(m[0]! * m[0]! + m[3]! * m[3]!)
    this.fx = length > 1e-6 ? m[0]! / length : 1
    this.fy = length > 1e-6 ? m[3]! / length : 0
  }

  /** Upward speed (m/s) of the body's point at r from its centre. */
  verticalSpeed(rx: number, ry: number): number {
    return this.vz + this.wx * ry - this.wy * rx
  }

  /** Change of upward speed at r for an upward impulse of 1 N s there. */
  giveUpward(rx: number, ry: number): number {
    // r x (0, 0, 1), turned into the body's frame, over its moments.
    const m = this.body.matrix
    const a = m[0]! * ry - m[3]! * rx
    const b = m[1]! * ry - m[4]! * rx
    const c = m[2]! * ry - m[5]! * rx
    return 1 / this.mass + a * a / this.inertia.x + b * b / this.inertia.y + c * c / this.inertia.z
  }

  /** An upward impulse (N s) at r. */
  lift(rx: number, ry: number, rz: number, impulse: number): void {
    this.apply(rx, ry, rz, 0, 0, impulse)
  }

  /** Works out where a foot is in this step, `up` from the body's centre (metres, in its frame). */
  stand(foot: Foot, up: number): void {
    const m = this.body.matrix
    const { forward, left } = foot
    foot.rx = m[0]! * forward + m[1]! * left + m[2]! * up
    foot.ry = m[3]! * forward + m[4]! * left + m[5]! * up
    foot.rz = m[6]! * forward + m[7]! * left + m[8]! * up
  }

  /** Works out what a wheel that stands resists with in this step; nothing is given yet. */
  ready(wheel: GrippingWheel): void {
    const { rx, ry, rz, radius, inertia } = wheel
    wheel.alongGive = this.softness(rx, ry, rz, this.fx, this.fy) + radius * radius / inertia
    wheel.acrossGive = this.softness(rx, ry, rz, -this.fy, this.fx)
    wheel.along = 0
    wheel.across = 0
  }

  /** Lets a wheel that is ready grip: no slip along and across, within the circle of friction. */
  grip(wheel: GrippingWheel): void {
    const { rx, ry, rz } = wheel
    const fx = this.fx
    const fy = this.fy
    const px = this.vx + this.ex + (this.wy + this.ewy) * rz - (this.wz + this.ewz) * ry
    const py = this.vy + this.ey + (this.wz + this.ewz) * rx - (this.wx + this.ewx) * rz
    const slipAlong = px * fx + py * fy - wheel.radius * wheel.spin
    const slipAcross = -px * fy + py * fx
    let along = wheel.along - slipAlong / wheel.alongGive
    let across = wheel.across - slipAcross / wheel.acrossGive
    const size = Math.sqrt(along * along + across * across)
    if (size > wheel.limit) {
      along *= wheel.limit / size
      across *= wheel.limit / size
    }
    const dAlong = along - wheel.along
    const dAcross = across - wheel.across
    wheel.along = along
    wheel.across = across
    wheel.spin -= wheel.radius * dAlong / wheel.inertia
    this.apply(rx, ry, rz, dAlong * fx - dAcross * fy, dAlong * fy + dAcross * fx, 0)
  }

  /** Friction of an unpowered support that stands, up to its limit. */
  drag({ rx, ry, rz, limit }: Foot): void {
    const px = this.vx + this.wy * rz - this.wz * ry
    const py = this.vy + this.wz * rx - this.wx * rz
    const speed = Math.sqrt(px * px + py * py)
    if (speed < 1e-6) return
    const dx = px / speed
    const dy = py / speed
    const impulse = clamp(speed / this.softness(rx, ry, rz, dx, dy), 0, limit)
    this.apply(rx, ry, rz, -impulse * dx, -impulse * dy, 0)
  }

  /** Change of speed at r along the level direction d for an impulse of 1 N s along d. */
  private softness(rx: number, ry: number, rz: number, dx: number, dy: number): number {
    // r x d, turned into the body's frame, over its moments.
    const tx = -rz * dy
    const ty = rz * dx
    const tz = rx * dy - ry * dx
    const m = this.body.matrix
    const a = m[0]! * tx + m[3]! * ty + m[6]! * tz
    const b = m[1]! * tx + m[4]! * ty + m[7]! * tz
    const c = m[2]! * tx + m[5]! * ty + m[8]! * tz
    return 1 / this.mass + a * a / this.inertia.x + b * b / this.inertia.y + c * c / this.inertia.z
  }

  private apply(rx: number, ry: number, rz: number, jx: number, jy: number, jz: number): void {
    this.vx += jx / this.mass
    this.vy += jy / this.mass
    this.vz += jz / this.mass
    this.turn(ry * jz - rz * jy, rz * jx - rx * jz, rx * jy - ry * jx)
  }

  private turn(tx: number, ty: number, tz: number): void {
    const m = this.body.matrix
    const a = (m[0]! * tx + m[3]! * ty + m[6]! * tz) / this.inertia.x
    const b = (m[1]! * tx + m[4]! * ty + m[7]! * tz) / this.inertia.y
    const c = (m[2]! * tx + m[5]! * ty + m[8]! * tz) / this.inertia.z
    this.wx += m[0]! * a + m[1]! * b + m[2]! * c
    this.wy += m[3]! * a + m[4]! * b + m[5]! * c
    this.wz += m[6]! * a + m[7]! * b + m[8]! * c
  }

  /** The sum of the floor's impulses: at the centre, and turning. */
  write(impulse: MutableVector, turning: MutableVector): void {
    const { velocity: v, spin: w, matrix: m } = this.body
    const { known } = this
    const { left } = this
    left[0] = this.vx
    left[1] = this.vy
    left[2] = this.wx
    left[3] = this.wy
    left[4] = this.wz
    this.began = true
    impulse.x = (this.vx - v.x) * this.mass - known[0]!
    impulse.y = (this.vy - v.y) * this.mass - known[1]!
    impulse.z = (this.vz + this.fall - v.z) * this.mass - known[2]!
    const dx = this.wx - w.x
    const dy = this.wy - w.y
    const dz = this.wz - w.z
    const a = (m[0]! * dx + m[3]! * dy + m[6]! * dz) * this.inertia.x
    const b = (m[1]! * dx + m[4]! * dy + m[7]! * dz) * this.inertia.y
    const c = (m[2]! * dx + m[5]! * dy + m[8]! * dz) * this.inertia.z
    turning.x = m[0]! * a + m[1]! * b + m[2]! * c - known[3]!
    turning.y = m[3]! * a + m[4]! * b + m[5]! * c - known[4]!
    turning.z = m[6]! * a + m[7]! * b + m[8]! * c - known[5]!
  }

  snapshot(): readonly number[] {
    return this.began ? [...this.left] : []
  }

  restore(state: readonly number[]): void {
    this.began = state.length > 0
    if (this.began) this.left.set(state)
    this.ex = this.ey = this.ewx = this.ewy = this.ewz = 0
  }
}
