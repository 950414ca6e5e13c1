import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readFolder } from '../cli/project'
import { RandomStream } from '../core/random'
import { readBasis, readPlan, runsOf } from '../core/trials'
import { QueueRunner } from '../jobs/queue'
import type { Runner } from '../jobs/runner'
import { Threads } from '../jobs/threads'
import { openDatabase } from '../server/database/open'
import { ProjectRepository } from '../server/database/projects'
import { TrialRepository } from '../server/database/trials'
import { TrialEngine } from '../server/trials/engine'
import { freePort } from './kills'

/** What came of killing workers of a queue in the middle of a plan. */
export interface QueueKills {
  readonly kills: number
  /** How often the engine was ended and begun anew. */
  readonly restarts: number
  readonly runs: number
  /** Numbers of the runs that came to something else than in an undisturbed plan, or twice, or not at all. */
  readonly others: readonly number[]
}

/** Runs of the plan, seconds each at most: enough for all kills to come in the middle. */
const SEEDS = 150
const LIMIT = 6
const WORKERS = 2
const RESTARTS = 2

/** Kills a worker so many times during a plan, whenever it pleases a seed, and begins the engine anew twice. */
export async function killQueueWorkers(count: number, tell: (line: string) => void = () => undefined): Promise<QueueKills> {
  const url = `redis://127.0.0.1:${await freePort()}`
  const redis = spawn('redis-server', ['--port', new URL(url).port, '--bind', '127.0.0.1', '--save', '', '--appendonly', 'no', '--dir', mkdtempSync(join(tmpdir(), 'mindpath-'))], { stdio: 'ignore' })
  const workers = Array.from({ length: WORKERS }, () => work(url))
  try {
    const luck = RandomStream.named(1, 'killing workers')
    let kills = 0
    let again = 0
    const queued = await plan(() => QueueRunner.at(url, tell), (done, runs) => {
      if (kills < count && done > runs * kills / (count + 1)) {
        const at = Math.floor(luck.unit() * WORKERS)
        workers[at]!.kill('SIGKILL')
        workers[at] = work(url)
        tell(`kill ${++kills} of ${count}: ${done} of ${runs} runs`)
      }
      if (again === RESTARTS || done <= runs * (again + 1) / (RESTARTS + 1)) return false
      again++
      return true
    })
    const undisturbed = await plan(() => Promise.resolve(new Threads(WORKERS)), () => false)
    const others = [...undisturbed].flatMap(([number, row]) => queued.get(number) === row ? [] : [number])
    return { kills, restarts: again, runs: queued.size, others: queued.size === undisturbed.size ? others : [...others, -1] }
  } finally {
    for (const child of [...workers, redis]) child.kill('SIGKILL')
  }
}

/** A worker in a process of its own, as on another machine. */
const work = (url: string): ChildProcess => spawn(process.execPath, ['--liftoff-only', '.build/cli.mjs', 'worker', '--queue', url, '--workers', '1', '--lost-after', '1'], { stdio: 'ignore' })

/** Has a plan done on a database of its own; what came of each run, as text, by its number. `look` sees it go and says when its engine is to be ended, which is begun anew then. */
async function plan(runner: () => Promise<Runner>, look: (done: number, runs: number) => boolean): Promise<ReadonlyMap<number, string>> {
  const { documents, program } = await readFolder('demo/projects/kiss-the-fender')
  const written = { mindpath: 'trials', version: 1, seeds: [1, SEEDS], limit: LIMIT, world: { grip: [0.5, 1], noise: [1, 2] } }
  const read = readPlan(written)
  const programs = [{ name: 'own', text: program, revision: null }]
  if (!read.ok || !readBasis(documents, programs, read.value).ok) throw new Error('the plan of the proof')
  const now = (): Date => new Date()
  const { db } = await openDatabase(mkdtempSync(join(tmpdir(), 'mindpath-')), now)
  const project = await new ProjectRepository(db, now).create('Queue', documents, program)
  const trials = new TrialRepository(db, now)
  const id = (await trials.add(project, written, programs, documents, runsOf(read.value, 1)))!
  for (let state = 'waiting'; state === 'waiting' || state === 'running';) {
    const engine = new TrialEngine(trials, await runner())
    engine.wake()
    let ended = false
    const idle = engine.idle().then(() => { ended = true })
    while (!ended && !look((await trials.doneOf(id)).size, SEEDS)) await new Promise(r => setTimeout(r, 50))
    await engine.close()
    await idle
    ;({ state } = (await trials.list(project)).find(p => p.id === id)!)
  }
  return new Map([...await trials.allOf(id)].map(([number, answer]) => [number, JSON.stringify(answer)]))
}
