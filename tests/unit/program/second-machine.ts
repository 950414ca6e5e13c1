import { DEVICE_KINDS, DEVICE_STEPS, wheelSettingsOf, type PlannedSlot, type StepMachine } from '../../../core/devices'
import { acos, asin, atan2, clamp, cos, sin, wrapAngle } from '../../../core/maths'
import { valueText, type EveryTick, type Guard, type LaneData, type MotionData, type Place, type ProgramData, type RuleData, type Value } from '../../../core/program'
import { RandomStream } from '../../../core/random'
import { channelCount, stepRobotOf, type RobotFacts } from '../../../core/robot'

/**
 * A second machine for intermediate programs, written from docs/program-format.md: it walks the data anew in every tick and
 * shares neither the loader nor the control of lanes with the first. Wheels are moved by the primitives as that page gives
 * them; what other devices do is asked of their files.
 */

interface Lane {
  readonly data: LaneData
  readonly number: number
  phase: 'start' | 'mode start' | 'rules' | 'ended' | 'failed'
  mode: number
  control: RuleData | null
  /** null: not in the middle of steps. */
  pc: number | null
  entered: number
  went: number
  pending: number | null
  step: number
  /** What moves each actuator. */
  moves: Map<string, number>
  readonly draws: RandomStream
}

/** What a lane's code came to: it waits, is through, went to a mode, or is over. */
type Came = 'wait' | 'through' | 'went' | 'over'

class Failure extends Error {
  constructor(message: string, readonly step: number | null) { super(message) }
}

export class SecondMachine implements StepMachine {
  readings: Float64Array
  raw: Float64Array
  looks: Float64Array
  began: Float64Array
  still = true
  readonly commands: Float64Array
  readonly cells: Float64Array
  readonly texts: string[]
  readonly dt: number
  tick = -1
  /** What this tick told, a line each. */
  told: string[] = []
  finished = false

  private readonly lanes: readonly Lane[]
  private readonly zero: Float64Array
  private readonly stalledFor = new Map<string, number>()
  private spoke = new Map<string, number>()
  private heard = new Set<number>()
  private sent = new Set<number>()
  private readonly robot
  private steps = 0
  private lane!: Lane

  constructor(private readonly program: ProgramData, private readonly facts: RobotFacts, seed: number) {
    this.readings = new Float64Array(facts.readingCount)
    this.raw = this.looks = this.began = this.readings
    this.zero = new Float64Array(facts.readingCount)
    this.commands = new Float64Array(channelCount(facts))
    for (const a of facts.actuators) this.commands.set(a.initial, a.channel)
    this.cells = Float64Array.from(program.cells)
    this.texts = facts.devices.filter(d => d.kind === 'display').map(() => '')
    this.dt = facts.tick
    this.robot = stepRobotOf(facts)
    this.lanes = program.lanes.map((data, number): Lane => ({
      data, number, phase: data.start === -1 ? 'mode start' : 'start', mode: -1, control: null, pc: data.start === -1 ? null : data.start,
      entered: 0, went: -1, pending: null, step: -1, moves: new Map(), draws: RandomStream.named(seed, `program/${data.name}`),
    }))
  }

  run(input: { readonly raw: Float64Array, readonly looks: Float64Array, readonly began: Float64Array, readonly still: boolean }): void {
    this.tick++
    this.told = []
    this.raw = input.raw
    this.looks = input.looks
    this.began = input.began
    this.still = input.still
    this.readings = input.raw.map((x, i) => x - this.zero[i]!)
    this.heard = this.sent
    this.sent = new Set()
    this.spoke = new Map()
    for (const { name, channel, stays } of this.facts.actuators) {
      stays.forEach((stay, i) => { if (!stay) this.commands[channel + i] = 0 })
      const device = this.facts.devices.find(d => d.name === name)
      const at = device?.readings.findIndex(r => r.name === 'stalled') ?? -1
      if (device !== undefined && at !== -1) this.stalledFor.set(name, this.raw[device.first + at]! > 0 ? (this.stalledFor.get(name) ?? 0) + 1 : 0)
    }
    try {
      for (const what of this.program.everyTick) this.follow(what)
    } catch (error) {
      for (const lane of this.lanes) {
        this.lane = lane
        if (!this.lanesOver(lane)) this.guarded(() => { throw error })
      }
    }
    for (const lane of this.lanes) {
      this.lane = lane
      this.steps = 0
      this.guarded(() => this.play(lane))
      const moved = [...lane.moves.keys()]
      if (!this.guarded(() => this.move(lane))) for (const name of moved) this.rest(name)
    }
  }

