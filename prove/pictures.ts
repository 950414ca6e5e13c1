import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, KeyInput, Page } from 'puppeteer-core'
import { ask, copyOf, go, hasText, keepRun, keepRuns, launchAsUsed, openPage, press, typeProgram, until } from '../tests/e2e/browser'
import { freePort, startServer } from '../tests/e2e/setup'
import { WIRING } from '../tests/e2e/wiring'

/** Where a picture is made: the page, the server's address, and projects by their titles, each a copy. */
interface Studio {
  readonly page: Page
  readonly address: string
  /** A wire that pages may drive a board over: nothing is at its other end. */
  readonly wire: string
  /** Opens a view of a copy of a demo project; its id. `path`: the view, such as `/robot`. */
  open(title: string, path?: string, face?: 'rules' | 'text'): Promise<string>
  /** Runs it to an instant, seconds, and stops there. */
  runTo(seconds: number): Promise<void>
  keys(...keys: readonly KeyInput[]): Promise<void>
  rest(seconds: number): Promise<void>
}

/** The pictures of docs/screenshots, by their names, each as somebody would come to what it shows; 1280 by 800. What one gives is done when it is made. */
const PICTURES: Readonly<Record<string, (studio: Studio) => Promise<void | (() => void)>>> = {
  async 'projects'({ page, address, rest }) {
    await go(page, address)
    await page.waitForSelector('.card svg')
    await rest(1)
  },
  async 'bench'({ open, runTo }) {
    await open('Night rounds')
    await runTo(11)
  },
  async 'bench-3d-dark'({ page, open, keys, runTo, rest }) {
    await page.evaluate(() => { localStorage.setItem('mindpath.theme', JSON.stringify('night')) })
    await open('Clear the pontoon')
    await keys('2')
    await runTo(14)
    await rest(2)
  },
  async 'text'({ open, runTo }) {
    await open('Fetch the floats', '', 'text')
    await runTo(9)
  },
  async 'map'({ open, keys, runTo }) {
    await open('Fetch the floats')
    await keys('F9')
    await runTo(9)
  },
  async 'finder'({ page, open }) {
    await open('Kiss the fender')
    await page.click('.new-rule')
    await page.waitForSelector('.finder input')
    await page.keyboard.type('bump')
  },
  async 'guide'({ page, open }) {
    await open('Kiss the fender')
    await page.click('.help')
    await page.waitForSelector('.v-overlay--active [data-guide]')
    await page.click('.v-overlay--active [data-guide]')
    await page.waitForSelector('.guide')
    await until(page, 'document.querySelector(".v-overlay--active .v-list") === null')
  },
  async 'why'({ page, open, keys, runTo }) {
    await open('Find the buoy')
    await runTo(6)
    await keys('w')
    await page.waitForSelector('.why h3')
  },
  async 'hands'({ page, open, keys, runTo }) {
    await open('Night rounds')
    await keys('j')
    await page.waitForSelector('.hands')
    await runTo(4)
    await page.click('[data-device=sonar] .reach')
    await page.waitForSelector('[data-device=sonar] .hand [role=slider]')
    await page.focus('[data-device=sonar] .hand [role=slider]')
    await keys('PageDown', 'PageDown')
    await runTo(4.6)
  },
  async 'arm'({ open, keys, runTo }) {
    await open('Sort the floats')
    await keys('2')
    await runTo(18)
  },
  async 'revisions'({ page, open, rest }) {
    const id = await open('Kiss the fender', '', 'text')
    const text = await page.evaluate(async project => ((await (await fetch(`/api/projects/${project}`)).json()) as { program: string }).program, id)
    for (const near of ['12 cm', '11 cm', '14 cm']) {
      await typeProgram(page, text.replace(/near = \d+ cm/, `near = ${near}`))
      await rest(1.5)
    }
    await page.evaluate(() => { [...document.querySelectorAll('button')].find(b => b.textContent?.trim() === 'Revisions')!.click() })
    await page.waitForSelector('.v-overlay--active .v-card')
    await rest(1)
  },
  async 'robot'({ page, open, rest }) {
    await open('Lids home', '/robot')
    await page.waitForSelector('[data-spot=sonar]')
    await rest(0.5)
  },
  async 'arena'({ open, rest }) {
    await open('Fetch the floats', '/arena')
    await rest(3)
  },
  async 'runs'({ page, address, open, keys, rest }) {
    const id = await open('Kiss the fender', '/runs')
    await keepRuns(address, id, 40)
    await go(page, `${address}/projects/${id}/runs`)
    await page.waitForSelector('[data-run]')
    for (let i = 0; i < 4; i++) await keys('x', 'ArrowDown')
    await page.waitForSelector('[data-difference=B]')
    await rest(2)
  },
  async 'trials'({ page, address, open, rest }) {
    const id = await open('Kiss the fender', '/trials')
    const { program } = await ask<{ program: string }>(address, `/api/projects/${id}`)
    const own = { name: 'rev. 1', text: program, revision: 1 }
    const faster = { name: 'faster', text: program.replace(/cruise = [\d.]+ cm\/s/, 'cruise = 30 cm/s'), revision: null }
    await ask(address, `/api/projects/${id}/trials`, { plan: { mindpath: 'trials', version: 1, seeds: [1, 40], realisms: ['typical', 'rough'], world: { grip: [0.25, 1], turn: ['-12 deg', '12 deg'] }, cases: [{ seed: 1, world: { turn: '-17.3 deg' } }] }, programs: [own, faster] })
    await page.waitForSelector('[data-state=done]', { timeout: 240_000 })
    await rest(2)
  },
  async 'trials-heat'({ page, address, open, rest }) {
    const id = await open('Kiss the fender', '/trials')
    const { program } = await ask<{ program: string }>(address, `/api/projects/${id}`)
    const dials = [{ name: 'near', from: '9 cm', to: '15 cm', count: 7 }, { name: 'cruise', from: '10 cm/s', to: '35 cm/s', count: 6 }]
    await ask(address, `/api/projects/${id}/trials`, { plan: { mindpath: 'trials', version: 1, seeds: [1, 6], realisms: ['rough'], dials, limit: 14 }, programs: [{ name: 'rev. 1', text: program, revision: 1 }] })
    await page.waitForSelector('[data-state=done]', { timeout: 240_000 })
    await page.evaluate(() => { [...document.querySelectorAll('.head button')].find(b => b.textContent?.includes('Charts') === true)!.dispatchEvent(new MouseEvent('click', { bubbles: true })) })
    await rest(2)
  },
  async 'hardware'({ page, open, rest }) {
    await open('Kiss the fender', '/hardware')
    await page.waitForSelector('.plan svg')
    await page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('.boards .v-list-item')].find(e => e.textContent?.startsWith('rp2040') === true)!.click() })
    await page.waitForSelector('.carried .v-btn')
    await rest(0.5)
  },
  async 'measure'({ page, address, open, keys, rest }) {
    const id = await open('Kiss the fender', '/runs')
    const yard = { mindpath: 'arena', version: 1, name: 'yard', size: ['3 m', '3 m'], start: { at: ['1.2 m', '1.5 m'], heading: '0 deg' } }
    const square = (side: string): string => `start\n  repeat 4 times\n    drive 60 cm at 25 cm/s\n    turn ${side} 90 deg\n  wait 0.5 s\n  finish "back"\n`
    const wall = 'start\n  repeat 4 times\n    drive 40 cm at 25 cm/s\n    drive -40 cm at 25 cm/s\n  wait 8 s\n  finish "stood"\n'
    const { robot, arena } = await ask<{ robot: object, arena: object }>(address, `/api/projects/${id}`)
    const straight = 'start\n  drive 80 cm at 25 cm/s\n  wait 0.5 s\n  finish "there"\n'
    for (const [program, where] of [[square('left'), yard], [square('right'), yard], [straight, yard], [wall, arena]] as const) await keepRun(address, id, folderOf(robot, where, program), '--realism', 'rough', '--seed', '4')
    await go(page, `${address}/projects/${id}/runs`)
    await until(page, 'document.querySelectorAll("[data-run]").length === 4')
    for (let i = 0; i < 4; i++) await keys('x', 'ArrowDown')
    await until(page, hasText('.measure', 'Measure the robot'))
    await page.click('.measure .v-btn')
    await until(page, hasText('.measure', 'wheels, by'))
    await page.evaluate(() => { document.querySelector('.measure')!.scrollIntoView({ block: 'end' }) })
    await rest(1)
  },
  async 'wire'({ page, address, wire, open, keys, runTo }) {
    const id = await open('Kiss the fender', '/hardware')
    const project = await ask<{ revision: number, program: string, robot: object, arena: object }>(address, `/api/projects/${id}`)
    const robot = { ...project.robot, wiring: WIRING }
    await ask(address, `/api/projects/${id}/revisions`, { base: project.revision, program: project.program, robot })
    // At the other end of the wire: the same robot, behind the pins of a board.
    const board = spawn(process.execPath, ['--liftoff-only', '.build/cli.mjs', 'board', folderOf(robot, project.arena, project.program), '--tcp', String(new URL(wire).port), '--seed', '3'], { stdio: ['ignore', 'ignore', 'pipe'] })
    await new Promise(ready => board.stderr.once('data', ready))
    await page.reload()
    await until(page, hasText('[aria-label=Wire]', 'Connect'))
    await keys('j')
    await until(page, hasText('[aria-label=Wire] .state', 'answers in'))
    await page.evaluate(() => { [...document.querySelectorAll<HTMLElement>('.tabs a')].find(a => a.textContent?.includes('Bench') === true)!.click() })
    await until(page, `${hasText('.sense .strip', 'real')} && ${hasText('.decide', 'ready to run')}`)
    await runTo(4)
    return () => { board.kill('SIGKILL') }
  },
}

