import { driveOf, readingName, stepRobotOf, type DeviceFacts, type RobotFacts } from '../../robot'
import type { EveryTick, LaneData, ModeData, ProgramData, RuleData } from '../../program'
import { findUnit } from '../../units'
import { Names, cellNames, valuesIn } from '../names'
import { Source } from '../source'
import { motionOf } from './motions'
import { driverLibrary, meaningLibrary } from './runtime'
import { Steps, indented } from './steps'
import { Values, float, quoted, tuple, type Words } from './values'

/** Words of Python that nothing else may be called. */
const KEYWORDS = 'False None True and as assert async await break class continue def del elif else except finally for from global if import in is lambda nonlocal not or pass raise return try while with yield abs all any callable dict enumerate float int len list max min print range set setattr str super math'.split(' ')

/** Units as Python names them, and what they are in SI, so that a figure times its unit is the same to the bit. */
const UNIT_NAMES: Readonly<Record<string, string>> = { '%': 'percent', 'cm/s': 'cm_s', 'mm/s': 'mm_s', 'm/s': 'm_s', 'in/s': 'in_s', 'deg/s': 'deg_s', 'turn/s': 'turn_s', 'in': 'inch', 'm': 'metre', 's': 'second' }
const UNIT_SIZES: Readonly<Record<string, string>> = { 'deg': 'math.pi / 180', 'deg/s': 'math.pi / 180', 'turn': '2 * math.pi', 'turn/s': '2 * math.pi', 'rpm': '2 * math.pi / 60' }

/** Steps whose names are not those of their forms. */
const STEP_NAMES: Readonly<Record<string, string>> = { turnTo: 'turn_to', runBy: 'run_by', moveBy: 'move_by', lightState: 'light', showPicture: 'show_picture', clearLine: 'clear_line' }
const WHEEL_STEPS = ['drive', 'turn', 'turnTo', 'wheels', 'halt', 'coast']

export interface PythonProgram {
  readonly title: string | null
  /** The program: a function a rule, in its own names. */
  readonly program: string
  /** What the program calls each device that it has to do with. */
  readonly devices: ReadonlyMap<string, string>
}

/** A program in MicroPython. `text` is what it was made from; `seed` what it draws by. Throws RangeError where a step cannot be carried. */
export function toMicroPython(program: ProgramData, facts: RobotFacts, text: string, seed: number): PythonProgram {
  const writer = new Writer(program, facts, text, seed)
  return { title: program.title, program: writer.write(), devices: writer.devices }
}

/** The runtime that some code stands on. */
export function runtimeFor(facts: RobotFacts, code: string): string {
  return `# What ${facts.robot} is run by: the meaning of its program's words, as far as it has them.\nimport math\n\n\n${meaningLibrary().for(`${code} run_tick is_over`)}\n`
}

class Writer {
  private readonly names: Names
  private readonly mine: ReadonlyMap<number, string>
  private readonly timers = new Map<number, number>()
  private readonly followed = new Map<number, string>()
  readonly devices = new Map<string, string>()
  private readonly readings = new Map<string, { readonly device: string, readonly attribute: string }>()
  private readonly screens = new Map<string, string>()
  private readonly units = new Map<string, string>()
  private readonly colors = new Map<string, string>()
  private readonly motions: readonly string[]
  private readonly modes: readonly (readonly string[])[]
  private readonly remarked = new Set<number>()
  private readonly source: Source
  private readonly values: Values
  private readonly steps: Steps
  /** The lane that is being written. */
  private lane = 0
  private namesColors = false
  /** Whether anything is drawn: then each lane has random numbers of its own. */
  private readonly draws: boolean