  private lanesOver(lane: Lane): boolean { return lane.phase === 'ended' || lane.phase === 'failed' }

  get over(): boolean { return this.lanes.every(l => this.lanesOver(l)) }

  /** Named values, and what is followed over time. */
  private follow(what: EveryTick): void {
    const { cells } = this
    const { cell } = what
    switch (what.does) {
      case 'let': cells[cell] = this.number(what.value); return
      case 'since': if (this.truth(what.test)) cells[cell] = this.tick; return
      case 'total': cells[cell]! += this.number(what.of) * this.dt; return
      case 'rate': {
        const looks = what.devices.map(name => this.looks[this.facts.devices.find(d => d.name === name)!.first]!)
        const anew = looks.length === 0 || looks.some((n, i) => n !== cells[cell + 3 + i])
        cells.set(looks, cell + 3)
        if (!anew) return
        const now = this.number(what.of)
        const then = cells[cell + 2]!
        if (then !== -1) cells[cell] = (now - cells[cell + 1]!) / ((this.tick - then) * this.dt)
        cells.set([now, this.tick], cell + 1)
        return
      }
      default: {
        const ring = cells.subarray(cell + 2, cell + 2 + what.most)
        ring[cells[cell + 1]! % what.most] = this.number(what.of)
        const count = ++cells[cell + 1]!
        const latest = Array.from({ length: Math.min(count, what.most, Math.max(1, this.ticks(this.number(what.time)))) }, (_, i) => ring[(count - 1 - i) % what.most]!).reverse()
        cells[cell] = what.does === 'mean' ? latest.reduce((sum, x) => sum + x, 0) / latest.length : what.does === 'lowest' ? Math.min(...latest) : Math.max(...latest)
      }
    }
  }

  /** Which rule each lane is in, and at which step: what a tape keeps. */
  get where(): string { return this.lanes.map(l => `${l.phase} ${l.mode} ${l.mode === -1 ? -1 : l.control?.number ?? -1}`).join('; ') }

  /** A failure ends the lane; false then. */
  private guarded(act: () => void): boolean {
    try {
      act()
      return true
    } catch (error) {
      if (!(error instanceof Failure)) throw error
      const { lane } = this
      const step = error.step ?? lane.step
      lane.moves.clear()
      lane.phase = 'failed'
      lane.pc = null
      this.told.push(`error ${lane.data.name} ${this.program.steps[step]?.line ?? 0}: ${error.message}`)
      return false
    }
  }

  // A lane's tick.

  private play(lane: Lane): void {
    if (lane.phase === 'ended' || lane.phase === 'failed') return
    if (lane.phase === 'start') {
      const came = this.execute(lane)
      if (came === 'wait' || came === 'over') return
      if (came === 'through') {
        if (lane.data.sequence) {
          lane.moves.clear()
          lane.phase = 'ended'
          return
        }
        this.enter(lane, 0)
      }
    } else if (lane.mode === -1) this.enter(lane, 0)
    if (lane.pending !== null) {
      const mode = lane.pending
      lane.pending = null
      lane.went = this.tick
      this.enter(lane, mode)
    }
    const wanting = new Map<RuleData, boolean>()
    const ask = (rules: readonly number[]): void => { for (const n of rules) wanting.set(this.program.rules[n]!, this.wants(this.program.rules[n]!)) }
    ask(lane.data.above)
    for (;;) {
      const { modes, above } = lane.data
      const own = modes[lane.mode]!.rules
      if (lane.phase === 'mode start') {
        const came = this.execute(lane)
        if (came === 'over') return
        if (came === 'went') {
          if (lane.pending !== null) return
          continue
        }
        if (came === 'through') {
          lane.moves.clear()
          lane.phase = 'rules'
        }
        ask(own)
        if (came === 'wait') return
      } else ask(own)
      const went = this.decide(lane, [...above, ...own].map(n => this.program.rules[n]!), wanting)
      if (!went) return
    }
  }

