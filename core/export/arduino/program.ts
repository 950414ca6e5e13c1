import { driveOf, readingName, stepRobotOf, type DeviceFacts, type RobotFacts } from '../../robot'
import type { EveryTick, LaneData, ModeData, ProgramData, RuleData } from '../../program'
import { RandomStream } from '../../random'
import { findUnit } from '../../units'
import { Called, WHEEL_STEPS } from '../called'
import { bare } from '../library'
import { Source } from '../source'
import { mayFail } from '../values'
import type { WrittenProgram } from '../written'
import { motionOf } from './motions'
import { driverLibrary, meaningLibrary } from './runtime'
import { Steps, indented } from './steps'
import { CppValues, float, quoted } from './values'

/** Words of C++ and of the boards' own library that nothing else may be called; names in capitals are the chips' own. */
const KEYWORDS = ('alignas alignof and and_eq asm auto bitand bitor bool break case catch char class compl const const_cast constexpr continue decltype default delete do double dynamic_cast else enum explicit '
  + 'export extern false float for friend goto if inline int long mutable namespace new noexcept not not_eq nullptr operator or or_eq private protected public register reinterpret_cast return short signed sizeof '
  + 'static static_assert static_cast struct switch template this throw true try typedef typeid typename union unsigned using virtual void volatile wchar_t while xor xor_eq '
  + 'abs acos asin atan atan2 bit bitClear bitRead bitSet bitWrite boolean byte ceil constrain cos delay degrees fabs floor fmax fmin highByte index init interrupts isnan isinf log lowByte loop ltoa main map max micros '
  + 'millis min noInterrupts noTone pow pulseIn radians random read remove rename round setup shiftIn shiftOut signal sin sq sqrt strlen strncpy tan time tone word write yield Client HardwareSerial IPAddress Print Printable Serial Stream String TwoWire Wire at my say_screens begin_program').split(' ')

const UNIT_SIZES: Readonly<Record<string, string>> = { 'deg': 'M_PI / 180', 'deg/s': 'M_PI / 180', 'turn': '2 * M_PI', 'turn/s': '2 * M_PI', 'rpm': '2 * M_PI / 60' }
/** Signals are bits of a number. */
const MOST_SIGNALS = 32

/** A program in C++. `text` is what it was made from; `seed` what it draws by. Throws RangeError where something in it cannot be carried. */
export function toArduino(program: ProgramData, facts: RobotFacts, text: string, seed: number): WrittenProgram {
  return new Writer(program, facts, text, seed).write()
}

/** The runtime that some code stands on. */
export const runtimeFor = (facts: RobotFacts, code: string): string =>
  `// What ${facts.robot} is run by: the meaning of its program's words, as far as it has them.\n#pragma once\n\n${meaningLibrary().for(`${code} run_tick is_over`)}\n`

class Writer {
  private readonly called: Called
  private readonly source: Source
  private readonly values: CppValues
  private readonly steps: Steps
  /** Where each joint can go. */
  private readonly ends = new Map<string, { readonly name: string, readonly made: string }>()
  /** The lane that is being written. */
  private lane = 0

  constructor(private readonly program: ProgramData, private readonly facts: RobotFacts, text: string, private readonly seed: number) {
    if (program.signals.length > MOST_SIGNALS) throw new RangeError(`the program has ${program.signals.length} signals; allowed are ${MOST_SIGNALS}`)
    this.source = new Source(text)
    const called = this.called = new Called(program, facts, this.source, {
      keywords: KEYWORDS, remark: '//', noCapitals: true, runtime: [...meaningLibrary().names, ...driverLibrary().names],
      ofDevices: [...KEYWORDS, ...'all commands kept readings told was number reads tells acts stays says_moving says_stalled moves shared stalled_ticks looks began said said_by name raw take rest'.split(' ')],
    })
    const words = called.words(signal => `${signal}`)
    this.values = new CppValues(words)
    this.steps = new Steps(program, called.stepWords(words, this.values, mode => called.modes[this.lane]![mode]!))
  }

