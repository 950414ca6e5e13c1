import { availableParallelism } from 'node:os'
import { mkdir, writeFile } from 'node:fs/promises'
import { basename, join } from 'node:path'
import { InvalidArgumentError, Option, type Command } from 'commander'
import { RUN_REALISMS, type RunRealism } from '../core/devices'
import { runKept } from '../core/runs/kept'
import type { ProjectDocuments, ProjectParts } from '../core/simulation'
import { LEAST_RUNS, MOST_RUNS, NotYet, answersOf, arenaWith, batchOf, findingSaid, inputsOf, isSure, jobOf, readBasis, readPlan, runsOf, saidOf, search, sensitivityOf, sensitivitySaid, trialsCsv, verdictOf, worldSaid, worstSaid, PLAN_VERSION, ofTheRobot, variationOf, writtenWorld, type Answers, type CheckedPlan, type Drawn, type Outcome, type Ran, type Trial, type TrialBasis, type TrialPlan } from '../core/trials'
import { readJson } from './files'
import { problemLines, readFolder, readProgram } from './project'
import { QueueRunner } from '../jobs/queue'
import type { Runner } from '../jobs/runner'
import { Threads } from '../jobs/threads'
import { Crew } from './crew'
import { queueAddress, reached } from './queue'
import { numberFrom, pairs, UsageError, type Exit } from './usage'

type Pairs = readonly (readonly [string, string])[]
interface Options {
  readonly plan?: string, readonly seeds: string, readonly realism: readonly RunRealism[], readonly programs?: readonly string[]
  readonly dial?: Pairs, readonly world?: Pairs, readonly seconds?: number, readonly json?: true, readonly csv?: string, readonly workers: number, readonly atLeast?: number, readonly find?: number, readonly sure?: number, readonly keep?: string, readonly queue?: string, readonly worst?: number
}

/** Runs a project many times. 0 when every program met its goals as often as is demanded, 1 when not, 2 when it could not run, 130 when it was stopped. */
export function addTrials(program: Command, exit: Exit): void {
  program.command('trials').description('Runs a project many times: how dependable is it, which program is better, which number is best?').argument('<project>', 'a folder, such as demo/projects/night-rounds, or a zip of one')
    .option('--plan <file>', 'what is tried, as JSON; the options below say it too')
    .option('--seeds <a..b>', 'the first and the last seed', '1..20')
    .addOption(new Option('--realism <names>', `of ${RUN_REALISMS.join(', ')}`).argParser(realisms).default(['typical'], 'typical'))
    .option('--programs <files>', 'which programs, as in program.mindpath,other.mindpath, of the project or by their paths; its own', (text: string) => text.split(',').map(name => name.trim()))
    .option('--dial <name=a..b:n>', 'n values of a dial from a to b', pairs('near=10 cm..40 cm:7'))
    .option('--world <name=a..b>', 'how worlds differ from the arena: grip, light, noise, motors, wheels, east, north, turn, THING.east, …', pairs('grip=0.5..1 or turn=-10 deg..10 deg'))
    .option('--seconds <s>', 'when each run ends at the latest', numberFrom(0.02, 3600))
    .option('--csv <file>', 'where every run goes, a line each')
    .option('--json', 'what it came to, in one line')
    .option('--workers <n>', 'threads that run them', numberFrom(1, 256, true), availableParallelism())
    .option('--queue <address>', 'has them done by whoever serves a queue, such as redis://127.0.0.1:6379 (./mindpath worker), and not by threads', queueAddress)
    .option('--at-least <share>', 'exit 1 where a program meets its goals less often', share)
    .option('--sure <share>', 'no more seeds once every share is known to within so much, as in 5%', share)
    .option('--keep <folder>', 'where a run of every way to fail goes, with its tape, NAME.mindrun')
    .option('--find <runs>', 'finds good values of the dials within so many runs, judged on fresh seeds', numberFrom(LEAST_RUNS.values, MOST_RUNS, true))
    .option('--worst <runs>', 'looks within so many runs for a world (--world) in which it fails, and makes that small', numberFrom(LEAST_RUNS.failure, MOST_RUNS, true))
    .action(async (folder: string, options: Options) => { exit.code = await trials(folder, options) })
}

function share(text: string): number {
  const [, figure, percent] = /^(\d+(?:\.\d+)?)\s*(%?)$/.exec(text) ?? []
  const value = Number(figure) / (percent === '%' ? 100 : 1)
  if (figure === undefined || value > 1) throw new InvalidArgumentError('allowed is a share such as 95% or 0.95')
  return value
}
function realisms(text: string): readonly RunRealism[] {
  return text.split(',').map((name) => {
    const found = RUN_REALISMS.find(r => r === name.trim())
    if (found === undefined) throw new InvalidArgumentError(`allowed is one or more of ${RUN_REALISMS.join(', ')}`)
    return found
  })
}