  /** True where another mode was entered. */
  private decide(lane: Lane, rules: readonly RuleData[], wanting: Map<RuleData, boolean>): boolean {
    const inSteps = lane.control !== null && !lane.control.live && lane.pc !== null
    const beside = (r: RuleData): boolean => r.live && r.once
    const place = (r: RuleData | null): number => r === null ? Infinity : rules.indexOf(r)
    let top: RuleData | null = null
    for (const rule of rules) {
      if (top !== null || wanting.get(rule) !== true) continue
      if (!beside(rule)) { top = rule; continue }
      if (inSteps && place(rule) > place(lane.control)) break
      wanting.set(rule, false)
      const came = this.beside(lane, rule)
      if (came === 'went') return lane.pending === null
      if (came === 'over') return false
    }
    if (place(top) < place(lane.control) || (!inSteps && lane.control !== top)) this.take(lane, top)
    const begun = new Set<RuleData>()
    while (lane.control !== null) {
      const rule = lane.control
      if (rule.live) {
        lane.moves.clear()
        lane.pc = rule.body
        const came = this.execute(lane)
        if (came === 'went') return lane.pending === null
        lane.pc = null
        return false
      }
      if (lane.pc === null) {
        if (begun.has(rule)) return false
        begun.add(rule)
        lane.moves.clear()
        lane.pc = rule.body
      }
      const came = this.execute(lane)
      if (came === 'wait' || came === 'over') return false
      if (rule.once) {
        this.cells[rule.doneCell] = 1
        wanting.set(rule, false)
      }
      if (came === 'went') return lane.pending === null
      const next = rules.find(r => wanting.get(r) === true && !beside(r)) ?? null
      if (next !== rule) this.take(lane, next !== null && begun.has(next) ? null : next)
    }
    return false
  }

  /** A `once` rule of instant steps acts beside what has control. */
  private beside(lane: Lane, rule: RuleData): Came {
    const { pc, step, moves } = lane
    lane.moves = new Map(moves)
    lane.pc = rule.body
    const came = this.execute(lane)
    this.cells[rule.doneCell] = 1
    if (came !== 'went') Object.assign(lane, { pc, step, moves })
    return came
  }

  private wants(rule: RuleData): boolean {
    let wanting = rule.when === null || this.truth(rule.when)
    if (rule.until !== null) {
      const ended = this.truth(rule.until)
      wanting = !ended && (wanting || this.cells[rule.latch]! > 0)
      this.cells[rule.latch] = wanting ? 1 : -1
    }
    if (rule.once && !(rule.moments && rule.until === null)) {
      if (!wanting) this.cells[rule.doneCell] = -1
      else if (this.cells[rule.doneCell]! > 0) wanting = false
    }
    this.cells[rule.wantCell] = wanting ? 1 : 0
    return wanting
  }

  private take(lane: Lane, rule: RuleData | null): void {
    lane.moves.clear()
    lane.control = rule
    lane.pc = null
  }

  private enter(lane: Lane, mode: number): void {
    this.take(lane, null)
    lane.mode = mode
    lane.entered = this.tick
    const { rules, start, totals } = lane.data.modes[mode]!
    for (const cell of totals) this.cells[cell] = 0
    for (const n of rules) for (const cell of this.program.rules[n]!.cells) this.cells[cell] = -1
    lane.pc = start === -1 ? null : start
    lane.phase = start === -1 ? 'rules' : 'mode start'
  }

  // Code.

  private execute(lane: Lane): Came {
    for (;;) {
      const next = this.instruction(lane, lane.pc!)
      if (typeof next !== 'number') {
        if (next !== 'wait' && (next !== 'went' || lane.pending !== null)) lane.pc = null
        if (next === 'went' && lane.pending !== null) lane.phase = 'rules'
        if (next === 'over') {
          lane.phase = 'ended'
          lane.moves.clear()
        }
        return next
      }
      lane.pc = next
    }
  }

