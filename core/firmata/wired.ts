import type { Board } from '../hardware'
import type { DeviceFacts, Robot, RobotFacts, Wiring } from '../robot'
import { FirmataHost } from './host'
import { reachedBy, voltsOf, type MakePart, type Part } from './parts'

/** A device of a robot, and whether it can be had over the wire: why not, else null. */
export interface Reachable { readonly device: string, readonly why: string | null }

/** Which devices of a robot can be real when a board is driven over a wire, in the order of its facts. `wiring` can be built. Throws RangeError for a board whose pins Firmata does not number. */
export function reachable(robot: Robot, facts: RobotFacts, board: Board, wiring: Wiring): readonly Reachable[] {
  return facts.devices.map((d) => {
    const made = reachedBy(robot, facts, board, wiring, d)
    return { device: d.name, why: 'why' in made ? made.why : null }
  })
}

/** How a robot's devices are reached, and which of them. */
export interface WiredRobotSetting {
  readonly robot: Robot
  readonly facts: RobotFacts
  readonly board: Board
  readonly wiring: Wiring
  /** Names of those that are real. */
  readonly real: readonly string[]
}

interface Wired {
  readonly facts: DeviceFacts
  readonly part: Part
  /** The first of its channels; -1 for what is told nothing. */
  readonly channel: number
  readonly told: Float64Array
  readonly reads: Float64Array
  /** In how many ticks it looks next. */
  due: number
  /** Whether it ever looked. */
  looked: boolean
}

/** How far the two are that wait: the board that is asked who it is, or its devices that look for the first time. */
export type Stage = 'asking' | 'looking' | 'ready'

/** A board that says nothing for so long, though it is asked, is gone, milliseconds. */
const SILENT_FOR = 1000
/** How long a board may take to answer, milliseconds: some start anew when the line is opened. */
const ANSWERS_WITHIN = 5000
/** And its devices, from then on, to look for the first time. */
const LOOKS_WITHIN = 3000
/** The shortest time between two reports that boards take, milliseconds. */
const SHORTEST_INTERVAL = 10

/**
 * Devices of a robot at the other end of a wire, on a board that speaks Firmata: what they read comes in tick by tick, what they
 * are told goes out. `now`: milliseconds of a clock that never goes back. Throws RangeError where a device cannot be had so.
 */
export class WiredRobot {
  readonly host: FirmataHost
  /** What the board cannot do that it has to, in words; null where nothing is wrong. */
  problem: string | null = null
  /** How often the board began anew. */
  restarts = 0
  private readonly wired: readonly Wired[]
  /** What is connected by a voltage, by its port. */
  private readonly measured: ReturnType<typeof voltsOf>
  private readonly tick: number
  private begun = Infinity
  private readonly opened: number
  private rests = true

  constructor({ robot, facts, board, wiring, real }: WiredRobotSetting, private readonly send: (bytes: readonly number[]) => void, private readonly now: () => number) {
    this.host = new FirmataHost((bytes) => { this.out(bytes) }, now)
    this.tick = facts.tick
    this.opened = now()
    this.wired = facts.devices.filter(d => real.includes(d.name)).map((d) => {
      const made: MakePart | { readonly why: string } = reachedBy(robot, facts, board, wiring, d)
      if ('why' in made) throw new RangeError(`${d.name} cannot be real: ${made.why}`)
      const actuator = facts.actuators.find(a => a.name === d.name)
      return {
        facts: d, part: made(this.host, now), channel: actuator?.channel ?? -1, told: Float64Array.from(actuator?.initial ?? []), reads: new Float64Array(d.readings.length), due: 0, looked: d.readings.length === 0,
      }
    })
    this.measured = voltsOf(board, wiring, this.host)
    this.host.onRestart = () => { this.restarts++; this.begin() }
  }

  /** Where the bytes go that say what is to be: out, or into a list. */
  private collected: number[] | null = null
  private out(bytes: readonly number[]): void {
    if (this.collected === null) this.send(bytes)
    else this.collected.push(...bytes)
  }

  receive(bytes: Iterable<number>): void { this.host.receive(bytes) }

