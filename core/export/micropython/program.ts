import { driveOf, readingName, stepRobotOf, type DeviceFacts, type RobotFacts } from '../../robot'
import type { EveryTick, LaneData, ModeData, ProgramData, RuleData } from '../../program'
import { findUnit } from '../../units'
import { Called, WHEEL_STEPS } from '../called'
import { bare } from '../library'
import { Source } from '../source'
import type { WrittenProgram } from '../written'
import { motionOf } from './motions'
import { driverLibrary, meaningLibrary } from './runtime'
import { Steps, indented } from './steps'
import { PythonValues, float, quoted, tuple } from './values'

/** Words of Python that nothing else may be called. */
const KEYWORDS = 'False None True and as assert async await break class continue def del elif else except finally for from global if import in is lambda nonlocal not or pass raise return try while with yield abs all any callable dict enumerate float int len list max min print range set setattr str super math'.split(' ')

const UNIT_SIZES: Readonly<Record<string, string>> = { 'deg': 'math.pi / 180', 'deg/s': 'math.pi / 180', 'turn': '2 * math.pi', 'turn/s': '2 * math.pi', 'rpm': '2 * math.pi / 60' }

/** A program in MicroPython. `text` is what it was made from; `seed` what it draws by. Throws RangeError where a step cannot be carried. */
export function toMicroPython(program: ProgramData, facts: RobotFacts, text: string, seed: number): WrittenProgram {
  return new Writer(program, facts, text, seed).write()
}

/** The runtime that some code stands on. */
export function runtimeFor(facts: RobotFacts, code: string): string {
  return `# What ${facts.robot} is run by: the meaning of its program's words, as far as it has them.\nimport math\n\n\n${meaningLibrary().for(`${code} run_tick is_over`)}\n`
}

class Writer {
  private readonly called: Called
  private readonly source: Source
  private readonly values: PythonValues
  private readonly steps: Steps
  /** The lane that is being written. */
  private lane = 0

  constructor(private readonly program: ProgramData, private readonly facts: RobotFacts, text: string, private readonly seed: number) {
    this.source = new Source(text)
    const called = this.called = new Called(program, facts, this.source, {
      keywords: KEYWORDS, remark: '#', runtime: [...meaningLibrary().names, ...driverLibrary().names],
      ofDevices: ['name', 'told', 'shared', 'stalled_ticks', 'take', 'raw', 'rest'],
    })
    const words = called.words(signal => quoted(program.signals[signal]!))
    this.values = new PythonValues(words)
    this.steps = new Steps(program, called.stepWords(words, this.values, mode => called.modes[this.lane]![mode]!))
  }

  write(): WrittenProgram {
    const { program, facts, called } = this
    // Written first: what they use is defined above them.
    const motions = program.motions.map((_, i) => this.motion(i))
    const lanes = program.lanes.flatMap((lane, i) => this.laneLines(lane, i))
    const everyTick = this.everyTick()
    const screens = [...called.screens].map(([name, screen]) => {
      const p = facts.devices.find(d => d.name === name)!.parameters as { readonly columns: number, readonly lines: number }
      return `${screen} = Screen(${this.called.devices.get(name)!}, ${p.columns}, ${p.lines})`
    })
    const memories = this.memories()
    const units = [...called.units].map(([name, own]) => `${own} = ${UNIT_SIZES[name] ?? float(findUnit(name)!.scale)}`)
    const colors = [...called.colors].map(([name, own]) => `${own} = ${float(program.colors.indexOf(name))}`)
    // What stands nowhere in it need not be there.
    const rest = [motions, lanes, everyTick, screens, this.wheels()].flat().join('\n')
    const used = called.keepDevices(facts, bare(rest, '#'))
    const sections: readonly (readonly string[])[] = [
      [
        `# ${program.title ?? 'A program'}, for ${facts.robot}. Made by Mindpath: change it there, or go on from here by hand.`,
        '# Metres, seconds and radians throughout; a share of 100 % is 1.',
        'import math', 'from mindpath import *', '', `now.seconds = ${float(facts.tick)}  # a tick`,
      ],
      [...units, ...colors, ...called.namesColors ? [`COLORS = ${tuple(program.colors.map(quoted))}`] : []],
      [`# What it has of ${facts.robot}: what each reads, and what it is told at first, and whether it keeps that.`, ...used.map(d => this.device(d)), `now.devices = ${tuple([...this.called.devices.values()])}`, ...screens],
      this.wheels(),
      memories,
      motions.length === 0 ? [] : ['# What its steps do: the line where each stands, and how much.', ...motions],
    ]
    return called.written(`${sections.filter(s => s.length > 0).map(s => s.join('\n')).join('\n\n')}\n${[...everyTick, ...lanes].join('\n')}\n\nnow.lanes = ${tuple(program.lanes.map((_, i) => `lane_${i}`))}\n`)
  }