  write(): WrittenProgram {
    const { program, facts, called } = this
    // Written first: what they use is defined above them.
    const motions = program.motions.flatMap((_, i) => this.motion(i))
    const lanes = program.lanes.flatMap((lane, i) => this.laneLines(lane, i))
    const everyTick = this.everyTick()
    const followed = program.everyTick.flatMap(e => e.does === 'let' ? [] : followedBy(e, called.followed.get(e.cell)!, name => called.devices.get(name)!))
    const screens = [...called.screens].flatMap(([name, screen]) => {
      const p = facts.devices.find(d => d.name === name)!.parameters as { readonly columns: number, readonly lines: number }
      return [`char ${screen}_letters[${p.lines} * ${p.columns + 1}];`, `Screen ${screen}(${called.devices.get(name)!}, ${screen}_letters, ${p.lines}, ${p.columns});`]
    })
    const wheels = this.wheels()
    const code = [motions, lanes, everyTick, followed, screens, wheels.lines].flat().join('\n')
    const used = called.keepDevices(facts, bare(code, '//'), 1)
    const acting = used.filter(d => facts.actuators.some(a => a.name === d.name))
    const memories = this.memories()
    const reset = new Set(program.code.flatMap(op => op.op === 'reset' ? [called.readings.get(op.reading)!.device] : []))
    const names = (all: readonly string[]): string => all.length === 0 ? '""' : all.map((name, i) => `${quoted(`${name}${i === all.length - 1 ? '' : '\0'}`).replace('\\000', '\\0')}`).join(' ')
    const begins = [...everyTick.length > 0 ? ['  now.every_tick = every_tick;'] : [], ...screens.length > 0 ? ['  now.say_screens = say_screens;'] : []]
    const sections: readonly (readonly string[])[] = [
      [
        `// ${program.title ?? 'A program'}, for ${facts.robot}. Made by Mindpath: change it there, or go on from here by hand.`,
        '// Metres, seconds and radians throughout; a share of 100 % is 1.',
        '#pragma once', '#include <Arduino.h>', '',
        `const double TICK = ${float(facts.tick)};  // seconds`,
        `#define DEVICES ${used.length}`, `#define ACTING ${acting.length}`, `#define LANES ${program.lanes.length}`,
        `const char DEVICE_NAMES[] PROGMEM = ${names(used.map(d => d.name))};`, `const char LANE_NAMES[] PROGMEM = ${names(program.lanes.map(l => l.name))};`,
        ...program.signals.length > 0 ? [`const char SIGNAL_NAMES[] PROGMEM = ${names(program.signals)};`] : [],
        ...called.namesColors ? [`const char COLOR_NAMES[] PROGMEM = ${names(program.colors)};`, `const int COLOR_COUNT = ${program.colors.length};`] : [],
        ...wheels.constants, '#include "mindpath.h"',
      ],
      [
        ...[...called.units].map(([name, own]) => `const Number ${own} = ${UNIT_SIZES[name] ?? float(findUnit(name)!.scale)};`),
        ...[...called.colors].map(([name, own]) => `const Number ${own} = ${float(program.colors.indexOf(name))};`),
      ],
      [`// What it has of ${facts.robot}: what each reads, and what it is told.`, ...used.flatMap((d, i) => this.device(d, i, acting.indexOf(d), reset)), `Device* const devices[DEVICES] = {${used.map(d => `&${called.devices.get(d.name)!}`).join(', ')}};`],
      screens, wheels.lines, [...this.ends.values()].map(e => `const Ends ${e.name} = ${e.made};  // from, to, at most so fast`), memories, followed,
      motions.length === 0 ? [] : ['// What its steps do: the line where each stands, and how much.', ...motions],
      called.modes.flat().length === 0 ? [] : [`extern Mode ${called.modes.flat().join(', ')};`],
    ]
    return called.written([
      ...sections.filter(s => s.length > 0).flatMap(s => [...s, '']).slice(0, -1), ...everyTick, ...lanes, '',
      `Lane* const lanes[LANES] = {${program.lanes.map((_, i) => `&lane_${i}`).join(', ')}};`,
      ...called.draws ? [`Draws draws[LANES] = {${program.lanes.map(l => `{${RandomStream.named(this.seed, `program/${l.name}`).snapshot().map(x => `0x${(x >>> 0).toString(16)}`).join(', ')}}`).join(', ')}};  // of seed ${this.seed}`] : [],
      ...screens.length === 0 ? [] : ['', 'void say_screens() {', ...[...called.screens.values()].map(s => `  ${s}.say();`), '}'],
      '', 'void begin_program() {', ...begins, '}', '',
    ].join('\n'))
  }

