import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { mean } from 'simple-statistics'
import { readFolder } from '../cli/project'
import { loadPhysics } from '../core/physics'
import type { ProgramData } from '../core/program'
import { factsOf, readRobot, type RobotFacts } from '../core/robot'
import { openRun } from '../core/simulation'
import { DEFAULT_LIMIT } from '../core/task'
import type { VmInput } from '../core/vm'
import { CALLS, exportTo } from '../core/export'
import { cyclesOf, type Cycles } from '../core/export/arduino'
import { takesOf } from '../core/export/micropython'
import { BOARDS, wiringOn } from '../core/hardware'
import { Chip, cppNarrow } from './export/arduino'
import { difference, firstDifference, ranHere } from './export/held-against'
import { Interpreter } from './export/interpreter'
import { randomExports } from './export/random'
import { ATMEGA, ATMEGA_LONG, Sketches, type Sketch } from './export/sketch'
import type { Target } from './export/ran'
import { demoProjects } from './fingerprints'

/** Programs carried to a board against the machine here, as far as interpreters and simulated chips stand in for one. */

const ROBOTS = ['limpet', 'cuttle', 'winkle', 'heron']

export interface Held { readonly project: string, readonly ticks: number, readonly differs: string | null }

/** A demo project's program on the courses of rough runs: of as many seeds as come to so many ticks. */
async function* coursesOf(project: string, ticks: number): AsyncGenerator<{ readonly program: ProgramData, readonly facts: RobotFacts, readonly text: string, readonly seed: number, readonly course: readonly VmInput[] }> {
  const { documents, program: text } = await readFolder(join('demo/projects', project))
  for (let seed = 1, done = 0; done < ticks; seed++) {
    const opened = await openRun({ ...documents, program: text, realism: 'rough', seed, limit: DEFAULT_LIMIT })
    if (!opened.ok) throw new Error(`${project}: ${JSON.stringify([opened.problems, opened.diagnostics])}`)
    const { simulation } = opened
    const recorded = simulation.recordCourse()
    simulation.runToEnd()
    const { input, facts } = simulation
    const course = recorded.map(c => c.input)
    done += course.length
    simulation.free()
    yield { program: input.program!, facts, text, seed, course }
  }
}

/** Every demo project's program in another language, on the courses of rough runs. `target`: one for each project. */
export async function demosIn(target: () => Promise<Target>, ticks: number, tell: (text: string) => void): Promise<readonly Held[]> {
  await loadPhysics()
  const held: Held[] = []
  for (const project of demoProjects()) {
    const own = await target()
    let done = 0
    let differs: string | null = null
    for await (const { program, facts, text, seed, course } of coursesOf(project, ticks)) {
      differs ??= withSeed(seed, difference(own, program, facts, text, seed, course))
      done += course.length
    }
    held.push({ project, ticks: done, differs })
    tell(`${project}: ${done} ticks, ${differs ?? 'equal'}`)
  }
  return held
}

const withSeed = (seed: number, differs: string | null): string | null => differs === null ? null : `seed ${seed}, ${differs}`

/** How near to one another numbers of 32 bits come, worked out by a chip and by this machine; and those to numbers of 64. */
const CHIP_RESOLUTION = 2e-5
const NARROW_RESOLUTION = 2e-4

export interface HeldOnChip extends Held {
  /** How many ticks went as with numbers of 64 bits before one was other; all, where none was. */
  readonly asHere: number
  /** Clock cycles of a tick, of the program alone: on average, and the longest. */
  readonly mean: number
  readonly longest: number
  /** Those that were expected beforehand. */
  readonly expected: Cycles
  /** Bytes of the program alone, without its parts. */
  readonly flash: number
  readonly memory: number
  readonly stack: number
}

