import type { Problem, Read } from '../document'
import type { ProgramMap } from '../language'
import { mapOf } from '../language'
import type { RobotFacts } from '../robot'
import { factsOf } from '../robot'
import { Heard, openRun, readProject, type ProblemIn, type RefusedRun, type RunInputs, type Simulation } from '../simulation'
import { writeKept } from './kept'

/**
 * What a board reports over its serial line, a line a tick (docs/hardware.md): `tick 12 | 4 - | sonar* 0.8 1; bumper 0 | wheels 2 0.2 0.2`. What it
 * read is heard again here, so that the run can be looked at as any other; and what it decided is held against what is decided here.
 */

interface ReportedTick {
  readonly tick: number
  /** In each lane the line of the rule in control, null for none. */
  readonly control: readonly (number | null)[]
  /** By device: whether it looked in this tick, and its readings; and what it was told. SI. */
  readonly read: ReadonlyMap<string, { readonly looked: boolean, readonly values: readonly number[] }>
  readonly told: ReadonlyMap<string, readonly number[]>
}

export interface Report {
  /** In order, without gaps: a tick whose line was lost stands as the one before it, and nothing looked in it. */
  readonly ticks: readonly ReportedTick[]
  /** Ticks whose lines were lost or cannot be read. */
  readonly lost: number
  /** Ticks that came late on the board; null where it did not say. */
  readonly late: number | null
}

const EXAMPLE = 'tick 12 | 4 - | sonar* 0.8 1 | wheels 2 0.2 0.2'
/** So many lines in a row may be missing; after more, what comes is of another time. */
const MOST_LOST = 250

/** Reads what was said on a serial line. Lines of other kinds are passed over; where the board began anew, the last run counts. */
export function readReport(text: string, facts: RobotFacts): Read<Report> {
  let ticks: ReportedTick[] = []
  let [lost, unread] = [0, 0]
  let late: number | null = null
  const lines = text.split(/\r?\n/)
  for (const [i, line] of lines.entries()) {
    const counted = /^late ticks: (\d+)$/.exec(line)
    if (counted !== null) late = Number(counted[1])
    if (!line.startsWith('tick ')) continue
    const tick = readTick(line)
    if (tick === null) { unread++; continue }
    const wrong = strange(tick, facts)
    if (wrong !== null) return { ok: false, problems: [{ path: `line ${i + 1}`, ...wrong }] }
    const last = ticks.at(-1)
    if (last !== undefined && (tick.tick <= last.tick || tick.tick - last.tick > MOST_LOST)) [ticks, lost, unread] = [[], 0, 0]
    else for (let missing = (last?.tick ?? tick.tick) + 1; missing < tick.tick; missing++) { ticks.push(unheard(last!, missing)); lost++ }
    ticks.push(tick)
  }
  if (ticks.length === 0) return { ok: false, problems: [{ path: 'the report', value: `${lines.length} lines`, message: `expected lines such as "${EXAMPLE}"${unread > 0 ? `; ${unread} lines begin so and cannot be read` : ''}` }] }
  return { ok: true, value: { ticks, lost, late } }
}

const unheard = ({ read, ...of }: ReportedTick, tick: number): ReportedTick => ({ ...of, tick, read: new Map([...read].map(([name, { values }]) => [name, { looked: false, values }])) })

/** null where it was cut off or disturbed. */
function readTick(line: string): ReportedTick | null {
  const [head, control, read, told, ...more] = line.split(' |')
  const tick = /^tick (\d{1,9})$/.exec(head!)?.[1]
  if (tick === undefined || told === undefined || more.length > 0) return null
  const lanes = words(control!).map(word => word === '-' ? null : Number(word))
  const [reads, tells] = [parts(read!), parts(told)]
  if (reads === null || tells === null || lanes.some(l => l !== null && !Number.isInteger(l))) return null
  return { tick: Number(tick), control: lanes, read: new Map([...reads].map(([name, { marked, values }]) => [name, { looked: marked, values }])), told: new Map([...tells].map(([name, { values }]) => [name, values])) }
}

const words = (text: string): readonly string[] => text.split(' ').filter(w => w !== '')

/** `sonar* 0.8 1; bumper 0`: by name. null where something is no number. */
function parts(text: string): ReadonlyMap<string, { readonly marked: boolean, readonly values: readonly number[] }> | null {
  const found = new Map<string, { marked: boolean, values: number[] }>()
  for (const part of text.split(';')) {
    const [name, ...numbers] = words(part)
    if (name === undefined) continue
    if (numbers.some(n => !/^-?(\d+(\.\d+)?|Infinity)$/.test(n))) return null
    found.set(name.replace('*', ''), { marked: name.endsWith('*'), values: numbers.map(Number) })
  }
  return found
}