/** A project's folder for the command line. */
function folderOf(robot: object, arena: object, program: string): string {
  const folder = mkdtempSync(join(tmpdir(), 'mindpath-'))
  const documents = { 'robot.json': robot, 'arena.json': arena, 'project.json': { mindpath: 'project', version: 1, title: 'A picture', robot: 'robot.json', arena: 'arena.json', program: 'program.mindpath' } }
  for (const [name, document] of Object.entries(documents)) writeFileSync(join(folder, name), JSON.stringify(document))
  writeFileSync(join(folder, 'program.mindpath'), program)
  return folder
}

/** The names of them. */
export const PICTURE_NAMES = Object.keys(PICTURES)

/** Makes pictures anew, of the built application with the demo data, into a folder. `tell` hears of each. */
export async function makePictures(names: readonly string[], folder: string, tell: (name: string) => void): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'mindpath-pictures-'))
  const port = await freePort()
  const wire = `tcp://127.0.0.1:${await freePort()}`
  const server = await startServer(port, data, { MINDPATH_WIRES: wire })
  const browser = await launchAsUsed()
  try {
    for (const name of names) await makePicture(browser, { address: `http://127.0.0.1:${port}`, wire }, name, folder, tell)
  } finally {
    await browser.close()
    server.kill('SIGKILL')
    rmSync(data, { recursive: true, force: true })
  }
}