  private instruction(lane: Lane, at: number): number | Came {
    const op = this.program.code[at]!
    const next = at + 1
    if ('step' in op && op.op !== 'again') lane.step = op.step
    const anew = (): boolean => !('edge' in op) || op.edge === null || this.anew(op.edge)
    const over = (cell: number): boolean => this.tick >= this.cells[cell]!
    const later = (value: Value): number => this.tick + this.ticks(this.number(value))
    switch (op.op) {
      case 'end': return 'through'
      case 'jump': return op.to
      case 'test': return this.truth(op.test) ? next : op.no
      case 'count': this.cells[op.cell] = Math.round(this.number(op.times)); return next
      case 'round': return this.cells[op.cell]! < 1 ? op.end : (this.cells[op.cell]!--, next)
      case 'each': {
        const k = this.cells[op.cell]!++
        if (k >= op.values.length) { this.cells[op.cell] = k; return op.end }
        this.cells[op.into] = this.number(op.values[k]!)
        return next
      }
      case 'put': if (anew()) { const x = this.number(op.value); this.cells[this.place(op.place)] = x } return next
      case 'again':
        this.steps += at + 1 - op.to
        if (this.steps > 10_000) throw new Failure('no time passes in this loop: it ran more than 10,000 steps within one tick. Put a wait, or a step that takes time, inside', op.step)
        return op.to
      case 'set': if (anew()) this.cells[op.cell] = this.number(op.value); return next
      case 'reset': if (anew()) { const i = this.reading(op.reading); this.zero[i] = this.raw[i]!; this.seem(i, 0) } return next
      case 'send': if (anew()) { this.sent.add(op.signal); this.told.push(`signal ${lane.data.name} ${this.program.signals[op.signal]!}`) } return next
      case 'note': if (anew()) this.told.push(`note ${lane.data.name} ${this.text(op.text)}`); return next
      case 'finish': this.finished = true; this.told.push(`finish ${lane.data.name} ${this.text(op.why)}`); return 'over'
      case 'go':
        if (lane.went === this.tick) lane.pending = op.mode
        else {
          lane.went = this.tick
          this.enter(lane, op.mode)
        }
        return 'went'
      case 'deadline': this.cells[op.cell] = later(op.time); return next
      case 'wait': return over(op.cell) ? next : this.late(op.guards)
      case 'await':
        for (const t of op.timers) this.cells[t] = -1
        if (op.limit !== null) this.cells[op.cell] = later(op.limit)
        return next
      case 'wait until': return this.truth(op.test) ? next : op.limited && over(op.cell) ? op.late ?? next : this.late(op.guards)
      case 'call':
        for (const d of op.given) this.cells[d.cell] = this.number(d.value)
        if (op.limit !== null) this.cells[op.cell] = later(op.limit)
        return next
      case 'setting': if (this.begin(op) && this.mayMove(op.motion)) this.motion(op.motion).apply(); return next
      case 'hold':
        if (anew() && !this.begin(op) && op.edge === null) return next
        this.start(op.motion)
        return next
      case 'begin': {
        for (const t of op.timers) this.cells[t] = -1
        if (op.until !== null && this.truth(op.until)) return next + 1
        if (op.lasting !== null) {
          const length = this.ticks(this.number(op.lasting))
          if (length <= 0) return next + 1
          this.cells[op.ends] = this.tick + length
        }
        if (op.limit !== null) this.cells[op.deadline] = later(op.limit)
        if (!this.begin(op)) return next + 1
        this.start(op.motion)
        return next
      }
      case 'move': {
        const done = this.blocked(op.motion) || (op.lasts && over(op.ends)) || (op.until !== null && this.truth(op.until))
          || (op.timed && this.motion(op.motion).done())
        if (!done && !(op.limited && over(op.deadline))) return this.late(op.guards)
        for (const name of this.program.motions[op.motion]!.actuators) lane.moves.delete(name)
        return done ? next : op.late ?? next
      }
    }
  }

  private late(guards: readonly Guard[]): number | 'wait' {
    const late = guards.find(g => this.tick >= this.cells[g.cell]!)
    if (late === undefined) return 'wait'
    for (const [name, motion] of this.lane.moves) if (motion >= late.first && motion < late.end) this.lane.moves.delete(name)
    return late.exit
  }

  /** Whether a live rule's step may act: it was not reached the tick before, or acted already in this one. */
  private anew(cell: number): boolean {
    const reached = Math.floor(this.cells[cell]!)
    const acts = reached === this.tick ? this.cells[cell] !== reached : reached !== this.tick - 1
    this.cells[cell] = this.tick + (acts ? 0.5 : 0)
    return acts
  }

