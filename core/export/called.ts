import { readingName, type RobotFacts } from '../robot'
import type { ProgramData } from '../program'
import { Names, cellNames, valuesIn } from './names'
import type { Source } from './source'
import type { Words } from './values'
import type { StepWords, WrittenProgram } from './written'

/** What a language keeps for itself. */
export interface Taken {
  /** Words that nothing of a program may be called. */
  readonly keywords: readonly string[]
  /** What a remark begins with. */
  readonly remark: string
  /** Nothing may be called in capitals alone. */
  readonly noCapitals?: boolean
  /** Names of the runtime, besides. */
  readonly runtime: readonly string[]
  /** What every device has already. */
  readonly ofDevices: readonly string[]
}

/** Units whose names no language takes, or every one has for something else. */
const UNIT_NAMES: Readonly<Record<string, string>> = {
  '%': 'percent', 'cm/s': 'cm_s', 'mm/s': 'mm_s', 'm/s': 'm_s', 'in/s': 'in_s', 'deg/s': 'deg_s', 'turn/s': 'turn_s', 'in': 'inch', 'm': 'metre', 's': 'second', 'min': 'minute',
}

/** Steps that move the wheels. */
export const WHEEL_STEPS = ['drive', 'turn', 'turnTo', 'wheels', 'halt', 'coast']

/** Steps whose names are not those of their forms. */
const STEP_NAMES: Readonly<Record<string, string>> = { turnTo: 'turn_to', runBy: 'run_by', moveBy: 'move_by', lightState: 'light', showPicture: 'show_picture', clearLine: 'clear_line' }

/** What everything in a program is called in another language: as it is here, as far as that may be. What is used gathers as it is asked for. */
export class Called {
  readonly names: Names
  /** Dials, memories, named values and parameters, by cell: as fields of `my`. */
  readonly mine: ReadonlyMap<number, string>
  /** Numbers in `t` of the cells that have no name. */
  readonly timers = new Map<number, number>()
  readonly followed = new Map<number, string>()
  readonly devices = new Map<string, string>()
  readonly readings = new Map<string, { readonly device: string, readonly attribute: string, readonly index: number }>()
  readonly screens = new Map<string, string>()
  readonly units = new Map<string, string>()
  readonly colors = new Map<string, string>()
  readonly motions: readonly string[]
  readonly modes: readonly (readonly string[])[]
  namesColors = false
  private readonly remarked = new Set<number>()

  constructor(private readonly program: ProgramData, facts: RobotFacts, readonly source: Source, private readonly taken: Taken) {
    const numbered = [...program.rules.flatMap(r => ['when', 'until', 'does', 'rule', 'anew'].map(w => `${w}_${r.number}`)), ...program.lanes.flatMap((_, i) => [`lane_${i}`, `start_${i}`])]
    const names = this.names = new Names([...taken.keywords, ...taken.runtime, ...numbered, 'every_tick', 'value', 'COLORS'], taken.noCapitals)
    for (const d of facts.devices) {
      const device = names.make(d.name)
      this.devices.set(d.name, device)
      const attributes = new Names(taken.ofDevices, taken.noCapitals)
      d.readings.forEach((r, index) => this.readings.set(readingName(d, r), { device, attribute: r.name.startsWith('_') ? r.name : attributes.make(r.of === null ? r.name : `${r.name} ${r.of}`), index }))
    }
    const own = new Names(taken.keywords, taken.noCapitals)
    this.mine = new Map([...cellNames(program)].map(([cell, name]) => [cell, own.make(name)]))
    for (const what of program.everyTick) if (what.does !== 'let') this.followed.set(what.cell, names.make(`${what.does}_1`))
    this.motions = program.motions.map(m => names.make(`${STEP_NAMES[m.form] ?? m.form}_${program.steps[m.step]!.line}`))
    this.modes = program.lanes.map(lane => lane.modes.map(mode => names.make(`mode_${mode.name}`)))
    // Those that belong together stand one behind another.
    for (const v of this.values()) if (v.is === 'for') [v.cell, ...v.devices].forEach((_, i) => this.timer(v.cell + i))
  }

  values(): ReturnType<typeof valuesIn> {
    const { rules, code, everyTick, motions } = this.program
    return valuesIn([rules, code, everyTick, motions])
  }

  /** Whether anything is drawn: then each lane has random numbers of its own. */
  get draws(): boolean { return [...this.values()].some(v => v.is === 'random') }

  words(signal: (signal: number) => string): Words {
    return {
      source: this.source, colors: this.program.colors, signal,
      cell: cell => this.cell(cell),
      list: cell => `my.${this.mine.get(cell)!}`,
      followed: cell => this.followed.get(cell)!,
      timer: cell => this.timer(cell),
      device: name => this.devices.get(name)!,
      reading: (name) => { const { device, attribute } = this.readings.get(name)!; return `${device}.${attribute}` },
      unit: name => this.kept(this.units, name, UNIT_NAMES[name] ?? name),
      color: name => this.kept(this.colors, name, name),
      colorNames: () => { this.namesColors = true },
      line: step => this.program.steps[step]?.line ?? 0,
    }
  }

  cell(cell: number): string {
    const mine = this.mine.get(cell)
    if (mine !== undefined) return `my.${mine}`
    const followed = this.followed.get(cell)
    return followed === undefined ? `t[${this.timer(cell)}]` : `${followed}.value`
  }

  timer(cell: number): number {
    let k = this.timers.get(cell)
    if (k === undefined) this.timers.set(cell, k = this.timers.size)
    return k
  }

  /** Of some cells, the numbers in `t` of those that have one. */
  timersOf(cells: readonly number[]): readonly number[] { return cells.flatMap(cell => this.timers.get(cell) ?? []) }

  screen(device: string): string { return this.kept(this.screens, device, `${device}_screen`) }

  /** The name of something that is defined once it is used. */
  private kept(all: Map<string, string>, name: string, wish: string): string {
    let own = all.get(name)
    if (own === undefined) all.set(name, own = this.names.make(wish))
    return own
  }

  /** What steps stand on; `mode` names those of the lane that is written. */
  stepWords<V>(words: Words, values: V, mode: (mode: number) => string): StepWords<V> {
    return {
      ...words, values, names: this.names, mode,
      timers: cells => this.timersOf(cells), motion: motion => this.motions[motion]!, place: reading => this.readings.get(reading)!, remarks: line => this.remarks(line),
    }
  }

  /** What was remarked at a line, as remarks of the language; once. */
  remarks(line: number | null): readonly string[] {
    if (line === null || this.remarked.has(line)) return []
    this.remarked.add(line)
    return this.source.remarks(line).map(r => `${this.taken.remark} ${r}`)
  }

  /** All of it, as text. */
  written(program: string): WrittenProgram { return { title: this.program.title, program, devices: this.devices, screens: this.screens } }

  /** Leaves out devices that some code does not name; those that it does, in the robot's order. `least`: so many stay. */
  keepDevices(facts: RobotFacts, code: string, least = 0): RobotFacts['devices'] {
    const named = facts.devices.filter(d => new RegExp(`(?<![\\w."])${this.devices.get(d.name)!}\\b`).test(code))
    const used = named.length < least ? facts.devices.slice(0, least) : named
    for (const d of facts.devices) if (!used.includes(d)) this.devices.delete(d.name)
    return used
  }
}