/** What shows that another robot said it; null where nothing does. */
function strange({ read, told }: ReportedTick, facts: RobotFacts): Omit<Problem, 'path'> | null {
  for (const [name, { values }] of read) {
    const device = facts.devices.find(d => d.name === name)
    if (device === undefined) return { value: name, message: `the robot has no such device; it has ${facts.devices.map(d => d.name).join(', ')}` }
    if (device.readings.length !== values.length) return { value: `${name} with ${values.length} readings`, message: `expected ${device.readings.length}: was it another robot, or has it changed since?` }
  }
  for (const [name, values] of told) {
    const actuator = facts.actuators.find(a => a.name === name)
    if (actuator === undefined || actuator.channels !== values.length) return { value: `${name}, told ${values.length} numbers`, message: actuator === undefined ? 'nothing of that name can be told something' : `expected ${actuator.channels}` }
  }
  return null
}

/** The first tick in which the board did other than what is done here with the same readings. */
export interface BoardDiffers { readonly tick: number, readonly time: number, readonly what: string, readonly board: string, readonly here: string }

/** A report as a run: its file, how much was heard, and where the board first did something else; null where it never did. */
export interface ReportedRun { readonly ok: true, readonly file: Uint8Array<ArrayBuffer>, readonly report: Report, readonly differs: BoardDiffers | null }

/** Has the program decide here on what a board read; what it was told is told to the simulated robot, which goes along. */
export async function runReport(title: string, inputs: RunInputs, text: string): Promise<ReportedRun | RefusedRun> {
  const project = readProject(inputs)
  if (!project.ok) return { ok: false, problems: project.problems, diagnostics: [] }
  const facts = factsOf(project.value.robot)
  const read = readReport(text, facts)
  if (!read.ok) return { ok: false, problems: read.problems.map((p): ProblemIn => ({ ...p, document: 'run' })), diagnostics: [] }
  const report = read.value
  const { ticks } = report
  const heard = new Heard(facts, facts.devices.filter(d => ticks[0]!.read.has(d.name)).map(d => d.name), ticks[0]!.tick)
  for (const { read: now } of ticks) {
    heard.add((into) => {
      let at = 0
      for (const name of heard.devices) {
        const { looked, values } = now.get(name) ?? { looked: false, values: ticks[0]!.read.get(name)!.values }
        into[at++] = looked ? 1 : 0
        into.set(values, at)
        at += values.length
      }
    })
  }
  const of: RunInputs = { ...inputs, wire: heard.inputs(), limit: (ticks.at(-1)!.tick + 1) * facts.tick }
  const opened = await openRun(of)
  if (!opened.ok) return opened
  const { simulation } = opened
  const map = simulation.input.program === null ? null : mapOf(simulation.input.program, inputs.program)
  let differs: BoardDiffers | null = null
  while (simulation.end === null) {
    simulation.advance()
    const tick = simulation.tape.rows - 1
    const then = ticks[tick - ticks[0]!.tick]
    if (differs === null && then !== undefined) differs = difference(then, simulation, map)
  }
  const file = writeKept(title, of, simulation)
  simulation.free()
  return { ok: true, file, report, differs }
}

/** What is to be said of it, in sentences. */
export function reportSays({ report: { ticks, lost, late }, differs }: Pick<ReportedRun, 'report' | 'differs'>): readonly string[] {
  const [{ tick: from }] = ticks as [ReportedTick]
  return [
    `${ticks.length} ticks, from tick ${from} on${lost === 0 ? '' : `; ${lost} lines were lost`}${late === null ? '' : `; ${late} ticks came late`}.`,
    ...from === 0 ? [] : ['What came before was not reported: what the program remembered of it may be other here.'],
    differs === null ? 'With the same readings the board did what is done here, in every tick.' : `At ${differs.time.toFixed(2)} s (tick ${differs.tick}) ${differs.what}: ${differs.board} on the board, ${differs.here} here.`,
  ]
}

/** Numbers are reported to a millionth; boards count with 32 bits. */
const near = (a: number, b: number): boolean => a === b || Math.abs(a - b) <= 2e-6 + 2e-6 * Math.max(Math.abs(a), Math.abs(b))
const lineSaid = (line: number | null): string => line === null ? 'no rule' : `the rule of line ${line}`

function difference({ tick, control, told }: ReportedTick, simulation: Simulation, map: ProgramMap | null): BoardDiffers | null {
  const { facts, tape: { layout } } = simulation
  const row = simulation.tape.at(tick)
  const at = (what: string, board: string, here: string): BoardDiffers => ({ tick, time: tick * facts.tick, what, board, here })
  for (const [lane, line] of control.entries()) {
    if (lane >= layout.laneNames.length) return at('lanes', `${control.length}`, `${layout.laneNames.length}`)
    const rule = row[layout.lanes + 4 * lane + 2]!
    const here = rule < 0 ? null : map?.rules[rule]?.line ?? null
    if (here !== line) return at(`control of ${layout.laneNames[lane]!}`, lineSaid(line), lineSaid(here))
  }
  for (const [name, values] of told) {
    const { channel } = facts.actuators.find(a => a.name === name)!
    const here = values.map((_, i) => row[layout.commands + channel + i]!)
    if (values.some((x, i) => !near(x, here[i]!))) return at(`what ${name} is told`, values.join(' '), here.map(x => String(Number(x.toFixed(6)))).join(' '))
  }
  return null
}
