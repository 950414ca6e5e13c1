import { execFile } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { promisify } from 'node:util'
import puppeteer, { type Browser, type KeyInput, type Page } from 'puppeteer-core'

/** Debian's Chromium, headless, drawing without a graphics card: pictures by a GL in software, the page around them by the plainer way, which takes a quarter less time. */
function chromium(...more: readonly string[]): Promise<Browser> {
  const executablePath = ['/usr/bin/chromium', '/usr/bin/chromium-browser'].find(p => existsSync(p))
  if (executablePath === undefined) throw new Error('Chromium is missing: apt-get install chromium')
  return puppeteer.launch({
    executablePath, headless: true,
    args: ['--no-sandbox', '--js-flags=--liftoff-only', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync', '--enable-unsafe-swiftshader', '--use-angle=swiftshader', '--disable-gpu-compositing', ...more],
  })
}

/** As people have it, to be measured and looked at. */
export const launchAsUsed = (): Promise<Browser> => chromium()

/** For tests: nothing glides, and all pages of a server share a process and what it has read. It takes a tenth less work. */
export const launch = (): Promise<Browser> => chromium('--process-per-site', '--force-prefers-reduced-motion')

/** The house's size. Tests look at what is there and not at how fine it is drawn: with half the dots each way painting takes a quarter, and a test a seventh less time. */
export const HOUSE = { width: 1280, height: 800, deviceScaleFactor: 0.5 }

/** A page of the house's size, the program shown by one of its faces; `errors` collects what goes wrong in it. `fine`: drawn dot by dot, to be looked at. */
export async function openPage(browser: Pick<Browser, 'newPage'>, url: string, face: 'rules' | 'text' = 'text', fine = false): Promise<{ page: Page, errors: string[] }> {
  await keepReady(browser, new URL(url).origin)
  const page = await browser.newPage()
  await page.evaluateOnNewDocument((f) => { try { localStorage.setItem('mindpath.face', JSON.stringify(f)) } catch { /* Not on a blank page. */ } }, face)
  await page.setViewport(fine ? { ...HOUSE, deviceScaleFactor: 1 } : HOUSE)
  const errors: string[] = []
  page.on('pageerror', e => errors.push(String(e)))
  page.on('console', (m) => { if (m.type() === 'error' && !m.text().includes('409')) errors.push(m.text()) })
  await go(page, url)
  return { page, errors }
}

/** A page that stays open keeps the process in which all pages of a server live, and with it the scripts that are read already. */
const ready = new WeakMap<object, Set<string>>()
async function keepReady(browser: Pick<Browser, 'newPage'>, origin: string): Promise<void> {
  const known = ready.get(browser) ?? new Set()
  ready.set(browser, known)
  if (known.has(origin)) return
  known.add(origin)
  await (await browser.newPage()).goto(`${origin}/icon.svg`)
}

/** Goes there; the page is made when its main part stands, and no list of it is on its way. */
export async function go(page: Page, url: string): Promise<void> {
  await page.goto(url, { waitUntil: 'load' })
  await made(page)
}
export async function reload(page: Page): Promise<void> {
  await page.reload({ waitUntil: 'load' })
  await made(page)
}
const made = (page: Page): Promise<void> => until(page, 'document.querySelector("main") !== null && document.querySelector("main .v-skeleton-loader") === null')

/** Asks the server without a page; what is sent is JSON. */
export async function ask<T>(address: string, path: string, body?: object): Promise<T> {
  const sent = body === undefined ? {} : { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }
  return await (await fetch(`${address}${path}`, sent)).json() as T
}

export const text = (page: Page, selector: string): Promise<string> => page.$eval(selector, e => e.textContent?.trim() ?? '')

/** Waits until the page says so: an expression over the document. */
export async function until(page: Page, what: string, timeout = 30_000): Promise<void> {
  await page.waitForFunction(what, { timeout, polling: 50 })
}

export const hasText = (selector: string, part: string): string => `document.querySelector(${JSON.stringify(selector)})?.textContent.includes(${JSON.stringify(part)})`

/** Replaces the program in the editor by typing. */
export async function typeProgram(page: Page, program: string): Promise<void> {
  // Input goes to the tab in front; one behind draws no frames.
  await page.bringToFront()
  await page.click('.cm-content')
  await page.keyboard.down('Control')
  await page.keyboard.press('a')
  await page.keyboard.up('Control')
  await page.keyboard.press('Backspace')
  // Pasted in one piece: the editor's own indenting is not what is tested.
  await page.evaluate((value) => {
    const data = new DataTransfer()
    data.setData('text/plain', value)
    document.querySelector('.cm-content')!.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
  }, program)
}

export const press = async (page: Page, modifier: 'Control' | 'Alt', key: KeyInput): Promise<void> => {
  await page.keyboard.down(modifier)
  await page.keyboard.press(key)
  await page.keyboard.up(modifier)
}

/** A copy of a demo project that a test may change; its id. */
export async function copyOf(address: string, title: string): Promise<string> {
  const all = await ask<{ id: string, title: string }[]>(address, '/api/projects')
  return (await ask<{ id: string }>(address, '/api/projects', { from: all.find(p => p.title === title)!.id })).id
}

/** Keeps so many runs of Kiss the fender with a project, other seeds each. */
export async function keepRuns(address: string, id: string, count: number): Promise<void> {
  for (let seed = 1; seed <= count; seed++) await keepRun(address, id, 'demo/projects/kiss-the-fender', '--seed', String(seed))
}

/** Keeps a run of a project's folder with a project. */
export async function keepRun(address: string, id: string, folder: string, ...more: readonly string[]): Promise<void> {
  const path = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'one.mindrun')
  // Not awaited in one piece: a connection that the server closes meanwhile has to be noticed. Its exit code says whether the goals were met.
  await promisify(execFile)(process.execPath, ['--liftoff-only', '.build/cli.mjs', 'sim', folder, ...more, '--keep', path]).catch(() => undefined)
  await fetch(`${address}/api/projects/${id}/runs`, { method: 'POST', headers: { 'content-type': 'application/octet-stream' }, body: readFileSync(path) })
}

/** Chooses from a list of Vuetify's: opens the field, takes what is called so. */
export async function pick(page: Page, field: string, title: string): Promise<void> {
  await page.bringToFront()
  await page.click(`${field} .v-field`)
  const item = await page.waitForFunction(t => [...document.querySelectorAll<HTMLElement>('.v-overlay--active [role=option], .v-overlay--active .v-list-item')].find(e => e.textContent?.trim().startsWith(t)), { polling: 50 }, title)
  await (item as unknown as { click(): Promise<void> }).click()
}

/** The file that the page hands over at what is done there, as base64. It listens before that is done: a key overtakes what a page is told to evaluate. */
export async function savedFile(page: Page, act: () => Promise<unknown>): Promise<string> {
  await page.evaluate(() => {
    const make = URL.createObjectURL.bind(URL)
    const saved = new Promise<string>((resolve, reject) => {
      URL.createObjectURL = (blob: Blob) => {
        URL.createObjectURL = make
        void blob.arrayBuffer().then(b => resolve(btoa(Array.from(new Uint8Array(b), x => String.fromCharCode(x)).join(''))))
        return make(blob)
      }
      setTimeout(() => reject(new Error('no file was handed over')), 30_000)
    })
    Object.assign(globalThis, { saved })
  })
  await act()
  return page.evaluate(() => (globalThis as unknown as { readonly saved: Promise<string> }).saved)
}