  private device(d: DeviceFacts): string {
    const readings = d.readings.map(r => quoted(this.called.readings.get(readingName(d, r))!.attribute))
    const acts = this.facts.actuators.find(a => a.name === d.name)
    const told = acts === undefined ? '' : `, ${tuple(acts.initial.map(float))}, ${tuple(acts.stays.map(s => s ? 'True' : 'False'))}${acts.shared ? ', shared=True' : ''}`
    return `${this.called.devices.get(d.name)!} = Device(${quoted(d.name)}, [${readings.join(', ')}]${told})`
  }

  private wheels(): readonly string[] {
    const d = driveOf(this.facts)
    if (d === null || !this.program.motions.some(m => WHEEL_STEPS.includes(m.form))) return []
    const wheels = this.called.devices.get('wheels')!
    const gyro = this.facts.devices.find(x => x.kind === 'gyro')
    return [
      `drive.wheels = ${wheels}`,
      gyro === undefined ? `drive.turned = lambda: ${wheels}.raw("_turned")` : `drive.turned = lambda: ${this.called.devices.get(gyro.name)!}.raw("turned")`,
      `drive.track = ${float(d.track)}`, `drive.cruise = ${float(d['cruise speed'])}`, `drive.turning = ${float(d['turning speed'])}`, `drive.acceleration = ${float(d.acceleration)}`,
    ]
  }

  private memories(): readonly string[] {
    const { program, source } = this
    const dials = program.dials.flatMap(d => [
      ...this.called.remarks(source.lineAt(d.range)), `my.${this.called.mine.get(d.cell)!} = ${float(d.value)}  # a dial${d.unit === null ? '' : `: ${source.said(d.range)}`}`,
    ])
    const memories = program.memories.flatMap((m) => {
      const first = float(program.cells[m.cell]!)
      return [...this.called.remarks(source.lineOf('memory', m.name)), `my.${this.called.mine.get(m.cell)!} = ${m.per === null ? first : `[${first}] * ${m.count}`}`]
    })
    const set = new Set([...program.dials, ...program.memories].map(x => x.cell))
    const others = [...this.called.mine].filter(([cell]) => !set.has(cell)).map(([cell, name]) => `my.${name} = ${float(program.cells[cell]!)}`)
    const followed = program.everyTick.flatMap(e => e.does === 'let' ? [] : [`${this.called.followed.get(e.cell)!} = ${followedBy(e, name => this.called.devices.get(name)!)}  # ${e.name}`])
    const timers = [...this.called.timers.keys()].map(cell => String(program.cells[cell]!))
    return [...dials, ...memories, ...others, ...followed, ...timers.length === 0 ? [] : [`t.extend([${timers.join(', ')}])`]]
  }