async function trials(folder: string, options: Options): Promise<number> {
  const made = await planOf(folder, options)
  const crew = new Crew(options.queue === undefined ? new Threads(options.workers) : await queueAt(options.queue))
  try {
    return await (made.basis.plan.search === null ? tryAll : look)(made, crew, options)
  } finally {
    await crew.end()
  }
}

/** A queue that was reached. */
async function queueAt(address: string): Promise<Runner> {
  const queue = await QueueRunner.at(address, line => { process.stderr.write(`mindpath: ${line}\n`) })
  await reached(queue, address)
  return queue
}

async function tryAll({ basis, parts }: CheckedPlan, crew: Crew, options: Options): Promise<number> {
  const count = runsOf(basis.plan, basis.programs.length)
  const sure = options.sure ?? basis.plan.sure
  const batch = sure === null ? count : batchOf(basis)
  const all = new Map<number, Trial | string>()
  const ran = (): readonly Ran[] => [...all].sort(([a], [b]) => a - b).map(([number, answer]) => ({ number, basis, job: number, answer }))
  const done = (): readonly Trial[] => ran().flatMap(({ answer }) => typeof answer === 'string' ? [] : [answer])
  const sum = (): Answers => answersOf(basis, done(), [...all.values()].filter(a => typeof a === 'string'))
  for (let from = 0; from < count && !crew.stopped; from += batch) {
    for (const [number, answer] of await crew.run(basis, Array.from({ length: Math.min(batch, count - from) }, (_, i) => from + i))) all.set(number, answer)
    if (sure !== null && isSure(sum(), sure)) break
  }
  const answers = sum()
  const goals = parts.task?.goals.map(g => g.sentence) ?? []
  const sensitivity = sensitivityOf(basis, done())
  const kept = options.keep === undefined ? [] : await keepExamples(options.keep, basis, answers, parts)
  if (options.csv !== undefined) await writeFile(options.csv, [...trialsCsv(basis.plan, ran(), goals)].join(''))
  if (options.json === true) process.stdout.write(`${JSON.stringify({ plan: basis.plan, programs: basis.programs.map(p => p.name), goals, runs: all.size, of: count, ...answers, sensitivity })}\n`)
  else process.stdout.write(`${[
    ...saidOf(basis, answers, goals), ...sensitivitySaid(sensitivity), ...kept,
    ...all.size < count && !crew.stopped ? [`${all.size} of ${count} runs were enough: every share is known to within ${Math.round(100 * sure!)} %`] : [],
  ].join('\n')}\n`)
  if (crew.stopped) return 130
  if (answers.refused.length > 0 && done().length === 0) return 2
  return options.atLeast !== undefined && (answers.results.some(r => r.share.value < options.atLeast!) || answers.known.some(k => k.met.includes(false))) ? 1 : 0
}

/** Runs an example of every way to fail again with its tape, and keeps it in a folder; says how to ask why. */
async function keepExamples(folder: string, basis: TrialBasis, answers: Answers, { arena }: ProjectParts): Promise<readonly string[]> {
  await mkdir(folder, { recursive: true })
  const lines: string[] = []
  for (const { number, at } of answers.results.flatMap(r => r.failures.map(f => f.example))) {
    const job = jobOf(basis.plan, basis.programs.length, number)
    const inputs = inputsOf(basis, job, arena)
    const path = join(folder, `${basis.programs[job.program]!.name}-${job.realism}-${job.seed}${basis.plan.dials.length === 0 ? '' : `-${job.setting}`}.mindrun`)
    const kept = await runKept(basename(path, '.mindrun'), inputs)
    if (!kept.ok) continue
    await writeFile(path, kept.file)
    // What was lost by the end was lost after the last tick.
    lines.push(`kept: ${path}; ./mindpath why ${path} --at ${Math.min(at, kept.last).toFixed(2)}s`)
  }
  return lines
}

/** Looks for what a plan is to find. Of good values 0 when they are better than the text's, 1 when that cannot be told; of a failure 0 when none was found, 1 when one was; 130 when it was stopped. */
async function look(checked: CheckedPlan, crew: Crew, { json, keep }: Options): Promise<number> {
  const { basis: { documents, plan, programs: [program] }, parts } = checked
  let outcome: Outcome
  try {
    outcome = await search(checked, async (basis, numbers) => {
      const answers = await crew.run(basis, numbers)
      if (crew.stopped) throw new NotYet()
      return numbers.map(number => answers.get(number)!)
    }, line => { process.stderr.write(`mindpath: ${line}\n`) })
  } catch (error) {
    if (error instanceof NotYet) return 130
    throw error
  }
  if (outcome.for === 'values') {
    const { finding } = outcome
    process.stdout.write(json === true ? `${JSON.stringify(finding)}\n` : `${findingSaid(finding).join('\n')}\n`)
    return verdictOf(finding) === 'better' ? 0 : 1
  }
  const { worst } = outcome
  const kept = worst.fails === null || keep === undefined ? [] : await keepCase(keep, program!.name, { documents, plan, program: program!.text, world: worst.fails.world, parts })
  process.stdout.write(json === true ? `${JSON.stringify(worst)}\n` : `${[...worstSaid(worst, parts.task?.goals ?? []), ...worst.fails === null ? [] : [`as a case of a plan: ${JSON.stringify({ seed: plan.seeds[0], world: writtenWorld(worst.fails.world) })}`], ...kept].join('\n')}\n`)
  return worst.fails === null ? 0 : 1
}

