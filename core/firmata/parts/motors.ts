import { WHEEL_MODE, type DriveSettings } from '../../devices'
import { clamp } from '../../maths'
import { PIN_MODE } from '../protocol'
import { cannot, type Part, type Reached } from './part'

/** Motors behind their drivers, told a share of full power; and servos. The same as what a program carried to C++ has (`core/export/arduino/drivers/motors.h`). */

interface Motor {
  begin(): string | null
  /** A share of full power, -1 to 1. */
  give(share: number): void
  brake(): void
  coast(): void
}

const duty = (share: number): number => Math.round(Math.min(1, Math.abs(share)) * 255)

function pinAndDirection(of: Reached): Motor {
  const give = (share: number): void => {
    of.host.level(of.pin('direction'), share < 0)
    of.host.value(of.pin('power'), duty(share))
  }
  return { begin: () => cannot(of, ['direction', PIN_MODE.output, 'an output'], ['power', PIN_MODE.pwm, 'told a strength']), give, brake: () => { give(0) }, coast: () => { give(0) } }
}

function twoPins(of: Reached): Motor {
  const both = (forwards: number, backwards: number): void => {
    of.host.value(of.pin('forwards'), forwards)
    of.host.value(of.pin('backwards'), backwards)
  }
  return {
    begin: () => cannot(of, ['forwards', PIN_MODE.pwm, 'told a strength'], ['backwards', PIN_MODE.pwm, 'told a strength']),
    give: (share) => { both(share < 0 ? 0 : duty(share), share < 0 ? duty(share) : 0) },
    brake: () => { both(255, 255) },
    coast: () => { both(0, 0) },
  }
}

/** Share of power over which a motor that does not turn counts as standing, and how slow that is (of its top speed). */
const STALL_POWER = 0.25
const STALL_SPEED = 0.02
/** Seconds. */
const STALL_TIME = 0.2
/** Slower than this share of its top speed it counts as standing when it is to brake. */
const SLOW = 0.05

/**
 * A motor that is told a power, or a speed that is kept to. Radians, radians a second. Nothing counts its turns over this wire: it is taken to turn as
 * it is told, so where it stands is worked out by power and time.
 */
export class Shaft {
  angle = 0
  speed = 0
  private target = 0
  private power = 0
  private stands = 0
  private readonly motor: Motor

  /** Radians a second, and a second of them; the share of power below which it does not turn. */
  constructor(private readonly of: Reached, by: string, private readonly top: number, private readonly acceleration: number, private readonly dead: number) {
    this.motor = by === 'two pins' ? twoPins(of) : pinAndDirection(of)
  }

  begin(): string | null { return this.motor.begin() }

  look(): void {
    const { power, top, dead } = this
    this.speed = Math.abs(power) < dead ? 0 : power * top
    this.angle += this.speed * this.of.tick
    if (Math.abs(power) <= STALL_POWER || Math.abs(this.speed) >= STALL_SPEED * top) this.stands = 0
    else this.stands++
  }

  get turns(): boolean { return Math.abs(this.speed) > STALL_SPEED * this.top }
  get stalled(): boolean { return this.stands * this.of.tick > STALL_TIME }

  give(share: number): void {
    this.power = clamp(share, -1, 1)
    this.motor.give(this.power)
  }

  /** Keeps a speed, as fast as the motor gathers it. */
  keep(wanted: number): void {
    const step = this.acceleration * this.of.tick
    this.target = clamp(clamp(wanted, -this.top, this.top), this.target - step, this.target + step)
    if (this.target === 0 && wanted === 0) this.brake()
    else this.give(this.target === 0 ? 0 : Math.sign(this.target) * Math.max(this.dead, Math.abs(this.target) / this.top))
  }

  brake(): void {
    this.power = 0
    this.target = Math.abs(this.speed) > SLOW * this.top ? this.speed : 0
    this.motor.brake()
  }

  coast(): void {
    this.power = 0
    this.target = this.speed
    this.motor.coast()
  }

  /** A share of full power, from the speed that there is. */
  drive(share: number): void {
    this.target = this.speed
    this.give(share)
  }
}