  private motion(i: number): string {
    const { program } = this
    const motion = program.motions[i]!
    const made = motionOf(motion, {
      robot: stepRobotOf(this.facts), colors: program.colors,
      value: v => this.values.text(v), device: name => this.called.devices.get(name)!, line: step => program.steps[step]!.line,
      screen: name => this.called.screen(name),
    })
    const draws = program.code.flatMap(op => 'draws' in op && op.motion === i ? op.draws : [])
    const drawn = draws.length === 0 ? made : `drawing(${made}, ${draws.map(d => `(${this.called.timer(d.cell)}, ${this.values.later(d.value)})`).join(', ')})`
    return `${this.called.motions[i]!} = ${drawn}  # ${this.source.said(program.steps[motion.step]!.range)}`
  }

  private everyTick(): readonly string[] {
    const { everyTick } = this.program
    if (everyTick.length === 0) return []
    const lines = everyTick.flatMap((e): readonly string[] => {
      const follow = `${this.called.followed.get(e.cell) ?? ''}.follow`
      switch (e.does) {
        case 'let': return [...this.called.remarks(this.source.lineOf('let', e.name)), `${this.called.cell(e.cell)} = ${this.values.text(e.value)}`]
        case 'since': return [`${follow}(${this.values.text(e.test)})`]
        case 'total': return [`${follow}(${this.values.text(e.of)})`]
        case 'rate': return [`if ${this.called.followed.get(e.cell)!}.anew():`, `    ${follow}(${this.values.text(e.of)})`]
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
      tuple(this.called.modes[number]!), ...lane.above.length === 0 ? [] : [`above=${rules(lane.above)}`], ...lane.start === -1 ? [] : [`start=start_${number}`], ...lane.sequence ? ['sequence=True'] : [],
    ]
    return [
      '', '', `# Lane ${lane.name}`, ...this.called.remarks(this.source.lineOf('lane', lane.name)),
      ...lane.start === -1 ? [] : ['', '', ...this.steps.function(`start_${number}`, lane.start)],
      ...lane.above.flatMap(n => this.rule(program.rules[n]!)),
      ...lane.modes.flatMap((mode, m) => this.modeLines(mode, this.called.modes[number]![m]!, rules(mode.rules))),
      '', '', `lane_${number} = Lane(${[quoted(lane.name), ...options].join(', ')})`,
      ...this.called.draws ? [`lane_${number}.stream = Stream(${this.seed}, ${quoted(`program/${lane.name}`)})`] : [],
    ]
  }

  private modeLines(mode: ModeData, name: string, rules: string): readonly string[] {
    const line = this.source.lineOf('mode', mode.name)
    const options = [rules, ...mode.start === -1 ? [] : [`start=start_${name}`], ...mode.totals.length === 0 ? [] : [`totals=${tuple(mode.totals.map(c => this.called.followed.get(c)!))}`]]
    return [
      ...line === null ? [] : ['', '', `# Mode ${mode.name}`, ...this.called.remarks(line)],
      ...mode.start === -1 ? [] : ['', '', ...this.steps.function(`start_${name}`, mode.start)],
      ...mode.rules.flatMap(n => this.rule(this.program.rules[n]!)),
      '', '', `${name} = Mode(${[quoted(mode.name), ...options].join(', ')})`,
    ]
  }

  private rule(rule: RuleData): readonly string[] {
    const { source, values } = this
    const n = rule.number
    const options: string[] = []
    const lines = ['', '', ...this.called.remarks(rule.line), `# Line ${rule.line}: ${source.said(rule.range)}`]
    if (rule.when !== null) lines.push(`def when_${n}():`, `    return ${values.text(rule.when)}`, '', '')
    if (rule.until !== null) {
      lines.push(`def until_${n}():`, `    return ${values.text(rule.until)}`, '', '')
      options.push(`until=until_${n}`)
    }
    if (rule.once) options.push('once=True')
    if (rule.live) options.push('live=True')
    if (rule.moments) options.push('moments=True')
    const timers = this.called.timersOf(rule.cells.slice(3))
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