/** Keeps the world in which a program fails as an arena of its own, and the run. */
async function keepCase(folder: string, name: string, { documents, plan, program, world, parts: { arena } }: { readonly documents: ProjectDocuments, readonly plan: TrialPlan, readonly program: string, readonly world: Drawn, readonly parts: ProjectParts }): Promise<readonly string[]> {
  await mkdir(folder, { recursive: true })
  const [arenaPath, runPath] = [join(folder, `${name}-fails.arena.json`), join(folder, `${name}-fails.mindrun`)]
  const changed = arenaWith(documents.arena, arena, world, plan.seeds[0])
  await writeFile(arenaPath, `${JSON.stringify(changed, null, 2)}\n`)
  // What of it is the robot's stays beside it.
  const inputs = { ...documents, arena: changed, program, realism: plan.realisms[0]!, seed: plan.seeds[0], limit: plan.limit, world: ofTheRobot(world) }
  const kept = await runKept(basename(runPath, '.mindrun'), inputs)
  if (!kept.ok) throw new Error('an arena that ran cannot be opened')
  await writeFile(runPath, kept.file)
  return [`kept: ${arenaPath}, an arena of its own with seed ${plan.seeds[0]}${Object.keys(ofTheRobot(world)).length === 0 ? '' : ` (it fails with ${worldSaid(ofTheRobot(world))} besides)`}; ${runPath}, the run in it`]
}

/** Reads all that runs are made of, and checks it before the first of them. */
async function planOf(folder: string, options: Options): Promise<CheckedPlan> {
  const read = readPlan(options.plan === undefined ? planFrom(options) : { ...await readJson(options.plan) as object, ...searchFrom(options) })
  if (!read.ok) throw new UsageError(read.problems.map(p => `${options.plan ?? 'the plan'}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  const project = await readFolder(folder)
  const texts = options.programs === undefined ? [{ path: project.programPath, text: project.program }] : await Promise.all(options.programs.map(path => readProgram(path, folder)))
  const checked = readBasis(project.documents, texts.map(({ path, text }) => ({ name: basename(path).replace(/\.mindpath$/, ''), text })), read.value)
  if (!checked.ok) {
    throw new UsageError(checked.problems.map((p) => {
      if (p.document === 'program') return `the program cannot run\n${p.path}: ${p.message}`
      if (p.document === 'plan') return /^(dials|world)\./.test(p.path) ? `--${p.path.replace('dials.', 'dial ').replace('world.', 'world ')}=${p.value}: ${p.message}` : `${p.path}: found ${p.value}; ${p.message}`
      return problemLines([{ ...p, document: p.document }], project.pathOf)
    }).join('\n'))
  }
  return checked.value
}

/** What is looked for, where the options say it. */
const searchFrom = ({ find, worst }: Pick<Options, 'find' | 'worst'>): Partial<Pick<TrialPlan, 'search'>> =>
  find !== undefined ? { search: { for: 'values', runs: find } } : worst !== undefined ? { search: { for: 'failure', runs: worst } } : {}

/** A plan as the options say it. */
function planFrom({ seeds, realism, dial = [], world = [], seconds, ...options }: Options): Partial<Record<keyof TrialPlan, unknown>> {
  const ends = (text: string, what: string): readonly [string, string] => {
    const [, from, to] = /^(.+?)\.\.(.+)$/.exec(text) ?? []
    if (from === undefined || to === undefined) throw new UsageError(`${what} is ${text}; expected FROM..TO`)
    return [from.trim(), to.trim()]
  }
  return {
    mindpath: 'trials', version: PLAN_VERSION, seeds: ends(seeds, '--seeds').map(Number), realisms: realism, limit: seconds ?? null,
    ...searchFrom(options),
    dials: dial.map(([name, value]) => {
      const [, range, count] = /^(.*):(\d+)$/.exec(value) ?? []
      if (range === undefined) throw new UsageError(`--dial is ${name}=${value}; expected NAME=FROM..TO:COUNT, such as near=10 cm..40 cm:7`)
      const [from, to] = ends(range, `--dial ${name}`)
      return { name, from, to, count: Number(count) }
    }),
    world: Object.fromEntries(world.map(([name, value]) => [name, ends(value, `--world ${name}`).map(end => variationOf(name)?.unit === null ? Number(end) : end)])),
  }
}
