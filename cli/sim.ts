import { Option, type Command } from 'commander'
import { writeFile } from 'node:fs/promises'
import { basename } from 'node:path'
import { RUN_REALISMS, type RunRealism } from '../core/devices'
import { LAST_SEED } from '../core/random'
import { columnsOf, csvOf, placeColumns, type Column } from '../core/runs'
import { writeKept } from '../core/runs/kept'
import { mapOf } from '../core/language'
import { openRun, recordOf, summarise, type ProblemIn, type Simulation } from '../core/simulation'
import { errorLines, problemLines, readFolder } from './project'
import { numberFrom, pairs, UsageError, type Exit } from './usage'

type Pairs = readonly (readonly [string, string])[]
interface Options {
  readonly program?: string, readonly seed: number, readonly realism: RunRealism, readonly seconds?: number
  readonly dial?: Pairs, readonly world?: Pairs, readonly record?: string, readonly keep?: string
  readonly csv?: string, readonly columns?: readonly string[], readonly every?: number, readonly json?: true
}

/** Runs a project headless. 0 when all goals are met, 1 when not, 2 when it could not run. */
export function addSim(program: Command, exit: Exit): void {
  program.command('sim').description('Runs a project without a screen: what it came to.').argument('<project>', 'a folder, such as demo/projects/night-rounds, or a zip of one')
    .option('--program <file>', 'another program than its own, of the project or by its path')
    .option('--seed <n>', 'which of all possible runs', numberFrom(0, LAST_SEED, true), 1)
    .addOption(new Option('--realism <name>', 'how much like real devices').choices([...RUN_REALISMS]).default('typical'))
    .option('--seconds <s>', 'when it ends at the latest', numberFrom(0.02, 3600))
    .option('--dial <name=value>', 'a dial of the program', pairs('near=12 cm'))
    .option('--world <name=value>', 'how the world differs from its arena: grip, light, noise, motors, wheels, start, THING.east, THING.north, THING.turn', pairs('grip=0.6, light=0.5 or start=50 cm, 1 m, 90 deg'))
    .option('--record <file>', 'where the run is kept, to be run again by replay')
    .option('--keep <file>', 'where the run is kept with its tape, NAME.mindrun: for replay, compare, why and the page')
    .option('--csv <file>', 'where its tape goes as comma-separated values')
    .option('--columns <names>', 'which columns, as in sonar.distance,robot.x; all', (text: string) => text.split(',').map(name => name.trim()))
    .option('--every <s>', 'seconds from one line to the next; every tick', numberFrom(0.001, 3600))
    .option('--json', 'in one line')
    .action(async (folder: string, options: Options) => { exit.code = await sim(folder, options) })
}

async function sim(folder: string, { seed, realism, seconds, ...options }: Options): Promise<number> {
  const project = await readFolder(folder, options.program)
  const dials = Object.fromEntries(options.dial ?? [])
  const world = worldOf(options.world ?? [])
  const inputs = { ...project.documents, program: project.program, realism, seed, limit: seconds ?? null, dials, world }
  const opened = await openRun(inputs)
  if (!opened.ok && opened.problems[0]?.document === 'run') throw new UsageError(opened.problems.map(optionLine).join('\n'))
  if (!opened.ok) {
    throw new UsageError(opened.problems.length > 0 ? problemLines(opened.problems, project.pathOf) : `the program cannot run\n${errorLines(project.programPath, project.program, opened.diagnostics)}`)
  }
  const { simulation } = opened
  simulation.runToEnd()
  if (options.record !== undefined) await writeFile(options.record, `${JSON.stringify(recordOf(basename(folder), inputs, simulation), null, 1)}\n`)
  if (options.keep !== undefined) await writeFile(options.keep, writeKept(basename(folder), inputs, simulation))
  if (options.csv !== undefined) await writeCsv(options.csv, simulation, project.program, options.columns, options.every ?? 0)
  const summary = summarise(simulation)
  process.stdout.write(`${JSON.stringify(summary, null, options.json === true ? 0 : 2)}\n`)
  return summary.ended !== 'error' && summary.goals.every(g => g.met) ? 0 : 1
}

async function writeCsv(path: string, { tape, facts, input }: Simulation, program: string, columns: readonly string[] | undefined, seconds: number): Promise<void> {
  const all = [...columnsOf({ facts, layout: tape.layout, program: input.program === null ? null : mapOf(input.program, program) }), ...placeColumns(tape.layout)]
  const chosen = columns?.map((name): Column => {
    const found = all.find(c => c.title === name)
    if (found === undefined) throw new UsageError(`--columns: there is no ${name}; allowed are ${all.map(c => c.title).join(', ')}`)
    return found
  }) ?? all
  await writeFile(path, [...csvOf(tape, facts, chosen, Math.max(1, Math.round(seconds / facts.tick)))].join(''))
}

/** How the world differs from its arena, as it was given: `grip=0.6`, `motors=5%`, `start=50 cm, 1 m, 90 deg`, `crate_1.east=4 cm`. */
function worldOf(given: Pairs): unknown {
  const world: Record<string, unknown> = {}
  const moved: Record<string, Record<string, string>> = {}
  for (const [name, value] of given) {
    const [thing, what] = name.split('.')
    const [x, y, heading] = value.split(',').map(v => v.trim())
    if (what !== undefined) (moved[thing!] ??= {})[what] = value
    else if (name === 'start') world['start'] = { at: [x, y], ...heading === undefined ? {} : { heading } }
    else world[name] = value.endsWith('%') ? Number(value.slice(0, -1)) / 100 : Number(value)
  }
  return Object.keys(moved).length === 0 ? world : { ...world, moved }
}

/** A problem with a setting of the run, by the option that gave it. */
function optionLine({ path, value, message }: ProblemIn): string {
  const [option, ...name] = path.split('.')
  if (option === 'realism') return `--realism ${value}: ${message}`
  return option === 'dials' ? `--dial ${name.join('.')}=${value}: ${message}` : `--world ${name.join('.')}: found ${value}; ${message}`
}