  private device(d: DeviceFacts, number: number, acts: number, reset: ReadonlySet<string>): readonly string[] {
    const device = this.called.devices.get(d.name)!
    const names = d.readings.map(r => this.called.readings.get(readingName(d, r))!.attribute)
    const actuator = acts === -1 ? undefined : this.facts.actuators.find(a => a.name === d.name)!
    const count = names.length
    const index = (name: string): string => { const i = d.readings.findIndex(r => r.name === name); return i === -1 ? 'NONE' : String(i) }
    const kept = reset.has(device)
    const acting = actuator === undefined ? kept ? ['nullptr', '0', 'NONE', '0', 'NONE', 'NONE', 'false'] : []
      : ['commands', actuator.initial.length, acts, `0b${actuator.stays.map(s => s ? '1' : '0').reverse().join('')}`, index('moving'), index('stalled'), String(actuator.shared)]
    const begins = [
      `Device(${[number, count === 0 ? 'nullptr' : 'all', count, ...acting, ...kept ? ['kept'] : []].join(', ')})`, ...count === 0 ? [] : ['all{}'],
      ...actuator === undefined ? [] : [`commands{${actuator.initial.map(float).join(', ')}}`], ...kept ? ['kept{}'] : [],
    ]
    return [
      `struct ${device}_device : Device {`, ...count === 0 ? [] : [`  union { Number all[${count}]; struct { Number ${names.join(', ')}; }; };`],
      ...actuator === undefined ? [] : [`  Number commands[${actuator.initial.length}];`], ...kept ? [`  Number kept[${2 * count}];`] : [],
      `  constexpr ${device}_device() : ${begins.join(', ')} {}`, `} ${device};`,
    ]
  }

  private wheels(): { readonly constants: readonly string[], readonly lines: readonly string[] } {
    const d = driveOf(this.facts)
    if (d === null || !this.program.motions.some(m => WHEEL_STEPS.includes(m.form))) return { constants: [], lines: [] }
    const gyro = this.facts.devices.find(x => x.kind === 'gyro')
    const turned = (x: DeviceFacts, reading: string): string => `${this.called.devices.get(x.name)!}.raw(${x.readings.findIndex(r => r.name === reading)})`
    return {
      constants: [
        `const double DRIVE_TRACK = ${float(d.track)}, DRIVE_CRUISE = ${float(d['cruise speed'])}, DRIVE_TURNING = ${float(d['turning speed'])}, DRIVE_ACCELERATION = ${float(d.acceleration)};`,
      ],
      lines: [
        `Number drive_turned() { return ${gyro === undefined ? turned(this.facts.devices.find(x => x.name === 'wheels')!, '_turned') : turned(gyro, 'turned')}; }`,
      ],
    }
  }

