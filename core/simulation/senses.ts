import type { DeviceModel, RealismName, SensorError, Surroundings, Truth } from '../devices'
import { clamp } from '../maths'
import { RandomStream, type StreamState } from '../random'
import { lookRound, type Robot, type RobotDevice, type RobotFacts } from '../robot'
import type { Heard } from './wire'

/** What a device saw, on its way to the program. */
interface Look { at: number, begun: number, values: number[] }

interface Sensor {
  readonly name: string
  readonly model: DeviceModel
  readonly first: number
  readonly count: number
  readonly period: number
  readonly latency: number
  /** Seconds: when it looks next; of no account for what is read with every tick. */
  due: number
  /** Looks on their way to the program: when they arrive, in which tick they were begun, and what they say. */
  readonly underway: Look[]
  /** Looks that were delivered, to be used again. */
  readonly spare: Look[]
  around: Surroundings
}

export interface SensesSnapshot {
  readonly raw: readonly number[]
  readonly looks: readonly number[]
  readonly began: readonly number[]
  readonly sensors: readonly { readonly due: number, readonly underway: Sensor['underway'], readonly model: unknown, readonly beam: readonly number[] }[]
  readonly streams: readonly StreamState[]
}

/** Slack when times are compared, seconds: far below a tick, far above rounding. */
const SLACK = 1e-9

/**
 * When which device looks, and when what it saw arrives. A reading is what was last seen,
 * not what is true now.
 */
export class Senses {
  readonly raw: Float64Array
  readonly looks: Float64Array
  /** The tick in which the latest look of each device was begun. */
  readonly began: Float64Array
  private readonly sensors: readonly Sensor[]
  /** Those that are read with every tick, and those that have a time of their own. */
  private readonly steady: readonly Sensor[]
  private readonly timed: readonly Sensor[]
  private shown: readonly { readonly name: string, readonly beam: Float64Array }[] | null = null
  private readonly streams: RandomStream[] = []
  /** What tells what is true of each device; made when somebody first asks. */
  private ideal: readonly { readonly sensor: Sensor, readonly tell: Truth }[] | null = null
  private readonly scratch: Float64Array
  /** Devices that are real now: what they see here reaches no program. */
  private real: ReadonlySet<string> | null = null

  constructor(private readonly robot: Robot, facts: RobotFacts, realism: RealismName, seed: number, aroundOf: (device: RobotDevice) => Surroundings) {
    this.raw = new Float64Array(facts.readingCount)
    this.looks = new Float64Array(facts.readingCount)
    this.began = new Float64Array(facts.readingCount).fill(-1)
    this.scratch = new Float64Array(facts.readingCount)
    this.sensors = lookRound(robot, realism).map(({ device: d, period, round, latency, due }) => {
      const channel = facts.actuators.find(a => a.name === d.name)?.channel ?? -1
      const noise = RandomStream.named(seed, `noise/${d.name}`, channel === -1 ? robot.make.noise : 1)
      this.streams.push(noise)
      const known = facts.devices.find(x => x.name === d.name)!
      return {
        name: d.name,
        model: made(robot, d, realism, noise, channel),
        first: known.first, count: known.readings.length,
        // What has no period of its own is read with every tick, never between two.
        period: period === 0 ? Infinity : round, latency,
        due, underway: [], spare: [], around: aroundOf(d),
      }
    })
    this.steady = this.sensors.filter(s => s.period === Infinity)
    this.timed = this.sensors.filter(s => s.period !== Infinity)
  }

  /** A device at work; throws when there is none of that name. */
  modelOf(device: string): DeviceModel {
    const sensor = this.sensors.find(s => s.name === device)
    if (sensor === undefined) throw new Error(`no device ${device}`)
    return sensor.model
  }

  /** Has a device see something else from its next look on. */
  see(device: string, around: Surroundings): void {
    const sensor = this.sensors.find(s => s.name === device)
    if (sensor !== undefined) sensor.around = around
  }

  /** The devices that show a beam, in order. */
  beams(): readonly { readonly name: string, readonly beam: Float64Array }[] {
    return this.shown ??= this.sensors.flatMap(s => s.model.beam === null ? [] : [{ name: s.name, beam: s.model.beam }])
  }

  /**
   * What is true of each reading at this moment, SI, where it stands: as an ideal device would read, or as its kind says; NaN for all else.
   * Nothing of the run changes by asking. `began`: which way the robot faced when the run began, radians, counter-clockwise.
   */
  truths(began: number): Float64Array {
    this.ideal ??= this.robot.fitted.flatMap((d) => {
      const sensor = this.sensors.find(s => s.name === d.name)
      const truth = d.kind.truth ?? (d.kind.hand === 'eye' ? 'look' : null)
      if (sensor === undefined || truth === null) return []
      if (truth !== 'look') return [{ sensor, tell: truth }]
      const model = made(this.robot, d, 'ideal', RandomStream.named(0, 'true'), -1)
      return [{ sensor, tell: (around, _, into) => model.look(around, into) }]
    })
    const found = new Float64Array(this.raw.length).fill(NaN)
    for (const { sensor, tell } of this.ideal) {
      this.scratch.fill(NaN)
      tell(sensor.around, began, this.scratch)
      for (let i = 0; i < sensor.count; i++) found[sensor.first + i] = this.scratch[i]!
    }
    return found
  }

