import { readFileSync } from 'node:fs'
import { checkProgram, compileProgram, type Diagnostic } from '../../core/language'
import { factsOf, readRobot, type Robot, type RobotFacts } from '../../core/robot'
import type { RealismName } from '../../core/devices'
import { Simulation, openRun, readProject, type ProjectParts, type RunInputs } from '../../core/simulation'
import { Vm, type VmEvent, type VmInput } from '../../core/vm'

/** What several tests stand on: the demo robot, programs that must run, scripted courses. */

export const demo = (path: string): unknown => JSON.parse(readFileSync(new URL(`../../demo/${path}`, import.meta.url), 'utf8'))
export const demoText = (path: string): string => readFileSync(new URL(`../../demo/${path}`, import.meta.url), 'utf8')

export function limpet(): Robot {
  const read = readRobot(demo('robots/limpet.json'))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

export const facts: RobotFacts = factsOf(limpet())

/** The program, compiled; throws what the checker says where it cannot run. */
export function compile(text: string, robot: RobotFacts = facts) {
  const checked = checkProgram(text, robot)
  if (!checked.runs) throw new Error(checked.diagnostics.map(d => `${d.code}: ${d.message}`).join('\n'))
  return compileProgram(checked.analysis)
}

/** What is known of a demo robot. */
export function factsFor(robot: string): RobotFacts {
  const read = readRobot(demo(`robots/${robot}.json`))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return factsOf(read.value)
}

export const codesOf = (text: string, robot: RobotFacts = facts): string[] => checkProgram(text, robot).diagnostics.map(d => d.code)
export const diagnosticsOf = (text: string, robot: RobotFacts = facts): readonly Diagnostic[] => checkProgram(text, robot).diagnostics

/** Column of a reading by its name. */
export function column(name: string): number {
  const [device, reading] = name.split('.') as [string, string]
  const found = facts.devices.find(d => d.name === device)!
  return found.first + found.readings.findIndex(r => r.name === reading)
}

export interface Moment {
  /** The command to the wheels: "brake", "speed 0.20 0.20", "power 0.4 0.1". */
  readonly command: string
  /** Urgency of the rule in control: 0 when none is. */
  readonly rule: number
  readonly mode: string
  readonly events: readonly VmEvent[]
}

const MODES = ['brake', 'coast', 'speed', 'power']

/**
 * Plays a program against a scripted course of readings, one set a tick (each stays until it
 * is changed), and tells what came of every tick. Every device looks every tick.
 */
export function play(text: string, course: readonly Readonly<Record<string, number>>[], seed = 1): Moment[] {
  const program = compile(text)
  const vm = new Vm(program, facts, seed)
  return inputsOf(course).map((input) => {
    vm.run(input)
    const [mode, left, right] = vm.commands
    const lane = vm.lane(0)
    const name = MODES[mode!]!
    return {
      command: name === 'brake' || name === 'coast' ? name : `${name} ${left!.toFixed(2)} ${right!.toFixed(2)}`,
      rule: lane.rule === -1 ? 0 : program.rules[lane.rule]!.urgency,
      mode: lane.mode === -1 ? '' : program.lanes[0]!.modes[lane.mode]!.name,
      events: [...vm.events],
    }
  })
}

/** The readings of a course, tick by tick: they stay until they are changed, every device looks in every tick, and the robot stands. */
export function inputsOf(course: readonly Readonly<Record<string, number>>[]): readonly VmInput[] {
  const raw = new Float64Array(facts.readingCount)
  raw[column('sonar.distance')] = Infinity
  return course.map((set, tick) => {
    for (const [name, value] of Object.entries(set)) raw[column(name)] = value
    return { raw: raw.slice(), looks: new Float64Array(facts.readingCount).fill(tick + 1), began: new Float64Array(facts.readingCount).fill(tick), still: true }
  })
}

/** The same set of readings for a number of ticks. */
export const hold = (ticks: number, set: Readonly<Record<string, number>> = {}): Readonly<Record<string, number>>[] =>
  Array.from({ length: ticks }, (_, i) => i === 0 ? set : {})

/** A demo project's robot, arena and task. */
export function demoParts(arena: string, task: string | null, robot = 'limpet'): ProjectParts {
  const read = readProject({ robot: demo(`robots/${robot}.json`), arena: demo(`arenas/${arena}.json`), task: task === null ? null : demo(`tasks/${task}.json`) })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

export function simulate(parts: ProjectParts, program: string | null, options: { seed?: number, realism?: 'ideal' | 'typical' | 'rough', limit?: number } = {}): Simulation {
  return new Simulation({
    ...parts, program: program === null ? null : compile(program, factsOf(parts.robot)),
    seed: options.seed ?? 1, realism: options.realism ?? 'typical', limit: options.limit ?? parts.task?.limit ?? 20,
  })
}

/** All that a run of a demo project is made of. */
export function demoInputs(project: string, { realism, seed }: { realism: RealismName, seed: number }): RunInputs {
  const dir = `projects/${project}`
  const file = demo(`${dir}/project.json`) as { robot: string, arena: string, task?: string }
  const at = (path: string): unknown => demo(`${dir}/${path}`)
  return { robot: at(file.robot), arena: at(file.arena), task: file.task === undefined ? null : at(file.task), program: demoText(`${dir}/program.mindpath`), realism, seed, limit: null }
}

/** A demo project before its first tick; `limit` in seconds, the task's own where there is none. */
export async function openDemo(project: string, { realism, seed, limit = null }: { realism: RealismName, seed: number, limit?: number | null }): Promise<Simulation> {
  const opened = await openRun({ ...demoInputs(project, { realism, seed }), limit })
  if (!opened.ok) throw new Error(`${project}: ${JSON.stringify([opened.problems, opened.diagnostics])}`)
  return opened.simulation
}

/** A document that a test changes before it is read. */
export type Doc = Record<string, any>

/** A demo robot on a bare deck of 4 m by 3 m, at (1 m, 1 m), with a program or by hand. */
export function build(robot: string, program: string | null, options: { arena?: object, change?: (r: Doc) => void, realism?: 'ideal' | 'typical' | 'rough', limit?: number, seed?: number } = {}): Simulation {
  const doc = demo(`robots/${robot}.json`) as Doc
  options.change?.(doc)
  const read = readProject({ robot: doc, arena: { mindpath: 'arena', version: 1, name: 'bare', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'], heading: '0 deg' }, ...options.arena }, task: null })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const checked = program === null ? null : checkProgram(program, factsOf(read.value.robot))
  if (checked !== null && !checked.runs) throw new Error(checked.diagnostics.map(d => d.message).join('\n'))
  return new Simulation({ ...read.value, program: checked === null ? null : compileProgram(checked.analysis), realism: options.realism ?? 'ideal', seed: options.seed ?? 1, limit: options.limit ?? 20 })
}
/** A reading by its name, in a row; in the newest one unless told otherwise. */
export const reading = (s: Simulation, name: string, row = s.tape.row): number => {
  const [device, which] = name.split('.')
  const d = s.facts.devices.find(x => x.name === device)!
  return row[s.tape.layout.readings + d.first + d.readings.findIndex(r => r.name === which)]!
}
/** The same, run to its end. */
export function ran(...given: Parameters<typeof build>): Simulation {
  const s = build(...given)
  s.runToEnd()
  return s
}

/** Loops one in another in which no time passes, and a lane that tells how often they went round. */
export const ENDLESS = `memory outer = 0
memory inner = 0
start
  wait 0.04 s
  repeat
    set outer = outer + 1
    repeat 7 times
      if inner > 100
        set inner = inner + 1
      else
        set inner = inner + 2
lane b
  when every 0.06 s -> note "{outer} {inner}"
`
