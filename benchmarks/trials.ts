import { spawn } from 'node:child_process'
import { readFolder } from '../cli/project'
import { readBasis, readPlan, type TrialBasis } from '../core/trials'
import { runJobs, shareOf } from '../jobs/runner'
import { Threads } from '../jobs/threads'

/** Trials on threads of this machine. */
export interface TrialMeasures {
  /** Runs a second of night-rounds (90 s each, typical) with one thread and with two, warm; and how many times as many two do. */
  readonly one: number
  readonly two: number
  readonly ratio: number
  /** How many times as many two processes of one thread each do at a time: they share nothing but the machine. */
  readonly apart: number
  /** Resident memory of the process after a tenth of many short runs in one thread and after all of them, bytes, and how many there were. */
  readonly memory: readonly [number, number]
  readonly short: number
}

/** Runs for each measure of speed, and before it, until the engine has made its code fast. */
const RUNS = 24
const WARM = 8
const SHORT = 10_000

export async function trialMeasures(): Promise<TrialMeasures> {
  const rounds = await basisOf('night-rounds', { seeds: [1, RUNS + WARM] })
  // By turns, so that a machine that becomes slower meanwhile slows both.
  const [one, two] = [await rateOf(rounds, 1), await rateOf(rounds, 2)]
  const [again, once] = [await rateOf(rounds, 2), await rateOf(rounds, 1)]
  const [alone, both] = [(one + once) / 2, (two + again) / 2]
  return { one: alone, two: both, ratio: both / alone, apart: await processesRatio(), memory: await memoryOver(await basisOf('kiss-the-fender', { seeds: [1, SHORT], limit: 0.1 }), SHORT), short: SHORT }
}

async function basisOf(project: string, plan: object): Promise<TrialBasis> {
  const { documents, program } = await readFolder(`demo/projects/${project}`)
  const read = readPlan({ mindpath: 'trials', version: 1, ...plan })
  const checked = read.ok ? readBasis(documents, [{ name: project, text: program }], read.value) : read
  if (!checked.ok) throw new Error(checked.problems.map(p => p.message).join('; '))
  return checked.value.basis
}

async function done(threads: Threads, basis: TrialBasis, from: number, to: number): Promise<void> {
  await runJobs(threads, shareOf(basis), Array.from({ length: to - from }, (_, i) => from + i), new AbortController().signal, (_, answer) => { if (typeof answer === 'string') throw new Error(answer) })
}

/** Runs a second. */
async function rateOf(basis: TrialBasis, count: number): Promise<number> {
  const threads = new Threads(count)
  await done(threads, basis, 0, WARM)
  const begin = performance.now()
  await done(threads, basis, WARM, WARM + RUNS)
  const seconds = (performance.now() - begin) / 1000
  await threads.close()
  return RUNS / seconds
}

/** Seconds that so many processes take at a time, each for the same runs. */
async function processes(count: number): Promise<number> {
  const begin = performance.now()
  await Promise.all(Array.from({ length: count }, () => new Promise<void>((resolve, reject) => {
    spawn(process.execPath, ['--liftoff-only', '.build/cli.mjs', 'trials', 'demo/projects/night-rounds', '--seeds', `1..${RUNS}`, '--workers', '1', '--json'], { stdio: 'ignore' })
      .on('exit', code => code === 0 ? resolve() : reject(new Error(`trials ended with ${code}`)))
  })))
  return (performance.now() - begin) / 1000
}

async function processesRatio(): Promise<number> {
  const [one, two] = [await processes(1), await processes(2)]
  const [again, once] = [await processes(2), await processes(1)]
  return 2 * (one + once) / (two + again)
}

async function memoryOver(basis: TrialBasis, count: number): Promise<readonly [number, number]> {
  const threads = new Threads(1)
  await done(threads, basis, 0, count / 10)
  const early = process.memoryUsage().rss
  await done(threads, basis, count / 10, count)
  const late = process.memoryUsage().rss
  await threads.close()
  return [early, late]
}