  private memories(): readonly string[] {
    const { program, source, called } = this
    const dials = program.dials.flatMap(d => [
      ...this.called.remarks(source.lineAt(d.range)), `Number ${called.mine.get(d.cell)!} = ${float(d.value)};  // a dial${d.unit === null ? '' : `: ${source.said(d.range)}`}`,
    ])
    const memories = program.memories.flatMap((m) => {
      const first = float(program.cells[m.cell]!)
      return [...this.called.remarks(source.lineOf('memory', m.name)), `Number ${called.mine.get(m.cell)!}${m.per === null ? ` = ${first}` : `[${m.count}] = {${Array.from({ length: m.count }, () => first).join(', ')}}`};`]
    })
    const set = new Set([...program.dials, ...program.memories].map(x => x.cell))
    const others = [...called.mine].filter(([cell]) => !set.has(cell)).map(([cell, name]) => `Number ${name} = ${float(program.cells[cell]!)};`)
    const timers = [...called.timers.keys()].map(cell => String(program.cells[cell]!))
    const mine = [...dials, ...memories, ...others]
    return [
      ...mine.length === 0 ? [] : ['// What it remembers.', 'struct {', ...indented(mine), '} my;'],
      `Number t[] = {${timers.length === 0 ? '0' : timers.join(', ')}};`,
    ]
  }

  private motion(i: number): readonly string[] {
    const { program, called } = this
    const motion = program.motions[i]!
    const name = called.motions[i]!
    const { type, given, before } = motionOf(motion, name, {
      robot: stepRobotOf(this.facts), colors: program.colors, values: this.values, names: called.names,
      device: n => called.devices.get(n)!, line: step => program.steps[step]!.line, screen: n => called.screen(n),
      ends: (device, made) => {
        let ends = this.ends.get(device)
        if (ends === undefined) this.ends.set(device, ends = { name: called.names.make(`${device}_ends`), made: made() })
        return ends.name
      },
    })
    const said = this.source.said(program.steps[motion.step]!.range)
    const draws = program.code.flatMap(op => 'draws' in op && op.motion === i ? op.draws : [])
    if (draws.length === 0) return [...before, `${type} ${name}(${given.join(', ')});  // ${said}`]
    return [
      ...before, `struct ${name}_drawing : ${type} {`, `  using ${type}::${type};`, '  bool begin() override {',
      ...draws.map(d => `    t[${called.timer(d.cell)}] = ${this.values.text(d.value)};`), ...draws.some(d => mayFail(d.value)) ? ['    if (failed()) return false;'] : [],
      `    return ${type}::begin();`, '  }', '};', `${name}_drawing ${name}(${given.join(', ')});  // ${said}`,
    ]
  }

  private everyTick(): readonly string[] {
    const { everyTick } = this.program
    const { called, values } = this
    if (everyTick.length === 0) return []
    const lines = everyTick.flatMap((e): readonly string[] => {
      const follow = `${called.followed.get(e.cell) ?? ''}.follow`
      switch (e.does) {
        case 'let': return [...this.called.remarks(this.source.lineOf('let', e.name)), ...this.checked(`${called.cell(e.cell)} = ${values.text(e.value)};`, mayFail(e.value))]
        case 'since': return this.checked(`${follow}(${values.text(e.test)});`, mayFail(e.test))
        case 'total': return this.checked(`${follow}(${values.text(e.of)});`, mayFail(e.of))
        case 'rate': return this.checked(`if (${called.followed.get(e.cell)!}.anew()) ${follow}(${values.text(e.of)});`, mayFail(e.of))
        default: return this.checked(`${follow}(${values.text(e.of)}, ${values.text(e.time)});`, mayFail(e.of) || mayFail(e.time))
      }
    })
    return ['', '// What is worked out at the beginning of every tick.', 'void every_tick() {', ...indented(lines), '}']
  }

  private checked(line: string, fails: boolean): readonly string[] { return fails ? [line, 'if (failed()) return;'] : [line] }

  private rules(name: string, all: readonly number[]): { readonly lines: readonly string[], readonly text: string } {
    return all.length === 0 ? { lines: [], text: '{nullptr, 0}' } : { lines: [`Rule* const ${name}[] = {${all.map(n => `&rule_${n}`).join(', ')}};`], text: `{${name}, ${all.length}}` }
  }