  get stage(): Stage { return this.begun === Infinity ? 'asking' : this.wired.every(w => w.looked) ? 'ready' : 'looking' }

  /** Devices that have not looked yet. */
  get waiting(): readonly string[] { return this.wired.filter(w => !w.looked).map(w => w.facts.name) }

  /** Why nothing can come of it, in words; null while it goes well. */
  get lost(): string | null {
    if (this.problem !== null) return this.problem
    const { host, stage } = this
    if (stage === 'asking') return this.now() - this.opened > ANSWERS_WITHIN ? (host.name === '' ? 'nothing at the other end of the wire speaks Firmata' : `${host.name} does not say what its pins can do`) : null
    if (stage === 'looking' && this.now() - this.begun > LOOKS_WITHIN) return `nothing comes from ${this.waiting.join(', ')}${host.said.length === 0 ? '' : ` (the board said: ${host.said.at(-1)!})`}`
    return host.silent > SILENT_FOR ? `the board has said nothing for ${(host.silent / 1000).toFixed(1)} s` : null
  }

  /** To be called every few milliseconds, and before each tick: asks, sets pins up, lets devices look for the first time. */
  pass(): void {
    const { host } = this
    host.pass()
    if (this.problem !== null || !host.ready) return
    if (this.begun === Infinity) {
      this.begun = this.now()
      this.begin()
    }
    if (this.stage === 'looking') for (const w of this.wired) if (!w.looked) w.looked = w.part.look(w.reads)
  }

  private begin(): void {
    this.host.interval(Math.max(SHORTEST_INTERVAL, Math.round(this.tick * 1000)))
    for (const { part } of this.wired) this.problem ??= part.begin()
    // What nobody needs yet may be on a pin that cannot: it is not known then.
    for (const volts of this.measured.values()) volts.begin()
    // Whatever it was at before, it begins at rest.
    if (this.problem === null) for (const { part } of this.wired) part.rest()
  }

  /** Volts at the ports where something is connected by a voltage, real or not, as far as the board has told them: what they mean is what its curve says. */
  get volts(): Readonly<Record<string, number>> {
    return Object.fromEntries([...this.measured].flatMap(([port, { latest }]) => latest === null ? [] : [[port, latest.volts]]))
  }

  /** The devices that are real, in order. */
  get devices(): readonly string[] { return this.wired.map(w => w.facts.name) }

  /** What they read in this tick: for each in order, 1 where it looked, else 0, and its readings, SI. Once a tick. */
  hear(into: Float64Array): void {
    let at = 0
    for (const w of this.wired) {
      const due = w.due <= 0
      if (due) w.due = Math.max(1, Math.round(w.facts.round / this.tick))
      w.due--
      // What has nothing new where it should have looks again with the next tick.
      const looked = due && w.part.look(w.reads)
      if (due && !looked) w.due = 0
      into[at++] = looked ? 1 : 0
      into.set(w.reads, at)
      at += w.reads.length
    }
  }

  /** Passes on what a controller commanded, SI numbers by channel. */
  obey(commands: Float64Array): void {
    this.rests = false
    for (const { part, channel, told } of this.wired) {
      if (channel === -1) continue
      for (let i = 0; i < told.length; i++) told[i] = commands[channel + i]!
      part.tell(told)
    }
  }

  /** Has all that is real stand, and lights go out. */
  rest(): void {
    if (this.host.ready && !this.rests) for (const { part } of this.wired) part.rest()
    this.rests = true
  }

  /** Has all that is real stand, and asks whether it does; what comes back says whether the board has answered. */
  stop(): () => boolean {
    this.rest()
    return this.host.ready ? this.host.confirm() : () => true
  }

  /** The bytes that have all of it stand, whatever was said before: for whoever is at the wire when nobody is here any more. */
  lastWords(): readonly number[] {
    if (!this.host.ready) return []
    return this.host.anew(() => {
      this.collected = []
      for (const { part } of this.wired) part.rest()
      const bytes = this.collected
      this.collected = null
      return bytes
    })
  }
}
