import { availableParallelism } from 'node:os'
import { mkdir, writeFile } from 'node:fs/promises'
import { basename, join } from 'node:path'
import { InvalidArgumentError, Option, type Command } from 'commander'
import { REALISMS, type RealismName } from '../core/devices'
import { runKept } from '../core/runs/kept'
import type { ProjectDocuments, ProjectParts } from '../core/simulation'
import { CHANCE, LEAST_BUDGET_TO_FAIL, LEAST_BUDGET_TO_FIND, MOST_RUNS, answersOf, arenaWith, batchOf, findFailure, findValues, findingSaid, inputsOf, isSure, jobOf, readBasis, readPlan, runsOf, saidOf, sensitivityOf, sensitivitySaid, trialsCsv, worldSaid, worstSaid, PLAN_VERSION, ofTheRobot, variationOf, type Answers, type CheckedPlan, type Drawn, type Trial, type TrialBasis, type TrialPlan } from '../core/trials'
import { readJson, readText } from './files'
import { problemLines, readFolder } from './project'
import { QueueRunner } from '../jobs/queue'
import type { Runner } from '../jobs/runner'
import { Threads } from '../jobs/threads'
import { Crew } from './crew'
import { queueAddress, reached } from './queue'
import { numberFrom, pairs, UsageError, type Exit } from './usage'

type Pairs = readonly (readonly [string, string])[]
interface Options {
  readonly plan?: string, readonly seeds: string, readonly realism: readonly RealismName[], readonly programs?: readonly string[]
  readonly dial?: Pairs, readonly world?: Pairs, readonly seconds?: number, readonly json?: true, readonly csv?: string, readonly workers: number, readonly atLeast?: number, readonly find?: number, readonly sure?: number, readonly keep?: string, readonly queue?: string, readonly worst?: number
}

/** Runs a project many times. 0 when every program met its goals as often as is demanded, 1 when not, 2 when it could not run, 130 when it was stopped. */
export function addTrials(program: Command, exit: Exit): void {
  program.command('trials').description('Runs a project many times: how dependable is it, which program is better, which number is best?').argument('<project>', 'a folder, such as demo/projects/night-rounds, or a zip of one')
    .option('--plan <file>', 'what is tried, as JSON; the options below say it too')
    .option('--seeds <a..b>', 'the first and the last seed', '1..20')
    .addOption(new Option('--realism <names>', `of ${REALISMS.join(', ')}`).argParser(realisms).default(['typical'], 'typical'))
    .option('--programs <files>', 'which programs, as in program.mindpath,other.mindpath; its own', (text: string) => text.split(',').map(name => name.trim()))
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
    .option('--find <runs>', 'finds good values of the dials within so many runs, judged on fresh seeds', numberFrom(LEAST_BUDGET_TO_FIND, MOST_RUNS, true))
    .option('--worst <runs>', 'looks within so many runs for a world (--world) in which it fails, and makes that small', numberFrom(LEAST_BUDGET_TO_FAIL, MOST_RUNS, true))
    .action(async (folder: string, options: Options) => { exit.code = await trials(folder, options) })
}

function share(text: string): number {
  const [, figure, percent] = /^(\d+(?:\.\d+)?)\s*(%?)$/.exec(text) ?? []
  const value = Number(figure) / (percent === '%' ? 100 : 1)
  if (figure === undefined || value > 1) throw new InvalidArgumentError('allowed is a share such as 95% or 0.95')
  return value
}
function realisms(text: string): readonly RealismName[] {
  return text.split(',').map((name) => {
    const found = REALISMS.find(r => r === name.trim())
    if (found === undefined) throw new InvalidArgumentError(`allowed is one or more of ${REALISMS.join(', ')}`)
    return found
  })
}