/** Two wheels, each by its motor: metres on the floor. */
export function wheelPair(left: Shaft, right: Shaft, { radius, track }: DriveSettings): Part {
  const tellOne = (shaft: Shaft, how: number, amount: number): void => {
    if (how === WHEEL_MODE.speed) shaft.keep(amount / radius)
    else if (how === WHEEL_MODE.power) shaft.drive(amount)
    else if (how === WHEEL_MODE.coast) shaft.coast()
    else shaft.brake()
  }
  return {
    begin: () => left.begin() ?? right.begin(),
    look(into) {
      left.look()
      right.look()
      into[0] = (left.speed + right.speed) / 2 * radius
      into[1] = (left.angle + right.angle) / 2 * radius
      into[2] = left.stalled || right.stalled ? 1 : 0
      into[3] = (left.angle - right.angle) * radius / track
      into[4] = (left.speed - right.speed) * radius / track
      return true
    },
    tell(told) {
      tellOne(left, told[0]!, told[1]!)
      tellOne(right, told[0]!, told[2]!)
    },
    rest() { left.brake(); right.brake() },
  }
}

/** A motor by itself: braked (0), by power (1), or at a speed (2). */
export const turning = (shaft: Shaft): Part => ({
  begin: () => shaft.begin(),
  look(into) {
    shaft.look()
    into[0] = shaft.angle
    into[1] = shaft.speed
    into[2] = shaft.turns ? 1 : 0
    return true
  },
  tell([how, amount]) {
    if (how === 2) shaft.keep(amount!)
    else if (how === 1) shaft.drive(amount!)
    else shaft.brake()
  },
  rest() { shaft.brake() },
})

/** Pulses of a servo at its two ends, microseconds. */
const PULSES = [1000, 2000] as const

/** What goes to a place at a speed, and tells where it was told to be. */
class Sliding {
  target: number

  constructor(private readonly of: Reached, public at: number, public speed: number, private readonly low: number, private readonly high: number) { this.target = at }

  begin(): string | null {
    if (!this.of.host.servo(this.of.pin('signal'), ...PULSES)) return `the board says that its pin ${this.of.called('signal')} (number ${this.of.pin('signal')}) can have no servo`
    this.go()
    return null
  }

  step(): void {
    const way = this.speed * this.of.tick
    this.at = clamp(this.target, this.at - way, this.at + way)
    this.go()
  }

  get moving(): boolean { return this.at !== this.target }

  /** It stays where it is. */
  hold(): void { this.target = this.at }

  private go(): void {
    const share = clamp((this.at - this.low) / (this.high - this.low), 0, 1)
    this.of.host.value(this.of.pin('signal'), Math.round(PULSES[0] + share * (PULSES[1] - PULSES[0])))
  }
}

export interface JointSettings { readonly from: number, readonly to: number, readonly home: number, readonly start?: number, readonly speed: number }

/** A joint by a servo: told to hold (0) or to go home (1), where to, and how fast. */
export function servoJoint(of: Reached, { from, to, home, start, speed }: JointSettings): Part {
  const servo = new Sliding(of, start ?? home, speed, from, to)
  return {
    begin: () => servo.begin(),
    look(into) {
      servo.step()
      into[0] = servo.at
      into[1] = servo.moving ? 1 : 0
      into[2] = 0
      return true
    },
    tell([how, place, fast]) {
      servo.target = clamp(how === 1 ? home : place!, from, to)
      servo.speed = clamp(Math.abs(fast!), 0.02 * speed, speed)
    },
    rest() { servo.hold() },
  }
}

/** A claw by a servo: told to rest (0), to open (1) or to close (2). Whether it holds something is not known. */
export function servoClaw(of: Reached, { opening, speed }: { readonly opening: number, readonly speed: number }): Part {
  const servo = new Sliding(of, 0, speed, 0, opening)
  return {
    begin: () => servo.begin(),
    look(into) {
      servo.step()
      into[0] = servo.at
      into[1] = 0
      into[2] = servo.moving ? 1 : 0
      into[3] = 0
      return true
    },
    tell([how]) {
      if (how === 1) servo.target = opening
      else if (how === 2) servo.target = 0
    },
    rest() { servo.hold() },
  }
}