  /** From now on all noise is drawn anew, as this seed says. What is fixed in a device, as its bias is, stays. */
  drawAnew(seed: number): void { this.streams.forEach((stream, i) => stream.beginAnew(seed, `anew/noise/${this.sensors[i]!.name}`)) }

  /** Every device's first look, which the first tick waits for. */
  first(): void {
    for (const s of this.sensors) {
      this.take(s, 0, -1)
      s.due += s.period
      this.deliver(s, Infinity)
    }
  }

  /** Looks that are due, and readings that arrive, at a time (s) and its tick. */
  update(time: number, tick: number): void {
    this.between(time, tick)
    for (const s of this.steady) this.take(s, time, tick)
    for (const s of this.sensors) this.deliver(s, time)
  }

  /** Whether a device looks at a time between two ticks. */
  isDue(time: number): boolean {
    for (const s of this.timed) if (time >= s.due - SLACK) return true
    return false
  }

  /** Looks that are due at a time after a tick's decisions; what they see arrives with a later tick. */
  between(time: number, tick: number): void {
    for (const s of this.timed) {
      while (time >= s.due - SLACK) {
        this.take(s, time, tick)
        s.due += s.period
      }
    }
  }

  /** Says which devices are real from the next tick on; null: none. */
  leaveTo(real: ReadonlySet<string> | null): void { this.real = real }

  /** Has what real devices read in a tick stand where simulated ones put theirs. */
  hear(heard: Heard, tick: number): void {
    heard.play(tick, this.raw, (first) => {
      this.looks[first] = this.looks[first]! + 1
      this.began[first] = tick
    })
  }

  private take(s: Sensor, time: number, tick: number): void {
    s.model.look(s.around, this.scratch)
    // One that was delivered is used again: nothing is made anew in the steady state.
    const look = s.spare.pop() ?? { at: 0, begun: 0, values: new Array<number>(s.count).fill(0) }
    look.at = time + s.latency
    look.begun = tick
    for (let i = 0; i < s.count; i++) look.values[i] = this.scratch[i]!
    s.underway.push(look)
  }

  private deliver(s: Sensor, time: number): void {
    while (s.underway.length > 0 && s.underway[0]!.at <= time + SLACK) {
      const look = s.underway.shift()!
      const { values, begun } = look
      s.spare.push(look)
      if (this.real?.has(s.name) === true) continue
      for (let i = 0; i < values.length; i++) this.raw[s.first + i] = values[i]!
      this.looks[s.first] = this.looks[s.first]! + 1
      this.began[s.first] = begun
    }
  }

  snapshot(): SensesSnapshot {
    return {
      raw: [...this.raw], looks: [...this.looks], began: [...this.began],
      sensors: this.sensors.map(s => ({ due: s.due, underway: s.underway.map(u => ({ ...u, values: [...u.values] })), model: s.model.snapshot(), beam: [...s.model.beam ?? []] })),
      streams: this.streams.map(s => s.snapshot()),
    }
  }

  restore(state: SensesSnapshot): void {
    this.raw.set(state.raw)
    this.looks.set(state.looks)
    this.began.set(state.began)
    state.sensors.forEach((saved, i) => {
      const s = this.sensors[i]!
      s.due = saved.due
      s.underway.splice(0, s.underway.length, ...saved.underway.map(u => ({ ...u, values: [...u.values] })))
      s.model.restore(saved.model)
      s.model.beam?.set(saved.beam)
    })
    state.streams.forEach((saved, i) => this.streams[i]!.restore(saved))
  }
}

function made(robot: Robot, { name, kind, parameters, mount }: RobotDevice, realism: RealismName, noise: RandomStream, channel: number): DeviceModel {
  const model = kind.create({ name, parameters, mount, realism, noise, taught: robot.taught, channel, tick: robot.tick, build: robot })
  const error = robot.make.errs[name]
  const [first] = kind.readings(parameters)
  // Sums, and what is no quantity, are not measured; some err by themselves.
  return error === undefined || kind.errs !== undefined || first === undefined || first.type.type !== 'quantity' || first.resettable || channel !== -1 ? model : erring(model, error, first.range ?? [-Infinity, Infinity], first.mayMiss === true, noise)
}

/** A sensor whose first reading errs as was measured; the rest of it is as it is. A look that is lost sees nothing where the reading may say so, else what the look before saw. */
function erring(model: DeviceModel, { bias, noise, dropout }: SensorError, [least, most]: readonly [number, number], mayMiss: boolean, draw: RandomStream): DeviceModel {
  let before: number | null = null
  const look = model.look.bind(model)
  return Object.assign(Object.create(model) as DeviceModel, {
    look(around: Surroundings, into: Float64Array): void {
      look(around, into)
      const [error, lost] = [noise * draw.normal(), dropout > 0 && draw.chance(dropout)]
      if (lost && mayMiss) { into[0] = Infinity; into[1] = 0 }
      else if (lost && before !== null) into[0] = before
      else if (Number.isFinite(into[0]!)) into[0] = clamp(into[0]! + bias + error, least, most)
      before = into[0]!
    },
    snapshot: () => ({ model: model.snapshot(), before }),
    restore(state: { readonly model: unknown, readonly before: number | null }): void {
      model.restore(state.model)
      before = state.before
    },
  })
}