  private ticks(seconds: number): number { return Math.ceil(seconds / this.dt - 1e-9) }

  // Motions.

  private begin(op: { readonly motion: number, readonly draws: readonly { readonly cell: number, readonly value: Value }[] }): boolean {
    for (const d of op.draws) this.cells[d.cell] = this.number(d.value)
    return this.motion(op.motion).begin()
  }

  private start(motion: number): void {
    for (const name of this.program.motions[motion]!.actuators) {
      this.lane.moves.set(name, motion)
      if (this.stalledFor.has(name)) this.stalledFor.set(name, 0)
    }
  }

  private move(lane: Lane): void {
    // In the order of the robot's actuators, each motion once.
    for (const { name } of this.facts.actuators) {
      const motion = lane.moves.get(name)
      if (motion === undefined || this.program.motions[motion]!.actuators[0] !== name || !this.mayMove(motion)) continue
      try {
        this.motion(motion).apply()
      } catch (error) {
        throw error instanceof Failure ? new Failure(error.message, this.program.motions[motion]!.step) : error
      }
    }
  }

  private rest(name: string): void {
    const { channel, stays } = this.facts.actuators.find(a => a.name === name)!
    stays.forEach((stay, i) => { if (!stay) this.commands[channel + i] = 0 })
  }

  /** Of lanes that speak to a shared actuator in a tick the higher one is heard. */
  private mayMove(motion: number): boolean {
    const { actuators } = this.program.motions[motion]!
    if (!actuators.some(name => this.facts.actuators.find(a => a.name === name)!.shared)) return true
    if (actuators.some(name => this.spoke.has(name) && this.spoke.get(name) !== this.lane.number)) return false
    for (const name of actuators) this.spoke.set(name, this.lane.number)
    return true
  }

  private blocked(motion: number): boolean {
    const { actuators, step } = this.program.motions[motion]!
    const name = actuators.find(a => (this.stalledFor.get(a) ?? 0) * this.dt >= 1)
    if (name === undefined) return false
    this.stalledFor.set(name, 0)
    this.told.push(`blocked ${this.lane.data.name} ${name} ${this.program.steps[step]!.line}`)
    return true
  }

  seem(reading: number, value: number): void { this.readings[reading] = value }
  clip(actuator: string): void { this.told.push(`clipped ${this.lane.data.name} ${actuator}`) }

  private motion(number: number): { begin(): boolean, apply(): void, done(): boolean } {
    const data = this.program.motions[number]!
    const wheels = this.wheels(data)
    if (wheels !== null) return wheels
    const slots = new Map(data.slots.map((s): [string, PlannedSlot] => [s.name, {
      kind: s.kind, word: s.word,
      value: s.value === null ? null : () => this.number(s.value!),
      text: s.text === null ? null : () => this.text(s.text!),
    }]))
    const plan = DEVICE_STEPS.find(s => s.form.id === data.form)!.plan(slots, this.robot)
    return { begin: () => plan.begin?.(this, data.at) ?? true, apply: () => plan.apply(this, data.at), done: () => plan.done(this, data.at) }
  }

