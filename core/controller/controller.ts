import type { ProgramData } from '../program'
import { channelCount, type RobotFacts } from '../robot'
import type { TapeEvent } from '../tape'
import { carryOver, Vm, type Carried, type LaneView, type VmEvent, type VmSnapshot } from '../vm'
import type { Rig } from './rig'

/** Something that a controller told in a tick. */
export type Told = Omit<TapeEvent, 'tick'>
/** How a program ended a run itself. */
export interface ControllerEnd { readonly ended: 'finished' | 'error', readonly reason: string }

/** A program that runs on a rig, tick by tick. Without a program, commands stay as a hand sets them. */
export class Controller {
  /** SI numbers by channel, as the robot's facts say. */
  readonly commands: Float64Array
  /** What was told in the latest tick, in order. */
  readonly told: Told[] = []
  /** null while it goes on. */
  end: ControllerEnd | null = null
  private readonly vm: Vm | null
  private readonly shown: string[]
  private readonly displays: readonly string[]
  /** The first error of a lane; '' while there was none. */
  private error = ''
  private readonly nothing = new Float64Array(0)

  constructor(readonly program: ProgramData | null, private readonly facts: RobotFacts, private readonly seed: number) {
    this.vm = program === null ? null : new Vm(program, facts, seed)
    this.commands = this.vm?.commands ?? new Float64Array(channelCount(facts))
    if (this.vm === null) for (const a of facts.actuators) this.commands.set(a.initial, a.channel)
    this.displays = facts.devices.flatMap(d => d.kind === 'display' ? [d.name] : [])
    this.shown = [...this.vm?.texts ?? []]
  }

  /** One tick. What it came to: `commands`, `told` and `end`. */
  tick(rig: Rig): void {
    const { vm, told } = this
    if (told.length > 0) told.length = 0
    if (vm === null) return rig.obey(this.commands)
    vm.run(rig.sense())
    rig.obey(this.commands)
    for (let i = 0; i < vm.texts.length; i++) {
      if (vm.texts[i] === this.shown[i]) continue
      this.shown[i] = vm.texts[i]!
      told.push({ type: 'show', text: vm.texts[i]!, about: this.displays[i]! })
    }
    for (const e of vm.events) this.tell(e)
    if (vm.finished !== null) this.end = { ended: 'finished', reason: vm.finished }
    else if (vm.over) this.end = this.error === '' ? { ended: 'finished', reason: 'every lane is done' } : { ended: 'error', reason: this.error }
  }

  private tell(e: VmEvent): void {
    const { told } = this
    switch (e.type) {
      case 'note': told.push({ type: 'note', text: e.text, about: e.lane }); return
      case 'finish': told.push({ type: 'finish', text: e.why, about: e.lane }); return
      case 'signal': told.push({ type: 'signal', text: e.name, about: e.lane }); return
      case 'clipped': told.push({ type: 'clipped', text: 'beyond its range: it goes to the end', about: e.actuator }); return
      case 'blocked': told.push({ type: 'blocked', text: `line ${e.line}`, about: e.actuator }); return
      case 'error': {
        const text = `line ${e.line}: ${e.message}`
        if (this.error === '') this.error = text
        told.push({ type: 'error', text, about: e.lane })
      }
    }
  }

  /** Readings as the program sees them, less what it reset; null without a program. */
  get readings(): Float64Array | null { return this.vm?.readings ?? null }

  /** The tick in which the program last reset each reading, -1 where it never did; null without a program. */
  get resetAt(): Float64Array | null { return this.vm?.resetAt ?? null }

  /** All that the program remembers, by the numbers of its cells. */
  get cells(): Float64Array { return this.vm?.cells ?? this.nothing }

  lane(i: number): LaneView { return this.vm!.lane(i) }

  /** Whether the program itself ended the run. */
  get finished(): boolean { return this.vm !== null && this.vm.finished !== null }

  /** Sets a dial's value, SI, within its range. False when there is none of that name. */
  setDial(name: string, value: number): boolean { return this.vm?.setDial(name, value) ?? false }

  /** From now on what the program draws is drawn anew, as this seed says. */
  drawAnew(seed: number): void { this.vm?.drawAnew(seed) }

  /** What moves the motors in the latest tick: lanes and steps by their numbers. */
  moving(): ReturnType<Vm['moving']> { return this.vm?.moving() ?? [] }

  /** Does a tick and tells which cells were set in it, by which steps. */
  watched(tick: () => void): NonNullable<Vm['sets']> {
    const { vm } = this
    if (vm === null) { tick(); return [] }
    const sets = vm.sets = []
    tick()
    vm.sets = null
    return sets
  }

  /** The dials as they stand, SI. */
  dials(): Readonly<Record<string, number>> {
    return Object.fromEntries((this.program?.dials ?? []).map(d => [d.name, this.cells[d.cell]!]))
  }

  /** Text on each display. */
  get texts(): readonly string[] { return this.vm?.texts ?? [] }

  /** Goes on from where a controller with another program was, on the same robot; says what of it goes on and what begins anew. */
  takeOver(from: ProgramData | null, state: ControllerSnapshot): readonly Carried[] {
    if (this.program === null || from === null || state.vm === null) return []
    const { state: vm, parts } = carryOver(from, state.vm, this.program, this.facts, this.seed)
    this.restore({ ...state, vm })
    return parts
  }

  snapshot(): ControllerSnapshot { return { vm: this.vm?.snapshot() ?? null, error: this.error, end: this.end } }

  restore(state: ControllerSnapshot): void {
    if (state.vm !== null) this.vm?.restore(state.vm)
    this.error = state.error
    this.end = state.end
    this.shown.splice(0, this.shown.length, ...this.texts)
    this.told.length = 0
  }
}

export interface ControllerSnapshot { readonly vm: VmSnapshot | null, readonly error: string, readonly end: ControllerEnd | null }
