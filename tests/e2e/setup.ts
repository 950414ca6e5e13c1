import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { freePort } from '../../prove/kills'

export { freePort }

declare module 'vitest' {
  interface ProvidedContext { address: string }
}

/** Starts the built server on a data folder; resolves when it answers. */
export async function startServer(port: number, data: string, more: Readonly<Record<string, string>> = {}): Promise<ChildProcess> {
  const server = spawn(process.execPath, ['.output/server/index.mjs'], {
    env: { ...process.env, PORT: String(port), HOST: '127.0.0.1', MINDPATH_DATA: data, ...more }, stdio: ['ignore', 'ignore', 'inherit'],
  })
  for (let i = 0; i < 300; i++) {
    try {
      if ((await fetch(`http://127.0.0.1:${port}/api/status`)).ok) return server
    } catch { /* Not up yet. */ }
    await new Promise(r => setTimeout(r, 100))
  }
  server.kill('SIGKILL')
  throw new Error('the server did not start')
}

/** A server on a data folder of its own, with the demo projects and nothing else. */
export async function serverOfItsOwn(): Promise<{ readonly address: string, readonly end: () => Promise<void> }> {
  const data = mkdtempSync(join(tmpdir(), 'mindpath-e2e-'))
  const port = await freePort()
  const server = await startServer(port, data)
  const end = async (): Promise<void> => {
    const ended = new Promise(r => server.once('exit', r))
    server.kill('SIGTERM')
    const late = setTimeout(() => server.kill('SIGKILL'), 5000)
    await ended
    clearTimeout(late)
    rmSync(data, { recursive: true, force: true })
  }
  return { address: `http://127.0.0.1:${port}`, end }
}

/** One server for most browser tests: what they make there is the others' as well. */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const { address, end } = await serverOfItsOwn()
  project.provide('address', address)
  return end
}
