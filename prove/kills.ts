import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, readdirSync, rmSync, watch } from 'node:fs'
import { createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readFolder } from '../cli/project'
import { readKept, writeKept } from '../core/runs/kept'
import { openRun } from '../core/simulation'

/** What came of killing the server again and again. */
export interface Kills {
  readonly kills: number
  /** Saves that were answered before a kill, and those of them that were not there afterwards. */
  readonly answered: number
  readonly lost: number
  /** What a start after a kill lacked, a line each; empty when all came up complete. */
  readonly incomplete: readonly string[]
}

/** What a data folder begins with. */
const COMPLETE = { projects: readdirSync('demo/projects').length, robots: readdirSync('demo/robots').length, arenas: readdirSync('demo/arenas').length }

/** A port of this machine that nothing listens on. */
export function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const probe = createServer()
    probe.on('error', reject)
    probe.listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as { port: number }
      probe.close(() => resolve(port))
    })
  })
}

function begin(port: number, data: string): ChildProcess {
  return spawn(process.execPath, ['.output/server/index.mjs'], { env: { ...process.env, PORT: String(port), HOST: '127.0.0.1', MINDPATH_DATA: data }, stdio: 'ignore' })
}

const ended = (server: ChildProcess): Promise<unknown> => server.exitCode !== null || server.signalCode !== null ? Promise.resolve() : new Promise(r => server.once('exit', r))

async function up(port: number): Promise<string | null> {
  for (let i = 0; i < 400; i++) {
    try {
      const status = await (await fetch(`http://127.0.0.1:${port}/api/status`)).json() as { notice: string | null }
      return status.notice
    } catch {
      await new Promise(r => setTimeout(r, 25))
    }
  }
  return 'it did not start'
}

/** Kills the first start of a new folder at its first, second, third … file event, and starts again: all must be there. */
export async function killFirstStarts(count: number, tell: (line: string) => void = () => undefined): Promise<Kills> {
  const incomplete: string[] = []
  for (let n = 0; n < count; n++) {
    const data = mkdtempSync(join(tmpdir(), 'mindpath-kill-'))
    const first = begin(await freePort(), data)
    let events = 0
    const watcher = watch(data, () => { if (events++ === n) first.kill('SIGKILL') })
    // The later ones may never come: then a kill by the clock, at other moments.
    const late = setTimeout(() => first.kill('SIGKILL'), 600 + n * 11)
    await ended(first)
    clearTimeout(late)
    watcher.close()
    const port = await freePort()
    const second = begin(port, data)
    const notice = await up(port)
    if (notice !== null) incomplete.push(`kill ${n}: ${notice}`)
    else {
      const projects = await (await fetch(`http://127.0.0.1:${port}/api/projects`)).json() as unknown[]
      const kept = async (kind: string): Promise<number> => (await (await fetch(`http://127.0.0.1:${port}/api/shelf/${kind}`)).json() as { kept: unknown[] }).kept.length
      const [robots, arenas] = [await kept('robot'), await kept('arena')]
      if (projects.length !== COMPLETE.projects || robots !== COMPLETE.robots || arenas !== COMPLETE.arenas) incomplete.push(`kill ${n}: ${projects.length} projects, ${robots} robots, ${arenas} arenas`)
    }
    second.kill('SIGKILL')
    await ended(second)
    rmSync(data, { recursive: true, force: true })
    tell(`first start ${n + 1} of ${count}: ${incomplete.length} incomplete`)
  }
  return { kills: count, answered: 0, lost: 0, incomplete }
}

