import { availableParallelism } from 'node:os'
import { writeFile } from 'node:fs/promises'
import { basename } from 'node:path'
import { InvalidArgumentError, Option, type Command } from 'commander'
import Piscina from 'piscina'
import { REALISMS, type RealismName } from '../core/devices'
import { checkProgram, compileProgram } from '../core/language'
import { factsOf } from '../core/robot'
import { readProject, type ProjectParts } from '../core/simulation'
import { answersOf, dialValues, readPlan, runsOf, saidOf, trialsCsv, PLAN_VERSION, type Trial, type TrialBasis, type TrialPlan } from '../core/trials'
import { readJson, readText } from './files'
import { errorLines, problemLines, readFolder } from './project'
import { numberFrom, pairs, UsageError, type Exit } from './usage'

type Pairs = readonly (readonly [string, string])[]
interface Options {
  readonly plan?: string, readonly seeds: string, readonly realism: readonly RealismName[], readonly programs?: readonly string[]
  readonly dial?: Pairs, readonly world?: Pairs, readonly seconds?: number, readonly json?: true, readonly csv?: string, readonly workers: number, readonly atLeast?: number
}

/** Milliseconds between two words about how far it is. */
const TELL = 5000

/** Runs a project many times. 0 when every program met its goals as often as is demanded, 1 when not, 2 when it could not run, 130 when it was stopped. */
export function addTrials(program: Command, exit: Exit): void {
  program.command('trials').description('Runs a project many times: how dependable is it, which program is better, which number is best?').argument('<project>', 'a folder, such as demo/projects/night-rounds, or a zip of one')
    .option('--plan <file>', 'what is tried, as JSON; the options below say it too')
    .option('--seeds <a..b>', 'the first and the last seed', '1..20')
    .addOption(new Option('--realism <names>', `of ${REALISMS.join(', ')}`).argParser(realisms).default(['typical'], 'typical'))
    .option('--programs <files>', 'which programs, as in program.mindpath,other.mindpath; its own', (text: string) => text.split(',').map(name => name.trim()))
    .option('--dial <name=a..b:n>', 'n values of a dial from a to b', pairs('near=10 cm..40 cm:7'))
    .option('--world <name=a..b>', 'how worlds differ from the arena: grip, light, east, north, turn', pairs('grip=0.5..1 or turn=-10 deg..10 deg'))
    .option('--seconds <s>', 'when each run ends at the latest', numberFrom(0.02, 3600))
    .option('--csv <file>', 'where every run goes, a line each')
    .option('--json', 'what it came to, in one line')
    .option('--workers <n>', 'threads that run them', numberFrom(1, 256, true), availableParallelism())
    .option('--at-least <share>', 'exit 1 where a program meets its goals less often', share)
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
  const { basis, parts } = await basisOf(folder, options)
  const count = runsOf(basis.plan, basis.programs.length)
  const done = await runAll(basis, count, options.workers)
  const goals = parts.task?.goals.map(g => g.sentence) ?? []
  const answers = answersOf(basis, done.trials, done.refused)
  if (options.csv !== undefined) await writeFile(options.csv, [...trialsCsv(basis, done.trials, goals)].join(''))
  if (options.json === true) process.stdout.write(`${JSON.stringify({ plan: basis.plan, programs: basis.programs.map(p => p.name), goals, runs: done.trials.length, ...answers })}\n`)
  else process.stdout.write(`${saidOf(basis, answers, goals).join('\n')}\n`)
  if (done.stopped) return 130
  if (answers.refused.length > 0 && done.trials.length === 0) return 2
  return options.atLeast !== undefined && answers.results.some(r => r.share.value < options.atLeast!) ? 1 : 0
}

/** Reads all that runs are made of, and checks it before the first of them. */
async function basisOf(folder: string, options: Options): Promise<{ readonly basis: TrialBasis, readonly parts: ProjectParts }> {
  const read = readPlan(options.plan === undefined ? planFrom(options) : await readJson(options.plan))
  if (!read.ok) throw new UsageError(read.problems.map(p => `${options.plan ?? 'the plan'}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  const plan = read.value
  const project = await readFolder(folder)
  const parts = readProject(project.documents)
  if (!parts.ok) throw new UsageError(problemLines(parts.problems, project.pathOf))
  const texts = options.programs === undefined ? [{ path: project.programPath, text: project.program }] : await Promise.all(options.programs.map(async path => ({ path, text: await readText(path) })))
  const facts = factsOf(parts.value.robot)
  const programs = texts.map(({ path, text }) => {
    const { runs, analysis, diagnostics } = checkProgram(text, facts)
    if (!runs) throw new UsageError(`the program cannot run\n${errorLines(path, text, diagnostics)}`)
    const values = dialValues(plan, analysis.lanes.length === 0 ? null : compileProgram(analysis))
    if (!values.ok) throw new UsageError(values.problems.map(p => `${path}: --dial ${p.path.replace('dials.', '')}=${p.value}: ${p.message}`).join('\n'))
    return { name: basename(path).replace(/\.mindpath$/, ''), text, values: values.value }
  })
  return { basis: { documents: project.documents, programs, plan }, parts: parts.value }
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
    world: Object.fromEntries(world.map(([name, value]) => [name, ends(value, `--world ${name}`).map(end => name === 'grip' || name === 'light' ? Number(end) : end)])),
  }
}

interface Done { readonly trials: readonly Trial[], readonly refused: readonly string[], readonly stopped: boolean }

/** Does all jobs on threads, telling how far it is; Ctrl-C ends it with what there is. */
async function runAll(basis: TrialBasis, count: number, workers: number): Promise<Done> {
  const pool = new Piscina({ filename: new URL('./trials.worker.mjs', import.meta.url).href, minThreads: Math.min(workers, count), maxThreads: Math.min(workers, count), workerData: basis })
  const found: Trial[] = []
  const refused: string[] = []
  const begun = Date.now()
  let [next, stopped] = [0, false]
  const stop = (): void => { stopped = true }
  process.on('SIGINT', stop)
  const tell = setInterval(() => {
    const n = found.length + refused.length
    const rate = n / (Date.now() - begun) * 1000
    process.stderr.write(`mindpath: ${n} of ${count} runs, ${rate.toFixed(1)} a second${rate > 0 ? `, about ${Math.ceil((count - n) / rate)} s left` : ''}\n`)
  }, TELL)
  // A few more are asked for than there are threads: none waits for the next.
  const lane = async (): Promise<void> => {
    while (!stopped && next < count) {
      const answer = await pool.run(next++) as Trial | string
      if (typeof answer === 'string') refused.push(answer)
      else found.push(answer)
    }
  }
  try {
    await Promise.all(Array.from({ length: 2 * workers }, lane))
  } finally {
    clearInterval(tell)
    process.off('SIGINT', stop)
    await pool.destroy()
  }
  return { trials: found.sort((a, b) => a.number - b.number), refused, stopped }
}