/** Every demo project's program on a simulated chip with 8 bits: against the same C++ with numbers of 32 bits here, and against the machine here, which has 64. */
export async function demosOnChip(ticks: number, tell: (text: string) => void): Promise<readonly HeldOnChip[]> {
  await loadPhysics()
  const chip = Chip.make()
  const held: HeldOnChip[] = []
  for (const project of demoProjects()) {
    const cycles: number[] = []
    let [done, asHere, stack] = [0, 0, 0]
    let differs: string | null = null
    let expected: Cycles = { usual: 0, longest: 0 }
    for await (const { program, facts, text, seed, course } of coursesOf(project, ticks)) {
      const there = chip.run(program, facts, text, seed, course)
      expected = cyclesOf(program, facts.tick)
      differs ??= withSeed(seed, firstDifference(cppNarrow.run(program, facts, text, seed, course), there, CHIP_RESOLUTION))
      const border = firstDifference(ranHere(program, facts, seed, course), there, NARROW_RESOLUTION)
      asHere += border === null ? course.length : Number(/^tick (\d+)/.exec(border)![1])
      done += course.length
      stack = Math.max(stack, chip.took.stack)
      for (const c of chip.took.cycles) cycles.push(c)
    }
    const { flash, memory } = chip.took
    const h: HeldOnChip = { project, ticks: done, differs, asHere, mean: mean(cycles), longest: cycles.reduce((a, b) => Math.max(a, b), 0), expected, flash, memory, stack }
    held.push(h)
    tell(chipLine(h))
  }
  chip.free()
  return held
}

export const chipLine = (h: HeldOnChip): string =>
  `${h.project}: ${h.ticks} ticks, ${h.differs ?? 'equal to 32 bits here'}, ${h.asHere === h.ticks ? 'and to 64' : `to 64 in ${h.asHere}`}; ${Math.round(h.mean)} cycles a tick (${Math.round(h.expected.usual)} expected), ${h.longest} at most (${Math.round(h.expected.longest)}); ${h.flash} bytes of flash, ${h.memory} and ${h.stack} of memory`

/** A demo project's whole sketch for a board: bytes that it takes, and those that were expected beforehand; why there is none. */
export interface SketchSize { readonly project: string, readonly board: string, readonly sketch: Sketch | null, readonly why: string, readonly room: boolean }

/** Every demo project's sketch, with its drivers, for the boards with 8 bits. */
export async function demoSketches(tell: (text: string) => void): Promise<readonly SketchSize[]> {
  const compiled = new Sketches()
  const sizes: SketchSize[] = []
  for (const project of demoProjects()) {
    const { documents, program } = await readFolder(join('demo/projects', project))
    const read = readRobot(documents.robot)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    for (const board of [ATMEGA, ATMEGA_LONG]) {
      let size: SketchSize
      try {
        const sketch = compiled.compile(program, read.value, board)
        size = { project, board: board.name, sketch, why: '', room: sketch.flash <= board.flash && sketch.memory + CALLS <= board.memory }
      } catch (error) {
        if (!(error instanceof RangeError)) throw error
        size = { project, board: board.name, sketch: null, why: error.message, room: false }
      }
      sizes.push(size)
      tell(sketchLine(size))
    }
  }
  compiled.free()
  return sizes
}

export const sketchLine = ({ project, board, sketch, why, room }: SketchSize): string => sketch === null ? `${project} on ${board}: ${why}`
  : `${project} on ${board}: ${sketch.flash} bytes of flash (${sketch.expected.flash} expected), ${sketch.memory} of memory (${sketch.expected.memory} expected)${room ? '' : ': no room'}${sketch.missing.length === 0 ? '' : `, without ${sketch.missing.join(', ')}`}`

/** Bytes that a demo project's files take of an interpreter's memory, and those that were expected beforehand. */
export interface Kept { readonly project: string, readonly taken: number, readonly expected: number }

/** Every demo project's files for a board with MicroPython, in its interpreter. */
export async function demosKept(tell: (text: string) => void): Promise<readonly Kept[]> {
  const board = BOARDS.find(b => b.name === 'rp2040')!
  const kept: Kept[] = []
  for (const project of demoProjects()) {
    const { documents, program: text } = await readFolder(join('demo/projects', project))
    const read = readRobot(documents.robot)
    if (!read.ok) throw new Error(JSON.stringify(read.problems))
    const made = exportTo('micropython', { text, robot: read.value, board, wiring: wiringOn(read.value, board).wiring, seed: 1 })
    if (!made.ok) throw new Error(`${project}: ${made.says}`)
    const files = Object.fromEntries(Object.entries(made.files).filter(([name]) => name.endsWith('.py')))
    const k = { project, taken: (await Interpreter.load()).memoryOf(files), expected: takesOf(files).memory }
    kept.push(k)
    tell(keptLine(k))
  }
  return kept
}