/** Kills a server while programs are being saved one after another; every save that was answered must be there afterwards. */
export async function killSaves(count: number, tell: (line: string) => void = () => undefined): Promise<Kills> {
  const data = mkdtempSync(join(tmpdir(), 'mindpath-kill-'))
  const incomplete: string[] = []
  let answered = 0
  let lost = 0
  let last = ''
  let id = ''
  for (let n = 0; n < count; n++) {
    const port = await freePort()
    const server = begin(port, data)
    const notice = await up(port)
    if (notice !== null) incomplete.push(`start ${n}: ${notice}`)
    const call = async (path: string, body?: unknown): Promise<unknown> => (await fetch(`http://127.0.0.1:${port}${path}`, body === undefined ? {} : { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) })).json()
    if (id === '') id = (await call('/api/projects', { title: 'Killed' }) as { id: string }).id
    const project = await call(`/api/projects/${id}`) as { program: string, revision: number }
    // A save that was under way may be there or not; an older text may not be.
    if (last !== '' && Number(/\d+/.exec(project.program)?.[0] ?? -1) < Number(/\d+/.exec(last)![0])) lost++
    let { revision } = project
    let timer: NodeJS.Timeout | undefined
    for (let k = 0; server.exitCode === null && server.signalCode === null; k++) {
      const text = `# ${n * 10_000 + k}\n`
      try {
        const saved = await call(`/api/projects/${id}/revisions`, { base: revision, program: text }) as { revision?: number }
        if (saved.revision === undefined) break
        ({ revision } = saved as { revision: number })
        last = text
        answered++
        // The clock begins at the first answer, so that a slow machine kills in the middle too.
        timer ??= setTimeout(() => server.kill('SIGKILL'), (n * 37) % 260)
      } catch {
        break
      }
    }
    clearTimeout(timer)
    server.kill('SIGKILL')
    await ended(server)
    tell(`kill ${n + 1} of ${count}: ${answered} saves answered, ${lost} lost`)
  }
  rmSync(data, { recursive: true, force: true })
  return { kills: count, answered, lost, incomplete }
}

/** Kills a server while runs are being kept one after another: each that was answered must be there afterwards, with its file, and none without. */
export async function killKeeps(count: number, tell: (line: string) => void = () => undefined): Promise<Kills> {
  const { documents, program } = await readFolder('demo/projects/kiss-the-fender')
  const inputs = { ...documents, program, realism: 'typical', seed: 1, limit: 3 } as const
  const opened = await openRun(inputs)
  if (!opened.ok) throw new Error('the demo cannot run')
  opened.simulation.runToEnd()
  const file = writeKept('killed', inputs, opened.simulation)
  opened.simulation.free()
  const data = mkdtempSync(join(tmpdir(), 'mindpath-kill-'))
  const incomplete: string[] = []
  const answered: string[] = []
  let lost = 0
  let project = ''
  for (let n = 0; n <= count; n++) {
    const port = await freePort()
    const address = `http://127.0.0.1:${port}`
    const server = begin(port, data)
    const notice = await up(port)
    if (notice !== null) incomplete.push(`start ${n}: ${notice}`)
    if (project === '') project = ((await (await fetch(`${address}/api/projects`)).json()) as { id: string }[])[0]!.id
    const { runs } = await (await fetch(`${address}/api/projects/${project}/runs`)).json() as { runs: { id: string }[] }
    lost += answered.filter(id => !runs.some(r => r.id === id)).length
    for (const { id } of runs.slice(0, 5)) {
      if (!readKept(new Uint8Array(await (await fetch(`${address}/api/runs/${id}`)).arrayBuffer())).ok) incomplete.push(`start ${n}: run ${id} is only half there`)
    }
    let timer: NodeJS.Timeout | undefined
    if (n === count) server.kill('SIGKILL')
    while (server.exitCode === null && server.signalCode === null) {
      try {
        const answer = await fetch(`${address}/api/projects/${project}/runs`, { method: 'POST', headers: { 'content-type': 'application/octet-stream' }, body: file })
        answered.push((await answer.json() as { id: string }).id)
        timer ??= setTimeout(() => server.kill('SIGKILL'), (n * 53) % 400)
      } catch {
        break
      }
    }
    clearTimeout(timer)
    server.kill('SIGKILL')
    await ended(server)
    tell(`kill ${n + 1} of ${count}: ${answered.length} runs answered, ${lost} lost`)
  }
  rmSync(data, { recursive: true, force: true })
  return { kills: count, answered: answered.length, lost, incomplete }
}