  private laneLines(lane: LaneData, number: number): readonly string[] {
    this.lane = number
    const { program, called } = this
    const above = this.rules(`lane_${number}_above`, lane.above)
    return [
      '', `// Lane ${lane.name}`, ...this.called.remarks(this.source.lineOf('lane', lane.name)),
      ...lane.start === -1 ? [] : ['', ...this.steps.function(`start_${number}`, lane.start)],
      ...lane.above.flatMap(n => this.rule(program.rules[n]!)),
      ...lane.modes.flatMap((mode, m) => this.modeLines(mode, called.modes[number]![m]!)),
      '', ...above.lines, `Mode* const lane_${number}_modes[] = {${called.modes[number]!.map(m => `&${m}`).join(', ')}};`,
      `Lane lane_${number}(${[number, `lane_${number}_modes`, above.text, ...lane.start === -1 ? [] : [`start_${number}`], ...lane.sequence ? ['true'] : []].join(', ')});`,
    ]
  }

  private modeLines(mode: ModeData, name: string): readonly string[] {
    const line = this.source.lineOf('mode', mode.name)
    const rules = this.rules(`${name}_rules`, mode.rules)
    const totals = mode.totals.map(c => `${this.called.followed.get(c)!}.value = 0;`)
    const given = [rules.text, ...mode.start === -1 ? totals.length > 0 ? ['nullptr'] : [] : [`start_${name}`], ...totals.length > 0 ? [`${name}_anew`] : []]
    return [
      ...line === null ? [] : ['', `// Mode ${mode.name}`, ...this.called.remarks(line)],
      ...mode.start === -1 ? [] : ['', ...this.steps.function(`start_${name}`, mode.start)],
      ...mode.rules.flatMap(n => this.rule(this.program.rules[n]!)),
      '', ...rules.lines, ...totals.length > 0 ? [`void ${name}_anew() { ${totals.join(' ')} }`] : [], `Mode ${name}(${given.join(', ')});`,
    ]
  }

  private rule(rule: RuleData): readonly string[] {
    const { source, values } = this
    const n = rule.number
    const lines = ['', ...this.called.remarks(rule.line), `// Line ${rule.line}: ${source.said(rule.range)}`]
    if (rule.when !== null) lines.push(`bool when_${n}() { return ${values.text(rule.when)}; }`, '')
    if (rule.until !== null) lines.push(`bool until_${n}() { return ${values.text(rule.until)}; }`, '')
    const how = [rule.once ? 'ONCE' : null, rule.live ? 'LIVE' : null, rule.moments ? 'MOMENTS' : null].filter(x => x !== null).join(' | ')
    const timers = this.called.timersOf(rule.cells.slice(3))
    const options: readonly (string | null)[] = [how === '' ? null : how, rule.until === null ? null : `until_${n}`, timers.length === 0 ? null : `anew_${n}`]
    if (timers.length > 0) lines.push(`void anew_${n}() { ${timers.map(k => `t[${k}] =`).join(' ')} -1; }`, '')
    const last = options.reduce<number>((at, x, i) => x === null ? at : i, -1)
    const given = [n, rule.line, rule.when === null ? 'nullptr' : `when_${n}`, `does_${n}`, ...options.slice(0, last + 1).map((x, i) => x ?? (i === 0 ? '0' : 'nullptr'))]
    return [...lines, ...this.steps.function(`does_${n}`, rule.body), '', `Rule rule_${n}(${given.join(', ')});`]
  }
}

function followedBy(e: EveryTick, name: string, device: (name: string) => string): readonly string[] {
  switch (e.does) {
    case 'mean': case 'lowest': case 'highest': return [`Number ${name}_kept[${e.most}];`, `OverTime ${name}(${e.does.toUpperCase()}, ${name}_kept, ${e.most});  // ${e.name}`]
    case 'rate': return [`Rate<${e.devices.length}> ${name}${e.devices.length === 0 ? '' : `(${e.devices.map(device).join(', ')})`};  // ${e.name}`]
    case 'total': return [`Total ${name};  // ${e.name}`]
    default: return [`Since ${name};  // ${e.name}`]
  }
}
