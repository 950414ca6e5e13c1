import type { ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { createRequire } from 'node:module'
import { request } from 'node:http'
import { connect, createServer, type AddressInfo, type Server, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Firmata } from 'firmata-io'
import type { Browser, Page } from 'puppeteer-core'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest'
import { FirmataBoard, RobotPins } from '../../core/firmata'
import { BOARDS } from '../../core/hardware'
import { factsOf, readRobot, type Robot, type RobotFacts } from '../../core/robot'
import { ask, copyOf, go, hasText, launch, openPage, press, text, until } from './browser'
import { freePort, startServer } from './setup'
import { WIRING } from './wiring'

/** The page drives a board over a wire: a robot on a line with a wall ahead of it, behind the pins of a board that is reached over a socket. */

const { Firmata: Client } = createRequire(import.meta.url)('firmata-io') as { Firmata: typeof Firmata }
const FIRMATA = BOARDS.find(b => b.name === 'firmata')!

class RollingBoard {
  /** Metres to the wall, and what its left wheel is told. */
  ahead = 1
  power = 0
  readonly told: number[] = []
  private readonly server: Server
  private readonly facts: RobotFacts
  private readonly sockets = new Set<Socket>()
  private readonly timer: ReturnType<typeof setInterval>

  constructor(robot: Robot) {
    this.facts = factsOf(robot)
    const pins = new RobotPins(robot, this.facts, FIRMATA, WIRING)
    const readings = new Float64Array(this.facts.readingCount)
    const sonar = this.facts.devices.find(d => d.name === 'sonar')!.first
    pins.read(readings)
    let board: FirmataBoard | null = null
    this.server = createServer((socket) => {
      this.sockets.add(socket)
      socket.setNoDelay(true)
      const at = board = new FirmataBoard(pins, 'rolling', (bytes) => { if (socket.writable) socket.write(Uint8Array.from(bytes)) })
      socket.on('data', bytes => at.receive(bytes))
      // A board on a serial line does not know that the line is gone: what it was told last goes on.
      socket.on('close', () => this.sockets.delete(socket)).on('error', () => undefined)
    })
    this.timer = setInterval(() => {
      for (const t of pins.taken()) {
        if (t.device === 'wheels' && t.channel === 1) this.told.push(this.power = t.value)
      }
      this.ahead = Math.max(0, this.ahead - this.power * 0.3 * 0.01)
      readings[sonar] = this.ahead
      board?.pass(10)
    }, 10)
  }

  listen(): Promise<number> { return new Promise((done) => { this.server.listen(0, '127.0.0.1', () => { done((this.server.address() as AddressInfo).port) }) }) }
  /** The cable is pulled out. */
  pull(): void { for (const s of this.sockets) s.destroy() }
  /** Back to where it began. */
  begin(): void { this.ahead = 1; this.told.length = 0 }
  close(): void { clearInterval(this.timer); this.pull(); this.server.close() }
}

let browser: Browser
let board: RollingBoard
let server: ChildProcess
let data = ''
let address = ''
let wire = ''
let id = ''
let page: Page
let errors: string[]

beforeAll(async () => {
  const read = readRobot({ ...(await import('../../demo/robots/limpet.json')).default, wiring: WIRING })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  board = new RollingBoard(read.value)
  wire = `tcp://127.0.0.1:${await board.listen()}`
  data = mkdtempSync(join(tmpdir(), 'mindpath-e2e-'))
  const port = await freePort()
  server = await startServer(port, data, { MINDPATH_WIRES: wire })
  address = `http://127.0.0.1:${port}`
  browser = await launch()
})
afterAll(async () => {
  await browser.close()
  server.kill('SIGKILL')
  board.close()
  rmSync(data, { recursive: true, force: true })
})
beforeEach(async () => {
  board.begin()
  id = await copyOf(address, 'Kiss the fender')
  const { revision, program, robot } = await ask<{ revision: number, program: string, robot: object }>(address, `/api/projects/${id}`)
  await ask(address, `/api/projects/${id}/revisions`, { base: revision, program, robot: { ...robot, wiring: WIRING } });
  ({ page, errors } = await openPage(browser, `${address}/projects/${id}/hardware`))
  await page.waitForSelector('.plan svg')
  return async () => {
    // What this browser remembers is the next test's as well.
    await page.evaluate(() => { localStorage.clear() }).catch(() => undefined)
    await page.close()
  }
})

/** Goes to another view without losing what the page holds. */
const view = (name: string): Promise<void> => page.evaluate((n) => { [...document.querySelectorAll<HTMLElement>('.tabs a')].find(a => a.textContent?.includes(n) === true)!.click() }, name)
/** The run is kept, and opened again it is the same when it is run again. */
async function keptAndTheSame(): Promise<void> {
  await until(page, hasText('.tape .kept', '● kept'))
  await go(page, `${address}/projects/${id}/runs`)
  await page.waitForSelector('[data-run]')
  await page.keyboard.press('Enter')
  await until(page, hasText('.tape .hint', 'the same to the bit when it is run again'))
}
const state = '[aria-label=Wire] .state'
/** Connects in the Hardware view, and goes to the Bench. */
async function connected(): Promise<void> {
  await until(page, hasText('[aria-label=Wire]', 'Connect'))
  await page.keyboard.press('j')
  await until(page, hasText(state, 'rolling answers in'))
  await view('Bench')
  await until(page, hasText('.sense .strip', 'real'))
  await until(page, hasText('.decide', 'ready to run'))
}
const clock = async (): Promise<number> => Number.parseFloat(await text(page, '.clock'))
const rolls = (): Promise<void> => expect.poll(() => board.power).toBeGreaterThan(0.1)
const stands = (): Promise<void> => expect.poll(() => Math.abs(board.power)).toBe(0)

describe('a board at the other end of a wire', () => {
  test('is connected by a key; the run stops where the real sonar says so, is kept, and is the same when it is run again', async () => {
    expect(await text(page, state)).toBe('○ not connected')
    expect(await page.$$eval('[aria-label="Devices, real or simulated"] li', all => all.map(e => e.textContent))).toEqual(expect.arrayContaining(['☑sonarreal', '☐gyroit is not connected']))
    await connected()
    await press(page, 'Control', 'Enter')
    await rolls()
    expect(await page.$$eval('.sense .port.real', all => all.map(e => e.textContent))).toEqual(['⌁P2', '⌁P4', '⌁P5', '⌁P8', '⌁A B'])
    await until(page, hasText('.outcome', 'finished: alongside'), 40_000)
    await stands()
    expect(board.ahead).toBeGreaterThan(0.04)
    expect(board.ahead).toBeLessThan(0.131)
    await keptAndTheSame()
    expect(errors).toEqual([])
  })
  test('tells what a sensor gives, to be a point of its curve: two of them and it can be real', async () => {
    const { revision, program, robot } = await ask<{ revision: number, program: string, robot: { wiring: typeof WIRING } }>(address, `/api/projects/${id}`)
    await ask(address, `/api/projects/${id}/revisions`, { base: revision, program, robot: { ...robot, wiring: { ...robot.wiring, ports: { ...robot.wiring.ports, P2: { ...robot.wiring.ports.P2, curve: undefined } } } } })
    await page.reload()
    await until(page, hasText('[aria-label=Wire]', 'Connect'))
    await page.keyboard.press('j')
    const port = '[aria-label="sonar, port P2"]'
    const take = async (volts: string, reads: string): Promise<void> => {
      await until(page, hasText(port, `Take ${volts} V`))
      await page.evaluate((at, label) => { [...document.querySelectorAll<HTMLElement>(`${at} .v-btn`)].find(b => b.textContent?.includes(label) === true)!.click() }, port, `Take ${volts} V`)
      // What it reads there is chosen, to be written over.
      await until(page, `document.activeElement?.closest('[data-volts="${Number(volts)}"]') != null`)
      await page.keyboard.type(reads)
      await page.keyboard.press('Tab')
    }
    await take('2.00', '100 cm')
    await until(page, hasText(port, 'one more, elsewhere, and it is a curve'))
    board.ahead = 0.5
    await take('1.00', '50 cm')
    await expect.poll(async () => (await ask<{ robot: { wiring: { ports: { P2: { curve?: unknown } } } } }>(address, `/api/projects/${id}`)).robot.wiring.ports.P2.curve).toEqual([{ volts: 1, reads: '50 cm' }, { volts: 2, reads: '100 cm' }])
    expect(await page.$$eval('[aria-label="Devices, real or simulated"] li', all => all.map(e => e.textContent))).toContain('☑sonarreal')
    expect(errors).toEqual([])
  })
  test('has its time counted in the look budget', async () => {
    await until(page, hasText('[aria-label=Wire]', 'Connect'))
    await page.keyboard.press('j')
    await until(page, hasText(state, 'rolling answers in'))
    await view('Robot')
    await until(page, hasText('.budget', 'to the board and back are counted in'))
    expect(await page.$$eval('.budget tbody th', all => all.map(e => e.textContent?.trim()).filter(t => t?.startsWith('⌁') === true))).toEqual(expect.arrayContaining(['⌁ sonar']))
  })
  test('stands at Escape, whatever has the focus, and goes on when the run does', async () => {
    await connected()
    board.ahead = 30
    await press(page, 'Control', 'Enter')
    await rolls()
    await page.click('.bar .title input')
    await page.keyboard.press('Escape')
    await stands()
    await until(page, hasText('.pause', 'Go on'))
    // The clock is written ten times a second: it shows where the run stands a moment later.
    await new Promise(done => setTimeout(done, 200))
    const at = await clock()
    await new Promise(done => setTimeout(done, 300))
    expect(await clock()).toBe(at)
    await page.click('.pause')
    await rolls()
    await page.click('.pause')
    await stands()
    await page.click('.pause')
    await rolls()
    // Also where what runs the program hangs.
    const busy = page.workers().filter(w => w.url().includes('simulation'))
    expect(busy.length).toBeGreaterThan(0)
    for (const worker of busy) void worker.evaluate('for (;;) {}').catch(() => undefined)
    await new Promise(done => setTimeout(done, 300))
    await page.keyboard.press('Escape')
    await stands()
  })
  test('takes part as far as it is real: with simulated wheels nothing moves there', async () => {
    await page.click('[aria-label="wheels is real"]')
    await until(page, hasText('[aria-label="Devices, real or simulated"] li', 'simulated'))
    await connected()
    board.told.length = 0
    await press(page, 'Control', 'Enter')
    await until(page, 'Number.parseFloat(document.querySelector(".clock").textContent) > 2')
    expect(await page.$$eval('.sense .port.real', all => all.map(e => e.textContent))).toEqual(['⌁P2', '⌁P4', '⌁P5', '⌁P8'])
    expect(board.told.filter(x => x !== 0)).toEqual([])
  })
  test('stands when the page is closed, and the run is kept with what the board read; stands when the server is', async () => {
    await connected()
    board.ahead = 30
    await press(page, 'Control', 'Enter')
    await rolls()
    await expect.poll(clock).toBeGreaterThan(1)
    await page.goto('about:blank')
    await stands()
    await expect.poll(async () => (await ask<{ runs: unknown[] }>(address, `/api/projects/${id}/runs`)).runs.length, { timeout: 30_000 }).toBe(1)
    await go(page, `${address}/projects/${id}/runs`)
    await page.waitForSelector('[data-run]')
    await page.keyboard.press('Enter')
    await until(page, hasText('.tape .hint', 'the same to the bit when it is run again'))
    expect(await clock()).toBeGreaterThan(1)
    await go(page, `${address}/projects/${id}/hardware`)
    await page.waitForSelector('.plan svg')
    await connected()
    await press(page, 'Control', 'Enter')
    await rolls()
    const ended = new Promise(done => server.once('exit', done))
    server.kill('SIGTERM')
    await stands()
    await ended
    await until(page, hasText('.sense .strip', 'the server has gone'))
    server = await startServer(Number(new URL(address).port), data, { MINDPATH_WIRES: wire })
  })
  test('that is lost ends the run, and says so', async () => {
    await connected()
    board.ahead = 30
    await press(page, 'Control', 'Enter')
    await rolls()
    board.pull()
    await until(page, hasText('.sense .strip', 'the other end closed it'))
    await until(page, hasText('.outcome', 'the wire is gone: the other end closed it'))
  })
  test('is one page\u2019s at a time', async () => {
    await connected()
    const { page: other } = await openPage(browser, `${address}/projects/${id}/hardware`)
    await until(other, hasText('[aria-label=Wire]', 'Connect'))
    await other.bringToFront()
    await other.keyboard.press('j')
    await until(other, hasText(state, `${wire} is in use by another page`))
    await other.close()
  })
  test('is nobody else\u2019s: pages of other origins are refused, and so are addresses that are none of this machine\u2019s wires', async () => {
    const upgraded = (origin: string): Promise<number> => new Promise((resolve, reject) => {
      const asked = request(`${address}/api/wires/line?address=${encodeURIComponent(wire)}`, { headers: { 'connection': 'Upgrade', 'upgrade': 'websocket', 'sec-websocket-version': '13', 'sec-websocket-key': 'bWluZHBhdGgtLW1pbmRwYQ==', origin } })
      asked.on('response', (r) => { resolve(r.statusCode ?? 0) }).on('upgrade', (r, socket) => { socket.destroy(); resolve(r.statusCode ?? 0) }).on('error', reject)
      asked.end()
    })
    expect(await upgraded('http://elsewhere.example')).toBe(403)
    expect(await upgraded(address)).toBe(101)
    for (const [at, says] of [['/etc/hostname', '/etc/hostname is none of this machine\'s wires'], [`${wire}&baud=7`, 'baud: found 7; allowed is 300 or more']] as const) {
      expect(await page.evaluate(query => new Promise<string>((done) => {
        const socket = new WebSocket(`${location.origin.replace('http', 'ws')}/api/wires/line?address=${query}`)
        socket.onmessage = ({ data }) => { done(String(data)) }
      }), at)).toContain(says)
    }
  })
  test('is reached by the browser\u2019s own serial port, where it has one', async () => {
    await page.evaluateOnNewDocument((at: string) => {
      // A port as the browser gives it, whose bytes go to the board by the server's line.
      const requestPort = () => {
        let socket: WebSocket
        return Promise.resolve({
          open: ({ baudRate }: { baudRate: number }) => new Promise<void>((done) => {
            socket = new WebSocket(`${location.origin.replace('http', 'ws')}/api/wires/line?address=${encodeURIComponent(at)}&baud=${baudRate}`)
            socket.binaryType = 'arraybuffer'
            socket.onmessage = () => { done() }
          }),
          get readable() { return new ReadableStream({ start(to) { socket.onmessage = ({ data }) => { to.enqueue(new Uint8Array(data as ArrayBuffer)) }; socket.onclose = () => { to.close() } } }) },
          get writable() { return new WritableStream({ write(bytes: Uint8Array<ArrayBuffer>) { socket.send(Uint8Array.of(0, ...bytes)) } }) },
          close: () => { setTimeout(() => { socket.close() }, 50); return Promise.resolve() },
        })
      }
      Object.defineProperty(navigator, 'serial', { value: { requestPort } })
      localStorage.setItem('mindpath.wire.address', JSON.stringify('browser'))
    }, wire)
    await page.reload({ waitUntil: 'load' })
    await page.waitForSelector('.plan svg')
    await connected()
    await press(page, 'Control', 'Enter')
    await rolls()
    await page.keyboard.press('Escape')
    await stands()
  })
})

describe('the simulated robot as a board', () => {
  test('is driven by a client through pins, live on the Bench; the run ends when the client goes, is kept and is the same again', async () => {
    await until(page, hasText('[aria-label="As a board"]', 'nobody can drive it'))
    await page.click('[aria-label="Port at which it poses as a board"]', { count: 3 })
    await page.keyboard.type('0')
    await page.keyboard.press('Tab')
    await page.evaluate(() => { (document.activeElement as HTMLElement).blur() })
    await page.keyboard.press('l')
    await until(page, hasText('[aria-label="As a board"] .state', 'the run begins when a client comes'))
    const port = Number(/127\.0\.0\.1:(\d+)/.exec(await text(page, '[aria-label="As a board"] .state'))![1])
    const socket = connect(port, '127.0.0.1')
    socket.setNoDelay(true)
    const client = new Client(socket, { reportVersionTimeout: 500, samplingInterval: 20 })
    socket.once('connect', () => socket.emit('open'))
    await new Promise<void>((resolve, reject) => { client.once('ready', () => { resolve() }); client.once('error', reject) })
    expect(client.firmware.name).toBe('limpet')
    await until(page, hasText('[aria-label="As a board"] .state', 'driven by a client'))
    await view('Bench')
    await until(page, hasText('.sense .strip', 'a client drives it'))
    for (const pin of [2, 4]) { client.pinMode(pin, client.MODES.OUTPUT); client.digitalWrite(pin, 0) }
    for (const pin of [3, 5]) { client.pinMode(pin, client.MODES.PWM); client.pwmWrite(pin, 128) }
    const first = await new Promise<number>((resolve) => { client.analogRead(0, resolve) })
    await expect.poll(() => client.pins[client.analogPins[0]!]!.value, { timeout: 15_000 }).toBeLessThan(first - 60)
    // What the client sees is what stands in Sense.
    const shown = Number.parseFloat(await text(page, '.sense [data-device=sonar] [data-figure]'))
    expect(Math.abs(client.pins[client.analogPins[0]!]!.value * 250 / 1023 - shown)).toBeLessThan(15)
    socket.destroy()
    await until(page, hasText('.outcome', 'the client has gone'))
    await keptAndTheSame()
    expect(errors).toEqual([])
  })
})
