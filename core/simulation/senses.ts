import type { DeviceModel, RealismName, Surroundings } from '../devices'
import { WheelDrive } from '../devices'
import { RandomStream, type StreamState } from '../random'
import type { Robot, RobotFacts } from '../robot'

interface Sensor {
  readonly name: string
  readonly model: DeviceModel
  readonly first: number
  readonly count: number
  readonly period: number
  readonly latency: number
  /** Seconds: when it looks next. */
  due: number
  /** Looks on their way to the program: when they arrive, and what they say. */
  readonly underway: { at: number, values: number[] }[]
}

export interface SensesSnapshot {
  readonly raw: readonly number[]
  readonly looks: readonly number[]
  readonly sensors: readonly { readonly due: number, readonly underway: Sensor['underway'], readonly model: unknown }[]
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
  private readonly sensors: Sensor[]
  private readonly streams: RandomStream[] = []
  private readonly scratch = new Float64Array(16)

  constructor(robot: Robot, facts: RobotFacts, realism: RealismName, seed: number, private readonly drive: WheelDrive) {
    this.raw = new Float64Array(facts.readingCount)
    this.looks = new Float64Array(facts.readingCount)
    const turns = new Map<string, number>()
    for (const d of robot.devices) if (d.kind.takesTurns) turns.set(d.kind.kind, (turns.get(d.kind.kind) ?? 0) + 1)
    const turn = new Map<string, number>()
    this.sensors = robot.devices.map(d => {
      const noise = RandomStream.named(seed, `noise/${d.name}`)
      this.streams.push(noise)
      const { period, latency } = d.kind.timing(d.parameters, realism)
      const sharing = turns.get(d.kind.kind) ?? 1
      const place = turn.get(d.kind.kind) ?? 0
      turn.set(d.kind.kind, place + 1)
      const known = facts.devices.find(x => x.name === d.name)!
      return {
        name: d.name,
        model: d.kind.create({ name: d.name, parameters: d.parameters, mount: d.mount, realism, noise }),
        first: known.first, count: known.readings.length,
        period: period * sharing, latency,
        due: place * period, underway: [],
      }
    })
  }

  /** The devices that show a beam, in order. */
  beams(): readonly { readonly name: string, readonly beam: Float64Array }[] {
    return this.sensors.flatMap(s => s.model.beam === null ? [] : [{ name: s.name, beam: s.model.beam }])
  }

  /** Every device's first look, which the first tick waits for. */
  first(around: Surroundings): void {
    for (const s of this.sensors) {
      const place = s.due
      this.take(s, around)
      s.due = place + s.period
      this.deliver(s, Infinity)
    }
    this.wheels()
  }

  /** Looks that are due, and readings that arrive, at a tick. */
  update(around: Surroundings): void {
    for (const s of this.sensors) {
      while (around.time >= s.due - SLACK) {
        this.take(s, around)
        s.due += s.period
      }
      this.deliver(s, around.time)
    }
    this.wheels()
  }

  private wheels(): void {
    this.drive.look(this.raw)
    this.looks[0] = this.looks[0]! + 1
  }

  private take(s: Sensor, around: Surroundings): void {
    s.model.look(around, this.scratch)
    s.underway.push({ at: around.time + s.latency, values: [...this.scratch.subarray(0, s.count)] })
  }

  private deliver(s: Sensor, time: number): void {
    while (s.underway.length > 0 && s.underway[0]!.at <= time + SLACK) {
      const { values } = s.underway.shift()!
      for (let i = 0; i < values.length; i++) this.raw[s.first + i] = values[i]!
      this.looks[s.first] = this.looks[s.first]! + 1
    }
  }

  snapshot(): SensesSnapshot {
    return {
      raw: [...this.raw], looks: [...this.looks],
      sensors: this.sensors.map(s => ({ due: s.due, underway: s.underway.map(u => ({ at: u.at, values: [...u.values] })), model: s.model.snapshot() })),
      streams: this.streams.map(s => s.snapshot()),
    }
  }

  restore(state: SensesSnapshot): void {
    this.raw.set(state.raw)
    this.looks.set(state.looks)
    state.sensors.forEach((saved, i) => {
      const s = this.sensors[i]!
      s.due = saved.due
      s.underway.splice(0, s.underway.length, ...saved.underway.map(u => ({ at: u.at, values: [...u.values] })))
      s.model.restore(saved.model)
    })
    state.streams.forEach((saved, i) => this.streams[i]!.restore(saved))
  }
}
