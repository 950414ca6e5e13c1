import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Page } from 'puppeteer-core'
import { readFolder } from '../cli/project'
import { writeKept } from '../core/runs/kept'
import { openRun, type RunInputs } from '../core/simulation'
import { launchAsUsed } from '../tests/e2e/browser'
import { freePort, startServer } from '../tests/e2e/setup'

/** Kept runs on the page as it was built: how long one waits for them, and what they take. */
export interface RunMeasures {
  /** Milliseconds from the key to the first new tick on the page, from instants all over a run of two minutes, in their order. */
  readonly goingOn: readonly number[]
  /** Of kept runs of so many minutes: bytes of the file, milliseconds from the answer to the whole tape on the page, and bytes of the page's own memory then. */
  readonly opening: readonly { readonly minutes: number, readonly bytes: number, readonly time: number, readonly memory: number }[]
}

/** Runs of these many minutes are opened. */
const MINUTES = [2, 10, 60] as const
/** And gone on from at these shares of the first of them. */
const SHARES = [0.02, 0.2, 0.37, 0.5, 0.63, 0.8, 0.97] as const

/** Rows as they come from the worker, with the time at which they came. */
interface Heard { readonly at: number, readonly from: number, readonly rows: number, readonly end: boolean }

export async function runMeasures(): Promise<RunMeasures> {
  const { documents, program } = await readFolder('demo/projects/night-rounds')
  const data = mkdtempSync(join(tmpdir(), 'mindpath-bench-'))
  const port = await freePort()
  const server = await startServer(port, data)
  const browser = await launchAsUsed()
  try {
    const home = `http://127.0.0.1:${port}`
    const post = async (path: string, body: string | Uint8Array<ArrayBuffer>): Promise<string> => {
      const answer = await fetch(`${home}${path}`, { method: 'POST', headers: { 'connection': 'close', 'content-type': typeof body === 'string' ? 'application/json' : 'application/octet-stream' }, body })
      if (!answer.ok) throw new Error(`${path}: ${await answer.text()}`)
      return (await answer.json() as { id: string }).id
    }
    const project = await post('/api/projects', JSON.stringify({ project: { title: 'Long', ...documents, program } }))
    const kept: { readonly id: string, readonly bytes: number, readonly minutes: number }[] = []
    for (const minutes of MINUTES) {
      const file = await runOf({ ...documents, program, realism: 'typical', seed: 1, limit: 60 * minutes })
      kept.push({ minutes, bytes: file.length, id: await post(`/api/projects/${project}/runs`, file) })
    }
    const page = await browser.newPage()
    await page.setViewport({ width: 1280, height: 800 })
    // Whatever the worker tells is heard beside the page.
    await page.evaluateOnNewDocument(() => {
      const heard: Heard[] = []
      ;(globalThis as unknown as { heard: Heard[] }).heard = heard
      const { Worker } = globalThis
      globalThis.Worker = class extends Worker {
        constructor(...given: ConstructorParameters<typeof Worker>) {
          super(...given)
          this.addEventListener('message', ({ data }: MessageEvent<{ type: string, from?: number, rows?: Float64Array, hash?: string | null }>) => {
            if (data.type === 'rows') heard.push({ at: performance.now(), from: data.from ?? 0, rows: data.rows?.length ?? 0, end: data.hash !== null })
          })
        }
      }
    })
    const opening: RunMeasures['opening'][number][] = []
    const goingOn: number[] = []
    for (const { id, bytes, minutes } of kept) {
      await open(page, home, project, id)
      const time = await page.evaluate(() => {
        const { heard } = globalThis as unknown as { heard: Heard[] }
        const [file] = performance.getEntriesByType('resource').filter(r => /\/api\/runs\/[^/]+$/.test(r.name)).slice(-1) as PerformanceResourceTiming[]
        return heard.findLast(h => h.end)!.at - file!.responseEnd
      })
      opening.push({ minutes, bytes, time, memory: await memoryOf(page) })
      if (minutes !== MINUTES[0]) continue
      for (const share of SHARES) {
        await open(page, home, project, id)
        goingOn.push(await goOn(page, share))
      }
    }
    return { goingOn, opening }
  } finally {
    await browser.close()
    server.kill('SIGKILL')
    rmSync(data, { recursive: true, force: true })
  }
}

async function runOf(inputs: RunInputs): Promise<Uint8Array<ArrayBuffer>> {
  const opened = await openRun(inputs)
  if (!opened.ok) throw new Error('the demo cannot run')
  opened.simulation.runToEnd()
  const file = writeKept('long', inputs, opened.simulation)
  opened.simulation.free()
  return file
}

/** Opens a kept run from the list, and waits until it is run again too. */
async function open(page: Page, home: string, project: string, id: string): Promise<void> {
  await page.goto(`${home}/projects/${project}/runs`, { waitUntil: 'networkidle0' })
  await page.evaluate(() => { performance.clearResourceTimings(); (globalThis as unknown as { heard: Heard[] }).heard.length = 0 })
  await page.waitForSelector(`[data-run="${id}"]`)
  await page.click(`[data-run="${id}"]`, { count: 2 })
  await page.waitForFunction(`document.querySelector('.tape .hint')?.textContent.includes('the same to the bit')`, { timeout: 300_000 })
}

/** From the key to the first new tick, milliseconds. */
async function goOn(page: Page, share: number): Promise<number> {
  const box = (await (await page.$('canvas[role=slider]'))!.boundingBox())!
  await page.mouse.click(box.x + box.width * share * 0.96, box.y + box.height / 2)
  await page.waitForFunction(`document.querySelector('.tape .head').textContent.includes('looking back') || document.querySelector('.tape .hint') !== null`)
  await new Promise(r => setTimeout(r, 1000))
  await page.evaluate(() => { (document.activeElement as HTMLElement).blur(); addEventListener('keydown', () => { (globalThis as unknown as { begun: number }).begun = performance.now() }, { capture: true, once: true }); (globalThis as unknown as { heard: Heard[] }).heard.length = 0 })
  await page.keyboard.press('p')
  await page.waitForFunction(`heard.some(h => h.rows > 0)`, { polling: 20 })
  return page.evaluate(() => { const w = globalThis as unknown as { heard: Heard[], begun: number }; return w.heard.find(h => h.rows > 0)!.at - w.begun })
}

/** Bytes that the page and its workers hold, after what is not needed any more was given back. */
async function memoryOf(page: Page): Promise<number> {
  const client = await page.createCDPSession()
  await client.send('HeapProfiler.collectGarbage')
  const { usedSize, backingStorageSize = 0 } = await client.send('Runtime.getHeapUsage') as { usedSize: number, backingStorageSize?: number }
  await client.detach()
  return usedSize + backingStorageSize
}
