import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { CDPSession, Page } from 'puppeteer-core'
import { launchAsUsed } from '../tests/e2e/browser'
import { freePort, startServer } from '../tests/e2e/setup'
import { longProgram } from './parse'
import { looseArena, PUSHER } from './scene'

/** The page as it was built, in Chromium without a graphics card at 1280 by 800: frames, work and how long one waits. */
export interface PageMeasures {
  /** Frames a second on the Bench while a run with loose pieces goes on, and the page thread's own work a frame, milliseconds, on average. */
  readonly frames: Readonly<Record<string, { readonly rate: number, readonly work: number }>>
  /** Frames a second on the Bench while a run goes on and the server does trials on one thread. */
  readonly besideTrials: number
  /** Milliseconds at the median, and at the 95th percentile. */
  readonly keystroke: readonly [number, number]
  readonly nudge: readonly [number, number]
  /** Frames a second while 209 rows are scrolled through. */
  readonly scrolling: number
  /** Milliseconds from a click on a project to a Bench whose program is checked and whose editor takes input. */
  readonly opening: number
}

const wait = (ms: number): Promise<void> => new Promise(r => setTimeout(r, ms))
const ordered = (times: readonly number[]): readonly number[] => [...times].sort((a, b) => a - b)
const at = (times: readonly number[], share: number): number => ordered(times)[Math.min(times.length - 1, Math.floor(times.length * share))] ?? Number.NaN

export async function pageMeasures(): Promise<PageMeasures> {
  const data = mkdtempSync(join(tmpdir(), 'mindpath-bench-'))
  const port = await freePort()
  const server = await startServer(port, data)
  const browser = await launchAsUsed()
  try {
    const home = `http://127.0.0.1:${port}`
    const page = await browser.newPage()
    await page.setViewport({ width: 1280, height: 800 })
    await page.goto(home, { waitUntil: 'networkidle0' })
    const robot = JSON.parse(readFileSync('demo/robots/limpet.json', 'utf8')) as unknown
    const make = async (title: string, arena: unknown, program: string): Promise<string> => {
      const answer = await fetch(`${home}/api/projects`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ project: { title, robot, arena, task: null, program } }) })
      if (!answer.ok) throw new Error(`${title}: ${await answer.text()}`)
      return (await answer.json() as { id: string }).id
    }
    const loose = await make('Thirty', looseArena(30), PUSHER)
    const sixty = await make('Sixty', looseArena(60), PUSHER)
    const long = await make('Long', looseArena(1), longProgram(1000))
    const rows = await make('Rows', looseArena(1), Array.from({ length: 208 }, (_, i) => `when sonar.distance < ${i + 1} cm\n  drive ${i % 30 + 1} cm/s`).join('\n') + '\notherwise\n  halt\n')

    const open = async (id: string, face: 'rules' | 'text'): Promise<void> => {
      await page.goto(home, { waitUntil: 'networkidle0' })
      await page.evaluate((f) => { localStorage.setItem('mindpath.face', JSON.stringify(f)) }, face)
      await page.goto(`${home}/projects/${id}`, { waitUntil: 'networkidle0' })
      await page.waitForFunction(`document.querySelector('.decide .head')?.textContent.includes('ready to run')`, { timeout: 60_000 })
    }
    const frames: Record<string, { rate: number, work: number }> = {}
    const client = await page.createCDPSession()
    for (const [name, face, view] of [['30 loose pieces, rules, from above', 'rules', '1'], ['30 loose pieces, text, from above', 'text', '1'], ['30 loose pieces, rules, 3D', 'rules', '2'], ['60 loose pieces, rules, from above', 'rules', '1'], ['60 loose pieces, rules, 3D', 'rules', '2']] as const) {
      await open(name.startsWith('60') ? sixty : loose, face)
      await page.focus('.run')
      await page.keyboard.press(view)
      await wait(500)
      await page.click('.run')
      await wait(2500)
      frames[name] = await during(page, client, 6000)
    }
    const besideTrials = await framesBesideTrials(page, client, home, open)
    const opening = await openingTime(page, home, 'Kiss the fender')
    await open(long, 'text')
    const keystroke = await keystrokes(page)
    await open(long, 'rules')
    const nudge = await nudges(page)
    await open(rows, 'rules')
    const scrolling = await scrolled(page)
    return { frames, besideTrials, keystroke: [at(keystroke, 0.5), at(keystroke, 0.95)], nudge: [at(nudge, 0.5), at(nudge, 0.95)], scrolling, opening }
  } finally {
    await browser.close()
    server.kill('SIGKILL')
    rmSync(data, { recursive: true, force: true })
  }
}

/** Frames a second, and the work of the page's own thread for each of them, while nothing is touched. */
async function during(page: Page, client: CDPSession, ms: number): Promise<{ rate: number, work: number }> {
  // Scripts, styles and layout; painting, which a graphics card would do, is the browser's.
  const OWN = ['ScriptDuration', 'LayoutDuration', 'RecalcStyleDuration']
  const busy = async (): Promise<number> => (await client.send('Performance.getMetrics')).metrics.reduce((sum, m) => sum + (OWN.includes(m.name) ? m.value * 1000 : 0), 0)
  await client.send('Performance.enable')
  await page.evaluate(() => { const w = globalThis as unknown as { beats: number }; w.beats = 0; const beat = (): void => { w.beats++; requestAnimationFrame(beat) }; requestAnimationFrame(beat) })
  const count = (): Promise<readonly [number, number]> => page.evaluate(() => [(globalThis as unknown as { beats: number }).beats, performance.now()] as const)
  const [before, first] = [await busy(), await count()]
  await wait(ms)
  const [after, last] = [await busy(), await count()]
  const frames = last[0] - first[0]
  return { rate: frames / (last[1] - first[1]) * 1000, work: (after - before) / frames }
}