async function makePicture(browser: Browser, { address, wire }: Pick<Studio, 'address' | 'wire'>, name: string, folder: string, tell: (name: string) => void): Promise<void> {
  // What a browser remembers is not carried into the next picture.
  const context = await browser.createBrowserContext()
  const { page } = await openPage(context, address, 'rules', true)
  const keys = async (...all: readonly KeyInput[]): Promise<void> => { for (const key of all) await page.keyboard.press(key) }
  const after = await PICTURES[name]!({
    page, address, wire, keys,
    rest: seconds => new Promise(r => setTimeout(r, 1000 * seconds)),
    async open(title, path = '', face = 'rules') {
      const id = await copyOf(address, title)
      // A copy is called one; the picture shows the demo's own title.
      await fetch(`${address}/api/projects/${id}`, { method: 'PATCH', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ title }) })
      await page.evaluateOnNewDocument((f) => { try { localStorage.setItem('mindpath.face', JSON.stringify(f)) } catch { /* Not on a blank page. */ } }, face)
      await go(page, `${address}/projects/${id}${path}`)
      if (path === '') await until(page, `${hasText('.decide .head', 'ready to run')} && document.querySelector('.sense [data-device]') !== null`)
      return id
    },
    async runTo(seconds) {
      if (await page.evaluate('document.querySelector(".pause")?.textContent.includes("Go on") === true && !document.querySelector(".pause").disabled')) await page.click('.pause')
      else await press(page, 'Control', 'Enter')
      await until(page, `parseFloat(document.querySelector('.clock').textContent) >= ${seconds}`, 120_000)
      await page.click('.pause')
      await new Promise(r => setTimeout(r, 800))
    },
  })
  // No ring about what was pressed last, but where one types.
  await page.evaluate(() => { if (document.activeElement instanceof HTMLButtonElement || document.activeElement instanceof HTMLCanvasElement) document.activeElement.blur() })
  await page.screenshot({ path: join(folder, `${name}.png`) as `${string}.png` })
  await context.close()
  after?.()
  tell(name)
}