async function trials(folder: string, options: Options): Promise<number> {
  const made = await planOf(folder, options)
  const crew = new Crew(options.queue === undefined ? new Threads(options.workers) : await queueAt(options.queue))
  try {
    if (options.worst !== undefined) return await worst(made, crew, options.worst, options)
    return options.find === undefined ? await tryAll(made, crew, options) : await find(made, crew, options.find, options.json === true)
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
  const all: (Trial | string)[] = []
  const done = (): readonly Trial[] => all.filter(a => typeof a !== 'string').sort((a, b) => a.number - b.number)
  const sum = (): Answers => answersOf(basis, done(), all.filter(a => typeof a === 'string'))
  for (let from = 0; from < count && !crew.stopped; from += batch) {
    all.push(...await crew.run(basis, Array.from({ length: Math.min(batch, count - from) }, (_, i) => from + i)))
    if (sure !== null && isSure(sum(), sure)) break
  }
  const answers = sum()
  const goals = parts.task?.goals.map(g => g.sentence) ?? []
  const sensitivity = sensitivityOf(basis, done())
  const kept = options.keep === undefined ? [] : await keepExamples(options.keep, basis, answers, parts)
  if (options.csv !== undefined) await writeFile(options.csv, [...trialsCsv(basis, done(), goals)].join(''))
  if (options.json === true) process.stdout.write(`${JSON.stringify({ plan: basis.plan, programs: basis.programs.map(p => p.name), goals, runs: all.length, of: count, ...answers, sensitivity })}\n`)
  else process.stdout.write(`${[
    ...saidOf(basis, answers, goals), ...sensitivitySaid(sensitivity), ...kept,
    ...all.length < count && !crew.stopped ? [`${all.length} of ${count} runs were enough: every share is known to within ${Math.round(100 * sure!)} %`] : [],
  ].join('\n')}\n`)
  if (crew.stopped) return 130
  if (answers.refused.length > 0 && done().length === 0) return 2
  return options.atLeast !== undefined && answers.results.some(r => r.share.value < options.atLeast!) ? 1 : 0
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

/** Finds good values of the dials. 0 when they are better than the text's, 1 when that cannot be told. */
async function find({ basis: { documents, plan, programs }, compiled }: CheckedPlan, crew: Crew, budget: number, json: boolean): Promise<number> {
  const [program] = programs
  if (programs.length !== 1 || plan.realisms.length !== 1 || plan.dials.length === 0 || compiled[0] == null) throw new UsageError('--find looks for the values of dials (--dial NAME=FROM..TO:1) of one program in one realism')
  const found = await findValues({ documents, text: program!.text, program: compiled[0], plan, budget }, (basis, numbers) => crew.run(basis, numbers), line => { process.stderr.write(`mindpath: ${line}\n`) })
  process.stdout.write(json ? `${JSON.stringify(found)}\n` : `${findingSaid(found).join('\n')}\n`)
  if (crew.stopped) return 130
  return found.comparison.more.value > 0 && found.comparison.chance < CHANCE || found.comparison.timeChance < CHANCE && (found.comparison.slower?.value ?? 0) < 0 ? 0 : 1
}

/** Looks for a world in which a program fails. 0 when none was found, 1 when one was. */
async function worst({ basis: { documents, plan, programs }, parts }: CheckedPlan, crew: Crew, budget: number, { json, keep }: Options): Promise<number> {
  const [program] = programs
  if (programs.length !== 1 || plan.realisms.length !== 1 || plan.dials.length > 0 || Object.keys(plan.world).length === 0) throw new UsageError('--worst looks for a world (--world NAME=FROM..TO) in which one program fails in one realism')
  const found = await findFailure({ documents, name: program!.name, text: program!.text, plan, budget }, (basis, numbers) => crew.run(basis, numbers), line => { process.stderr.write(`mindpath: ${line}\n`) })
  const kept = found.fails === null || keep === undefined ? [] : await keepCase(keep, program!.name, { documents, plan, program: program!.text, world: found.fails.world, parts })
  process.stdout.write(json === true ? `${JSON.stringify(found)}\n` : `${[...worstSaid(found, parts.task?.goals ?? []), ...kept].join('\n')}\n`)
  if (crew.stopped) return 130
  return found.fails === null ? 0 : 1
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
  const read = readPlan(options.plan === undefined ? planFrom(options) : await readJson(options.plan))
  if (!read.ok) throw new UsageError(read.problems.map(p => `${options.plan ?? 'the plan'}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  const project = await readFolder(folder)
  const texts = options.programs === undefined ? [{ path: project.programPath, text: project.program }] : await Promise.all(options.programs.map(async path => ({ path, text: await readText(path) })))
  const checked = readBasis(project.documents, texts.map(({ path, text }) => ({ name: basename(path).replace(/\.mindpath$/, ''), text })), read.value)
  if (!checked.ok) {
    throw new UsageError(checked.problems.map((p) => {
      if (p.document === 'program') return `the program cannot run\n${p.path}: ${p.message}`
      if (p.document === 'plan') return `--${p.path.replace('dials.', 'dial ')}=${p.value}: ${p.message}`
      return problemLines([{ ...p, document: p.document }], project.pathOf)
    }).join('\n'))
  }
  return checked.value
}

/** A plan as the options say it. */
function planFrom({ seeds, realism, dial = [], world = [], seconds }: Options): Partial<Record<keyof TrialPlan, unknown>> {
  const ends = (text: string, what: string): readonly [string, string] => {
    const [, from, to] = /^(.+?)\.\.(.+)$/.exec(text) ?? []
    if (from === undefined || to === undefined) throw new UsageError(`${what} is ${text}; expected FROM..TO`)
    return [from.trim(), to.trim()]
  }
  return {
    mindpath: 'trials', version: PLAN_VERSION, seeds: ends(seeds, '--seeds').map(Number), realisms: realism, limit: seconds ?? null,
    dials: dial.map(([name, value]) => {
      const [, range, count] = /^(.*):(\d+)$/.exec(value) ?? []
      if (range === undefined) throw new UsageError(`--dial is ${name}=${value}; expected NAME=FROM..TO:COUNT, such as near=10 cm..40 cm:7`)
      const [from, to] = ends(range, `--dial ${name}`)
      return { name, from, to, count: Number(count) }
    }),
    world: Object.fromEntries(world.map(([name, value]) => [name, ends(value, `--world ${name}`).map(end => variationOf(name)?.unit === null ? Number(end) : end)])),
  }
}