/** Frames a second of a run of night-rounds while its trials go on. */
async function framesBesideTrials(page: Page, client: CDPSession, home: string, open: (id: string, face: 'rules' | 'text') => Promise<void>): Promise<number> {
  const { id } = (await (await fetch(`${home}/api/projects`)).json() as { id: string, title: string }[]).find(p => p.title === 'Night rounds')!
  const { program } = await (await fetch(`${home}/api/projects/${id}`)).json() as { program: string }
  await open(id, 'rules')
  await page.click('.run')
  const body = JSON.stringify({ plan: { mindpath: 'trials', version: 1, seeds: [1, 1000] }, programs: [{ name: 'its own', text: program, revision: null }] })
  const asked = await fetch(`${home}/api/projects/${id}/trials`, { method: 'POST', headers: { 'content-type': 'application/json' }, body })
  if (!asked.ok) throw new Error(await asked.text())
  await wait(5000)
  const { rate } = await during(page, client, 6000)
  const { plans: [plan] } = await (await fetch(`${home}/api/projects/${id}/trials`)).json() as { plans: { id: string, done: number }[] }
  if (plan === undefined || plan.done === 0) throw new Error('no trials went on')
  await fetch(`${home}/api/trials/${plan.id}/cancel`, { method: 'POST' })
  return rate
}

/** From a click on a card, over which the pointer has just come, to an editor that takes input. */
async function openingTime(page: Page, home: string, title: string): Promise<number> {
  await page.goto(home, { waitUntil: 'networkidle0' })
  const card = (await page.waitForSelector(`[data-project="${title}"] a.title`))!
  // As a hand does: the pointer is there before it presses, here by a quarter of a second.
  await card.hover()
  await wait(250)
  return page.evaluate(async (wanted) => {
    const begin = performance.now()
    document.querySelector<HTMLElement>(`[data-project="${wanted}"] a.title`)!.click()
    for (;;) {
      await new Promise(r => requestAnimationFrame(r))
      const run = document.querySelector<HTMLButtonElement>('.bar .run')
      if (run !== null && !run.disabled && document.querySelector('.decide .head')?.textContent?.includes('ready to run') === true && document.querySelector('.act canvas') !== null) return performance.now() - begin
    }
  }, title)
}

/** From a key in the text of 1,000 lines until the checker's answer to it shows, milliseconds. */
async function keystrokes(page: Page): Promise<readonly number[]> {
  await page.evaluate(() => {
    const w = globalThis as unknown as { begun: number, waits: number[] }
    w.waits = []
    addEventListener('keydown', () => { w.begun = performance.now() }, { capture: true })
    new MutationObserver(() => { if (w.begun > 0) { w.waits.push(performance.now() - w.begun); w.begun = 0 } }).observe(document.querySelector('.decide .head .state')!, { subtree: true, childList: true, characterData: true })
  })
  await page.focus('.cm-content')
  // The line of a condition: line 6 of each mode.
  await page.keyboard.down('Control')
  await page.keyboard.press('Home')
  await page.keyboard.up('Control')
  for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowDown')
  await page.keyboard.press('End')
  for (let i = 0; i < 40; i++) {
    // A sign that makes a mistake of the line, and its removal.
    for (const key of ['%', 'Backspace'] as const) {
      const before = await page.evaluate(() => (globalThis as unknown as { waits: number[] }).waits.length)
      await page.keyboard.press(key)
      await page.waitForFunction(n => (globalThis as unknown as { waits: number[] }).waits.length > n, { polling: 20 }, before)
      await wait(60)
    }
  }
  return (await page.evaluate(() => (globalThis as unknown as { waits: number[] }).waits)).slice(10)
}

/** How long the page thread is busy with one nudge of a number in Rules, milliseconds, to the frame that shows it. */
async function nudges(page: Page): Promise<readonly number[]> {
  await page.focus('.rules .number')
  return page.evaluate(async () => {
    const times: number[] = []
    /** The page's next turn, behind all that it is at now. */
    const turn = (): Promise<void> => new Promise((r) => { const channel = new MessageChannel(); channel.port1.onmessage = () => r(); channel.port2.postMessage(0) })
    for (let i = 0; i < 60; i++) {
      await new Promise(r => setTimeout(r, 120))
      // Busy until what the key did is done, and again for the frame that shows it; what lies between is waiting for the screen.
      const beginsFrame = new Promise<number>((r) => { requestAnimationFrame(() => r(performance.now())) })
      const shown = beginsFrame.then(async (began) => { await turn(); return { began, ended: performance.now() } })
      const begin = performance.now()
      document.activeElement!.dispatchEvent(new KeyboardEvent('keydown', { key: i % 2 === 0 ? 'ArrowUp' : 'ArrowDown', bubbles: true, cancelable: true }))
      // Vue's own work follows in microtasks.
      await Promise.resolve()
      await turn()
      const done = performance.now()
      const { began, ended } = await shown
      // Where the frame came first, nothing was waited for.
      times.push(began < done ? ended - begin : done - begin + ended - began)
    }
    return times.slice(10)
  })
}

async function scrolled(page: Page): Promise<number> {
  return page.evaluate(async () => {
    const list = document.querySelector('.decide .rules')!
    let frames = 0
    const begin = performance.now()
    while (performance.now() - begin < 4000) {
      list.scrollTop = (list.scrollTop + 60) % Math.max(1, list.scrollHeight - list.clientHeight)
      await new Promise(r => requestAnimationFrame(r))
      frames++
    }
    return frames / (performance.now() - begin) * 1000
  })
}