  constructor(private readonly program: ProgramData, private readonly facts: RobotFacts, text: string, private readonly seed: number) {
    const numbered = [...program.rules.flatMap(r => ['when', 'until', 'does', 'rule'].map(w => `${w}_${r.number}`)), ...program.lanes.flatMap((_, i) => [`lane_${i}`, `start_${i}`])]
    const names = this.names = new Names([...KEYWORDS, ...meaningLibrary().names, ...driverLibrary().names, ...numbered, 'every_tick', 'value', 'COLORS'])
    this.source = new Source(text)
    for (const d of facts.devices) {
      const device = names.make(d.name)
      this.devices.set(d.name, device)
      const attributes = new Names(['name', 'told', 'shared', 'stalled_ticks', 'take', 'raw', 'rest'])
      for (const r of d.readings) this.readings.set(readingName(d, r), { device, attribute: r.name.startsWith('_') ? r.name : attributes.make(r.of === null ? r.name : `${r.name} ${r.of}`) })
    }
    const own = new Names(KEYWORDS)
    this.mine = new Map([...cellNames(program)].map(([cell, name]) => [cell, own.make(name)]))
    for (const what of program.everyTick) if (what.does !== 'let') this.followed.set(what.cell, names.make(`${what.does}_1`))
    this.motions = program.motions.map(m => names.make(`${STEP_NAMES[m.form] ?? m.form}_${program.steps[m.step]!.line}`))
    this.modes = program.lanes.map(lane => lane.modes.map(mode => names.make(`mode_${mode.name}`)))
    const words: Words = {
      source: this.source, colors: program.colors,
      cell: cell => this.cell(cell),
      list: cell => `my.${this.mine.get(cell)!}`,
      followed: cell => this.followed.get(cell)!,
      timer: cell => this.timer(cell),
      device: name => this.devices.get(name)!,
      reading: (name) => { const { device, attribute } = this.readings.get(name)!; return `${device}.${attribute}` },
      unit: name => this.kept(this.units, name, UNIT_NAMES[name] ?? name),
      color: name => this.kept(this.colors, name, name),
      colorNames: () => { this.namesColors = true; return 'COLORS' },
      line: step => program.steps[step]?.line ?? 0,
      signal: signal => quoted(program.signals[signal]!),
    }
    this.values = new Values(words)
    this.steps = new Steps(program, {
      ...words, values: this.values, names,
      timers: cells => cells.flatMap(cell => this.timers.get(cell) ?? []),
      motion: motion => this.motions[motion]!,
      mode: mode => this.modes[this.lane]![mode]!,
      place: reading => this.readings.get(reading)!,
      remarks: line => this.remarks(line),
    })
    this.draws = [...this.allValues()].some(v => v.is === 'random')
    // Those that belong together stand one behind another.
    for (const v of this.allValues()) if (v.is === 'for') [v.cell, ...v.devices].forEach((_, i) => this.timer(v.cell + i))
  }

  private allValues(): ReturnType<typeof valuesIn> {
    const { rules, code, everyTick, motions } = this.program
    return valuesIn([rules, code, everyTick, motions])
  }

  private cell(cell: number): string {
    const mine = this.mine.get(cell)
    if (mine !== undefined) return `my.${mine}`
    const followed = this.followed.get(cell)
    return followed === undefined ? `t[${this.timer(cell)}]` : `${followed}.value`
  }

  private timer(cell: number): number {
    let k = this.timers.get(cell)
    if (k === undefined) this.timers.set(cell, k = this.timers.size)
    return k
  }

  /** The name of something that is defined once it is used. */
  private kept(all: Map<string, string>, name: string, wish: string): string {
    let own = all.get(name)
    if (own === undefined) all.set(name, own = this.names.make(wish))
    return own
  }

  /** What was remarked at a line, as lines of Python; once. */
  private remarks(line: number | null): readonly string[] {
    if (line === null || this.remarked.has(line)) return []
    this.remarked.add(line)
    return this.source.remarks(line).map(r => `# ${r}`)
  }