export const keptLine = (k: Kept): string => `${k.project} under MicroPython: ${k.taken} bytes kept (${k.expected} expected)`

/** docs/hardware.md with its tables of what a chip did, of what sketches take, and of what MicroPython keeps. */
export function withChip(page: string, chip: readonly HeldOnChip[], sketches: readonly SketchSize[], kept: readonly Kept[]): string {
  const number = (x: number): string => Math.round(x).toLocaleString('en')
  const ran = chip.map(h => `| ${h.project} | ${number(h.ticks)} | ${h.differs === null ? 'in each' : h.differs} | ${h.asHere === h.ticks ? 'in each' : `in ${number(h.asHere)}`} | ${number(h.mean)} (${number(h.expected.usual)}) | ${number(h.longest)} (${number(h.expected.longest)}) | ${number(h.flash)} | ${number(h.memory)}, ${number(h.stack)} |`)
  const taken = sketches.map(({ project, board, sketch, why, room }) => `| ${project} | ${board} | ${sketch === null
    ? `cannot be wired: ${why.replace(/^.*; /, '')} | | |`
    : `${number(sketch.flash)} (${number(sketch.expected.flash)}) | ${number(sketch.memory)} (${number(sketch.expected.memory)}) | ${[...room ? [] : ['**no room**'], ...sketch.missing.length === 0 ? [] : [`without ${sketch.missing.join(', ')}`]].join('; ')} |`}`)
  const table = (name: string, head: readonly string[], rows: readonly string[]): readonly [RegExp, string] => [
    new RegExp(`<!-- ${name} -->[^]*<!-- /${name} -->`), [`<!-- ${name} -->`, `| ${head.join(' | ')} |`, `|${' --- |'.repeat(head.length)}`, ...rows, `<!-- /${name} -->`].join('\n'),
  ]
  return [
    table('chip', ['program', 'ticks', 'equal to 32 bits', 'equal to 64', 'cycles a tick', 'at most', 'bytes of flash', 'of memory, on the stack'], ran),
    table('sketches', ['sketch', 'board', 'bytes of flash', 'of memory', ' '], taken),
    table('kept', ['program', 'bytes kept'], kept.map(k => `| ${k.project} | ${number(k.taken)} (${number(k.expected)}) |`)),
  ].reduce((text, [place, rows]) => text.replace(place, () => rows), page)
}

/** How far what is expected of a sketch may be from what a compiler makes of it, as a share. */
const EXPECTED = { memory: 0.06, flash: 0.15, kept: 0.2 }
/** Cycles are of what may come in a tick: what is expected may be more than ever came, and hardly less. */
const LEAST_EXPECTED = 0.75
export const keptAsExpected = ({ taken, expected }: Kept): boolean => Math.abs(expected / taken - 1) <= EXPECTED.kept
export const inTime = ({ mean, longest, expected }: HeldOnChip): boolean => expected.usual >= LEAST_EXPECTED * mean && expected.longest >= LEAST_EXPECTED * longest
export const asExpected = ({ sketch }: SketchSize): boolean => sketch === null
  || (Math.abs(sketch.expected.memory / sketch.memory - 1) <= EXPECTED.memory && Math.abs(sketch.expected.flash / sketch.flash - 1) <= EXPECTED.flash)

/** Random programs in another language on random readings, shared out over the demo robots, of which every `every`th runs; what differed. */
export async function randomIn(target: () => Promise<Target>, count: number, ticks: number, every: number, tell: (text: string) => void): Promise<readonly string[]> {
  const wrong: string[] = []
  for (const robot of ROBOTS) wrong.push(...randomExports(await target(), robot, factsOfDemo(robot), Math.ceil(count / ROBOTS.length), ticks, every, tell))
  return wrong
}

function factsOfDemo(robot: string): RobotFacts {
  const read = readRobot(JSON.parse(readFileSync(`demo/robots/${robot}.json`, 'utf8')))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return factsOf(read.value)
}