  /** The primitives of the wheels; null for another device's motion. */
  private wheels({ form, slots, at }: MotionData): { begin(): boolean, apply(): void, done(): boolean } | null {
    if (!['drive', 'turn', 'turnTo', 'halt', 'coast'].includes(form)) return null
    const { robot, cells, raw } = this
    const { track, acceleration, cruise, turning } = wheelSettingsOf(robot)
    const channel = robot.channel('wheels')
    const slot = (name: string) => slots.find(s => s.name === name)
    const value = (name: string, otherwise: number): number => { const v = slot(name)?.value ?? null; return v === null ? otherwise : this.number(v) }
    const sense = (name: string): number => raw[robot.readingIndex('wheels', name)]!
    const gyro = robot.hasDevice('gyro')
    const turned = gyro === null ? sense('_turned') : raw[robot.readingIndex(gyro, 'turned')]!
    const tell = (mode: number, left: number, right: number): void => this.commands.set(mode === 2 ? [mode, left, right] : [mode], channel)
    if (form === 'halt' || form === 'coast') return { begin: () => true, apply: () => tell(form === 'halt' ? 0 : 1, 0, 0), done: () => false }
    const steer = (speed: number, right: number): void => tell(2, speed + right * track / 2, speed - right * track / 2)
    const closing = (left: number, fastest: number, braking: number, slowest: number): number => {
      const speed = Math.min(Math.abs(fastest), Math.max(slowest, Math.min(Math.sqrt(2 * braking * Math.abs(left)), 7 * Math.abs(left))))
      return left < 0 ? -speed : speed
    }
    const lasting = slot('amount')?.kind?.time !== 0
    if (form === 'drive') {
      const sign = slot('back') === undefined ? 1 : -1
      const held = slot('held') !== undefined
      const bend = (): number => {
        const side = slot('side')?.word === 'left' ? -1 : 1
        return (slot('bend')?.value == null ? 0 : side * value('bend', 0)) + (held ? clamp((cells[at]! - turned) * 4, -2, 2) : 0)
      }
      const hold = (): void => { if (held) cells[at] = slot('heading')?.value == null ? turned : turned + wrapAngle(value('heading', 0) - wrapAngle(turned)) }
      if (lasting) return { begin: () => { hold(); return true }, apply: () => steer(sign * value('amount', 0), bend()), done: () => false }
      return {
        begin: () => {
          const distance = sign * value('amount', 0)
          hold()
          cells[at + 1] = sense('travel') + distance
          cells[at + 2] = 0
          return distance !== 0
        },
        apply: () => {
          const left = cells[at + 1]! - sense('travel')
          const fastest = value('speed', cruise)
          if (Math.abs(left) <= 0.0015) cells[at + 2] = 1
          if (cells[at + 2] === 1) steer(0, 0)
          else steer(closing(left, fastest, acceleration, 0.02), bend())
        },
        done: () => cells[at + 2] === 1 && Math.abs(sense('speed')) < 0.01,
      }
    }
    const sign = slot('side')?.word === 'left' ? -1 : 1
    if (form === 'turn' && lasting) return { begin: () => true, apply: () => steer(0, sign * value('amount', 0)), done: () => false }
    return {
      begin: () => {
        const angle = form === 'turn' ? sign * value('amount', 0) : wrapAngle(value('heading', 0) - wrapAngle(turned))
        cells[at] = turned + angle
        cells[at + 1] = 0
        return angle !== 0
      },
      apply: () => {
        const left = cells[at]! - turned
        if (Math.abs(left) <= 0.6 * Math.PI / 180) cells[at + 1] = 1
        if (cells[at + 1] === 1) steer(0, 0)
        else steer(0, closing(left, value('speed', turning), 2 * acceleration / track, 0.04 / track))
      },
      done: () => cells[at + 1] === 1 && Math.abs(sense('_rate')) * track < 0.02,
    }
  }

  // Values.

  private reading(name: string): number {
    for (const d of this.facts.devices) {
      const i = d.readings.findIndex(r => `${d.name}.${r.name}${r.of === null ? '' : `(${r.of.startsWith('tag ') ? `tag(${r.of.slice(4)})` : r.of})`}` === name)
      if (i !== -1) return d.first + i
    }
    throw new Error(`no reading ${name}`)
  }

  private place({ name, cell, count, first, at, step }: Place): number {
    const k = Math.round(this.number(at))
    if (!(k >= first && k < first + count)) throw new Failure(`${name} holds values ${first} to ${first + count - 1}, and ${k} was asked for`, step)
    return cell + k - first
  }