  write(): string {
    const { program, facts } = this
    // Written first: what they use is defined above them.
    const motions = program.motions.map((_, i) => this.motion(i))
    const lanes = program.lanes.flatMap((lane, i) => this.laneLines(lane, i))
    const everyTick = this.everyTick()
    const screens = [...this.screens].map(([name, screen]) => {
      const p = facts.devices.find(d => d.name === name)!.parameters as { readonly columns: number, readonly lines: number }
      return `${screen} = Screen(${this.devices.get(name)!}, ${p.columns}, ${p.lines})`
    })
    const memories = this.memories()
    const units = [...this.units].map(([name, own]) => `${own} = ${UNIT_SIZES[name] ?? float(findUnit(name)!.scale)}`)
    const colors = [...this.colors].map(([name, own]) => `${own} = ${float(program.colors.indexOf(name))}`)
    // What stands nowhere in it need not be there.
    const rest = [motions, lanes, everyTick, screens, this.wheels()].flat().join('\n')
    const used = facts.devices.filter(d => new RegExp(`(?<![\\w."])${this.devices.get(d.name)!}\\b`).test(rest.replace(/# .*$/gm, '')))
    for (const d of facts.devices) if (!used.includes(d)) this.devices.delete(d.name)
    const sections: readonly (readonly string[])[] = [
      [
        `# ${program.title ?? 'A program'}, for ${facts.robot}. Made by Mindpath: change it there, or go on from here by hand.`,
        '# Metres, seconds and radians throughout; a share of 100 % is 1.',
        'import math', 'from mindpath import *', '', `now.seconds = ${float(facts.tick)}  # a tick`,
      ],
      [...units, ...colors, ...this.namesColors ? [`COLORS = ${tuple(program.colors.map(quoted))}`] : []],
      [`# What it has of ${facts.robot}: what each reads, and what it is told at first, and whether it keeps that.`, ...used.map(d => this.device(d)), `now.devices = ${tuple([...this.devices.values()])}`, ...screens],
      this.wheels(),
      memories,
      motions.length === 0 ? [] : ['# What its steps do: the line where each stands, and how much.', ...motions],
    ]
    return `${sections.filter(s => s.length > 0).map(s => s.join('\n')).join('\n\n')}\n${[...everyTick, ...lanes].join('\n')}\n\nnow.lanes = ${tuple(program.lanes.map((_, i) => `lane_${i}`))}\n`
  }

  private device(d: DeviceFacts): string {
    const readings = d.readings.map(r => quoted(this.readings.get(readingName(d, r))!.attribute))
    const acts = this.facts.actuators.find(a => a.name === d.name)
    const told = acts === undefined ? '' : `, ${tuple(acts.initial.map(float))}, ${tuple(acts.stays.map(s => s ? 'True' : 'False'))}${acts.shared ? ', shared=True' : ''}`
    return `${this.devices.get(d.name)!} = Device(${quoted(d.name)}, [${readings.join(', ')}]${told})`
  }

  private wheels(): readonly string[] {
    const d = driveOf(this.facts)
    if (d === null || !this.program.motions.some(m => WHEEL_STEPS.includes(m.form))) return []
    const wheels = this.devices.get('wheels')!
    const gyro = this.facts.devices.find(x => x.kind === 'gyro')
    return [
      `drive.wheels = ${wheels}`,
      gyro === undefined ? `drive.turned = lambda: ${wheels}.raw("_turned")` : `drive.turned = lambda: ${this.devices.get(gyro.name)!}.raw("turned")`,
      `drive.track = ${float(d.track)}`, `drive.cruise = ${float(d['cruise speed'])}`, `drive.turning = ${float(d['turning speed'])}`, `drive.acceleration = ${float(d.acceleration)}`,
    ]
  }

  private memories(): readonly string[] {
    const { program, source } = this
    const dials = program.dials.flatMap(d => [
      ...this.remarks(source.lineAt(d.range)), `my.${this.mine.get(d.cell)!} = ${float(d.value)}  # a dial${d.unit === null ? '' : `: ${source.said(d.range)}`}`,
    ])
    const memories = program.memories.flatMap((m) => {
      const first = float(program.cells[m.cell]!)
      return [...this.remarks(source.lineOf('memory', m.name)), `my.${this.mine.get(m.cell)!} = ${m.per === null ? first : `[${first}] * ${m.count}`}`]
    })
    const set = new Set([...program.dials, ...program.memories].map(x => x.cell))
    const others = [...this.mine].filter(([cell]) => !set.has(cell)).map(([cell, name]) => `my.${name} = ${float(program.cells[cell]!)}`)
    const followed = program.everyTick.flatMap(e => e.does === 'let' ? [] : [`${this.followed.get(e.cell)!} = ${followedBy(e, name => this.devices.get(name)!)}  # ${e.name}`])
    const timers = [...this.timers.keys()].map(cell => String(program.cells[cell]!))
    return [...dials, ...memories, ...others, ...followed, ...timers.length === 0 ? [] : [`t.extend([${timers.join(', ')}])`]]
  }

  private motion(i: number): string {
    const { program } = this
    const motion = program.motions[i]!
    const made = motionOf(motion, {
      robot: stepRobotOf(this.facts), colors: program.colors,
      value: v => this.values.text(v), device: name => this.devices.get(name)!, line: step => program.steps[step]!.line,
      screen: name => this.kept(this.screens, name, `${name}_screen`),
    })
    const draws = program.code.flatMap(op => 'draws' in op && op.motion === i ? op.draws : [])
    const drawn = draws.length === 0 ? made : `drawing(${made}, ${draws.map(d => `(${this.timer(d.cell)}, ${this.values.later(d.value)})`).join(', ')})`
    return `${this.motions[i]!} = ${drawn}  # ${this.source.said(program.steps[motion.step]!.range)}`
  }

  private everyTick(): readonly string[] {
    const { everyTick } = this.program
    if (everyTick.length === 0) return []
    const lines = everyTick.flatMap((e): readonly string[] => {
      const follow = `${this.followed.get(e.cell) ?? ''}.follow`
      switch (e.does) {
        case 'let': return [...this.remarks(this.source.lineOf('let', e.name)), `${this.cell(e.cell)} = ${this.values.text(e.value)}`]
        case 'since': return [`${follow}(${this.values.text(e.test)})`]
        case 'total': return [`${follow}(${this.values.text(e.of)})`]
        case 'rate': return [`if ${this.followed.get(e.cell)!}.anew():`, `    ${follow}(${this.values.text(e.of)})`]
        default: return [`${follow}(${this.values.text(e.of)}, ${this.values.text(e.time)})`]
      }
    })
    return ['', '', '# What is worked out at the beginning of every tick.', 'def every_tick():', ...indented(lines), '', '', 'now.every_tick = every_tick']
  }

  private laneLines(lane: LaneData, number: number): readonly string[] {
    this.lane = number
    const { program } = this
    const rules = (all: readonly number[]): string => tuple(all.map(n => `rule_${n}`))
    const options = [
      tuple(this.modes[number]!), ...lane.above.length === 0 ? [] : [`above=${rules(lane.above)}`], ...lane.start === -1 ? [] : [`start=start_${number}`], ...lane.sequence ? ['sequence=True'] : [],
    ]
    return [
      '', '', `# Lane ${lane.name}`, ...this.remarks(this.source.lineOf('lane', lane.name)),
      ...lane.start === -1 ? [] : ['', '', ...this.steps.function(`start_${number}`, lane.start)],
      ...lane.above.flatMap(n => this.rule(program.rules[n]!)),
      ...lane.modes.flatMap((mode, m) => this.modeLines(mode, this.modes[number]![m]!, rules(mode.rules))),
      '', '', `lane_${number} = Lane(${[quoted(lane.name), ...options].join(', ')})`,
      ...this.draws ? [`lane_${number}.stream = Stream(${this.seed}, ${quoted(`program/${lane.name}`)})`] : [],
    ]
  }

  private modeLines(mode: ModeData, name: string, rules: string): readonly string[] {
    const line = this.source.lineOf('mode', mode.name)
    const options = [rules, ...mode.start === -1 ? [] : [`start=start_${name}`], ...mode.totals.length === 0 ? [] : [`totals=${tuple(mode.totals.map(c => this.followed.get(c)!))}`]]
    return [
      ...line === null ? [] : ['', '', `# Mode ${mode.name}`, ...this.remarks(line)],
      ...mode.start === -1 ? [] : ['', '', ...this.steps.function(`start_${name}`, mode.start)],
      ...mode.rules.flatMap(n => this.rule(this.program.rules[n]!)),
      '', '', `${name} = Mode(${[quoted(mode.name), ...options].join(', ')})`,
    ]
  }

  private rule(rule: RuleData): readonly string[] {
    const { source, values } = this
    const n = rule.number
    const options: string[] = []
    const lines = ['', '', ...this.remarks(rule.line), `# Line ${rule.line}: ${source.said(rule.range)}`]
    if (rule.when !== null) lines.push(`def when_${n}():`, `    return ${values.text(rule.when)}`, '', '')
    if (rule.until !== null) {
      lines.push(`def until_${n}():`, `    return ${values.text(rule.until)}`, '', '')
      options.push(`until=until_${n}`)
    }
    if (rule.once) options.push('once=True')
    if (rule.live) options.push('live=True')
    if (rule.moments) options.push('moments=True')
    const timers = rule.cells.slice(3).flatMap(cell => this.timers.get(cell) ?? [])
    if (timers.length > 0) options.push(`timers=${tuple(timers.map(String))}`)
    return [...lines, ...this.steps.function(`does_${n}`, rule.body), '', '', `rule_${n} = Rule(${[n, rule.line, rule.when === null ? 'None' : `when_${n}`, `does_${n}`, ...options].join(', ')})`]
  }
}

function followedBy(e: EveryTick, device: (name: string) => string): string {
  switch (e.does) {
    case 'mean': case 'lowest': case 'highest': return `OverTime(${quoted(e.does)}, ${e.most})`
    case 'rate': return `Rate(${e.devices.map(device).join(', ')})`
    case 'total': return 'Total()'
    default: return 'Since()'
  }
}
