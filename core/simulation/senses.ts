import type { DeviceModel, RealismName, Surroundings } from '../devices'
import type { WheelDrive } from '../devices'
import { RandomStream, type StreamState } from '../random'
import type { Robot, RobotDevice, RobotFacts } from '../robot'

/** What a device saw, on its way to the program. */
interface Look { at: number, begun: number, values: number[] }

interface Sensor {
  readonly name: string
  readonly model: DeviceModel
  readonly first: number
  readonly count: number
  readonly period: number
  readonly latency: number
  /** Seconds: when it looks next. */
  due: number
  /** Looks on their way to the program: when they arrive, in which tick they were begun, and what they say. */
  readonly underway: Look[]
  /** Looks that were delivered, to be used again. */
  readonly spare: Look[]
  readonly around: Surroundings
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
  private readonly sensors: Sensor[]
  private shown: readonly { readonly name: string, readonly beam: Float64Array }[] | null = null
  private readonly streams: RandomStream[] = []
  private readonly scratch: Float64Array

  constructor(robot: Robot, facts: RobotFacts, realism: RealismName, seed: number, private readonly drive: WheelDrive | null, aroundOf: (device: RobotDevice) => Surroundings) {
    this.raw = new Float64Array(facts.readingCount)
    this.looks = new Float64Array(facts.readingCount)
    this.began = new Float64Array(facts.readingCount).fill(-1)
    this.scratch = new Float64Array(facts.readingCount)
    const turns = new Map<string, number>()
    for (const d of robot.devices) if (d.kind.takesTurns) turns.set(d.kind.kind, (turns.get(d.kind.kind) ?? 0) + 1)
    const turn = new Map<string, number>()
    // A controller that asks its devices in turn takes the sum of what each takes.
    const round = robot.looksInTurn ? robot.devices.reduce((sum, d) => sum + d.kind.timing(d.parameters, realism).period, 0) : 0
    let place = 0
    this.sensors = robot.devices.map(d => {
      const noise = RandomStream.named(seed, `noise/${d.name}`)
      this.streams.push(noise)
      const { period, latency } = d.kind.timing(d.parameters, realism)
      const sharing = turns.get(d.kind.kind) ?? 1
      const among = turn.get(d.kind.kind) ?? 0
      turn.set(d.kind.kind, among + 1)
      const known = facts.devices.find(x => x.name === d.name)!
      const due = robot.looksInTurn ? place : among * period
      place += period
      const actuator = facts.actuators.find(a => a.name === d.name)
      return {
        name: d.name,
        model: d.kind.create({ name: d.name, parameters: d.parameters, mount: d.mount, realism, noise, taught: robot.taught, channel: actuator?.channel ?? -1, tick: robot.tick }),
        first: known.first, count: known.readings.length,
        // What has no period of its own is read in every tick.
        period: period === 0 ? robot.tick : robot.looksInTurn ? round : period * sharing, latency,
        due: period === 0 ? 0 : due, underway: [], spare: [], around: aroundOf(d),
      }
    })
  }

  /** A device at work; throws when there is none of that name. */
  modelOf(device: string): DeviceModel {
    const sensor = this.sensors.find(s => s.name === device)
    if (sensor === undefined) throw new Error(`no device ${device}`)
    return sensor.model
  }

  /** The devices that show a beam, in order. */
  beams(): readonly { readonly name: string, readonly beam: Float64Array }[] {
    return this.shown ??= this.sensors.flatMap(s => s.model.beam === null ? [] : [{ name: s.name, beam: s.model.beam }])
  }

  /** Every device's first look, which the first tick waits for. */
  first(): void {
    for (const s of this.sensors) {
      const place = s.due
      this.take(s, 0, -1)
      s.due = place + s.period
      this.deliver(s, Infinity)
    }
    this.wheels(-1)
  }

  /** Looks that are due, and readings that arrive, at a time (s) and its tick. */
  update(time: number, tick: number): void {
    this.between(time, tick)
    for (const s of this.sensors) this.deliver(s, time)
    this.wheels(tick)
  }

  /** Whether a device looks at a time between two ticks. */
  isDue(time: number): boolean {
    for (const s of this.sensors) if (time >= s.due - SLACK) return true
    return false
  }

  /** Looks that are due at a time after a tick's decisions; what they see arrives with a later tick. */
  between(time: number, tick: number): void {
    for (const s of this.sensors) {
      while (time >= s.due - SLACK) {
        this.take(s, time, tick)
        s.due += s.period
      }
    }
  }

  private wheels(tick: number): void {
    if (this.drive === null) return
    this.drive.look(this.raw)
    this.looks[0] = this.looks[0]! + 1
    this.began[0] = tick
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