  private number(v: Value): number {
    switch (v.is) {
      case 'number': return v.value
      case 'cell': return this.cells[v.cell]!
      case 'reading': { const x = this.readings[this.reading(v.name)]!; return x === Infinity && v.most !== null ? v.most : x }
      case 'asked': {
        const wanted = this.number(v.of)
        const name = v.among.find(a => a.value === wanted)?.name
        const x = name === undefined ? v.none === 'zero' ? 0 : Infinity : this.readings[this.reading(name)]!
        return x === Infinity && v.most !== null ? v.most : x
      }
      case 'one of many': return this.cells[this.place(v.place)]!
      case 'how many': return [...this.cells.subarray(v.cell, v.cell + v.count)].filter(x => x !== 0).length
      case 'since': { const at = this.cells[v.cell]!; return at >= 0 ? (this.tick - at) * this.dt : v.run ? this.tick * this.dt : Infinity }
      case 'computed': {
        const device = this.facts.devices.find(d => d.name === v.device)!
        return DEVICE_KINDS.find(k => k.kind === device.kind)!.computed![v.reading]!(this.readings, device.first, v.given.map(g => this.number(g)))
      }
      case 'run.time': return this.tick * this.dt
      case 'mode.time': return (this.tick - this.lane.entered) * this.dt
      case 'robot.still': return this.still ? 1 : 0
      case 'minus': return -this.number(v.of)
      case '+': return this.number(v.left) + this.number(v.right)
      case '-': return this.number(v.left) - this.number(v.right)
      case '*': return this.number(v.left) * this.number(v.right)
      case '/': {
        const under = this.number(v.right)
        if (under === 0) throw new Failure('division by zero', v.step)
        return this.number(v.left) / under
      }
      case 'random': return this.lane.draws.between(this.number(v.low), this.number(v.high))
      case 'sqrt': {
        const of = this.number(v.of)
        if (of < 0) throw new Failure('the square root of a negative number', v.step)
        return Math.sqrt(of)
      }
      case 'round': return Math.round(this.number(v.of) / v.scale) * v.scale
      case 'abs': return Math.abs(this.number(v.given[0]!))
      case 'sign': return Math.sign(this.number(v.given[0]!))
      case 'sin': return sin(this.number(v.given[0]!))
      case 'cos': return cos(this.number(v.given[0]!))
      case 'asin': return asin(this.number(v.given[0]!))
      case 'acos': return acos(this.number(v.given[0]!))
      case 'atan': return atan2(this.number(v.given[0]!), 1)
      case 'min': return Math.min(...v.given.map(g => this.number(g)))
      case 'max': return Math.max(...v.given.map(g => this.number(g)))
      case 'atan2': { const [y, x] = v.given.map(g => this.number(g)); return atan2(y!, x!) }
      case 'clamp': { const [x, low, high] = v.given.map(g => this.number(g)); return clamp(x!, low!, high!) }
      case 'one': return this.truth(v.of) ? 1 : 0
      default: return this.truth(v) ? 1 : 0
    }
  }

  private truth(v: Value): boolean {
    switch (v.is) {
      case 'truth': return v.value
      case '<': return this.number(v.left) < this.number(v.right)
      case '>': return this.number(v.left) > this.number(v.right)
      case '<=': return this.number(v.left) <= this.number(v.right)
      case '>=': return this.number(v.left) >= this.number(v.right)
      case 'between': { const x = this.number(v.value); return x >= this.number(v.low) && x <= this.number(v.high) }
      case 'one of': { const x = this.number(v.value); return v.options.some(o => this.number(o) === x) !== v.negated }
      case 'and': return v.parts.map(p => this.truth(p)).every(Boolean)
      case 'or': return v.parts.map(p => this.truth(p)).some(Boolean)
      case 'not': return !this.truth(v.of)
      case 'heard': return this.heard.has(v.signal)
      case 'every': {
        const period = Math.max(1, this.ticks(this.number(v.time)))
        if (this.cells[v.cell]! < 0) { this.cells[v.cell] = this.tick + period; return false }
        if (this.tick < this.cells[v.cell]!) return false
        this.cells[v.cell] = this.cells[v.cell]! + period
        return true
      }
      case 'for': {
        const looksOf = (name: string): number => this.looks[this.facts.devices.find(d => d.name === name)!.first]!
        if (!this.truth(v.test)) { this.cells[v.cell] = -1; return false }
        if (this.cells[v.cell]! < 0) {
          this.cells[v.cell] = this.tick
          v.devices.forEach((name, i) => { this.cells[v.cell + 1 + i] = looksOf(name) })
        }
        return this.tick - this.cells[v.cell]! >= this.ticks(this.number(v.time)) && v.devices.every((name, i) => looksOf(name) > this.cells[v.cell + 1 + i]!)
      }
      default: return this.number(v.is === 'nonzero' ? v.of : v) !== 0
    }
  }

  private text(v: Value): string {
    switch (v.is) {
      case 'text': return v.text
      case 'joined': return v.parts.map(p => this.text(p)).join('')
      case 'shown': return valueText(this.number(v.of), v.as, this.program.colors)
      default: return ''
    }
  }
}
