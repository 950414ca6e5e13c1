import { spawn, spawnSync } from 'node:child_process'
import { buildSync } from 'esbuild'
import { cpSync, existsSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { connect, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { SerialPort } from 'serialport'
import { describe, expect, test } from 'vitest'
import type { Firmata } from 'firmata-io'

/** A client that many use, as it is, drives the simulated robot through the pins of a board, over a socket and in real time. */

const { Firmata: Client } = createRequire(import.meta.url)('firmata-io') as { Firmata: typeof Firmata }

const program = join(process.cwd(), '.build', 'board-test.mjs')
buildSync({ entryPoints: ['cli/main.ts'], loader: { '.py': 'text', '.h': 'text' }, bundle: true, platform: 'node', format: 'esm', packages: 'external', outfile: program, logLevel: 'error' })

interface Run { readonly port: number, readonly says: string, ended(): Promise<{ readonly status: number | null, readonly summary: Record<string, unknown> }> }

/** Starts `./mindpath board`; resolves when it listens. */
function begin(...more: readonly string[]): Promise<Run> {
  const child = spawn(process.execPath, ['--liftoff-only', program, 'board', 'demo/projects/kiss-the-fender', '--tcp', '0', '--json', ...more], { stdio: ['ignore', 'pipe', 'pipe'] })
  let [out, says] = ['', '']
  const ended = new Promise<{ status: number | null, summary: Record<string, unknown> }>((resolve) => {
    child.on('close', status => { resolve({ status, summary: JSON.parse(out === '' ? '{}' : out) as Record<string, unknown> }) })
  })
  child.stdout.on('data', (piece: Buffer) => { out += piece.toString() })
  return new Promise((resolve, reject) => {
    child.stderr.on('data', (piece: Buffer) => {
      says += piece.toString()
      const port = /127\.0\.0\.1:(\d+)/.exec(says)?.[1]
      if (port !== undefined) resolve({ port: Number(port), says, ended: () => ended })
    })
    child.on('close', () => { reject(new Error(says)) })
  })
}

async function client(port: number): Promise<{ board: InstanceType<typeof Firmata>, socket: Socket }> {
  const socket = connect(port, '127.0.0.1')
  socket.setNoDelay(true)
  const board = new Client(socket, { reportVersionTimeout: 500, samplingInterval: 20 })
  socket.once('connect', () => socket.emit('open'))
  await new Promise<void>((resolve, reject) => { board.once('ready', () => { resolve() }); board.once('error', reject) })
  return { board, socket }
}

// Pins of limpet as they are on a board that speaks Firmata: see what the command says.
const [LEFT, LEFT_BACK, RIGHT, RIGHT_BACK, SONAR] = [3, 2, 5, 4, 0]
/** What ten bits of its voltage are in metres: 5 V stand for 2.5 m. */
const METRES = 2.5 / 1023

describe('./mindpath board', () => {
  test('is driven over a serial line as well, which stands there while it runs', async () => {
    const line = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'board')
    const run = await begin('--realism', 'ideal', '--pty', line, '--seconds', '20')
    expect(run.says).toContain(`and ${line}; the run begins`)
    expect(spawnSync(process.execPath, ['--liftoff-only', program, 'board', 'demo/projects/kiss-the-fender', '--tcp', '0', '--pty', line], { encoding: 'utf8' })).toMatchObject({ status: 2, stderr: expect.stringContaining(`--pty ${line}: something is there already`) as string })
    const port = new SerialPort({ path: line, baudRate: 57_600 })
    const board = new Client(port as never, { reportVersionTimeout: 500, samplingInterval: 20 })
    await new Promise<void>((resolve, reject) => { board.once('ready', () => { resolve() }); board.once('error', reject) })
    expect(board.firmware.name).toBe('limpet')
    for (const pin of [LEFT_BACK, RIGHT_BACK]) { board.pinMode(pin, board.MODES.OUTPUT); board.digitalWrite(pin, 0) }
    for (const pin of [LEFT, RIGHT]) { board.pinMode(pin, board.MODES.PWM); board.pwmWrite(pin, 128) }
    const first = await new Promise<number>((resolve) => { board.analogRead(SONAR, resolve) })
    await expect.poll(() => board.pins[board.analogPins[SONAR]!]!.value, { timeout: 10_000 }).toBeLessThan(first - 100)
    await new Promise<void>((done) => { port.close(() => { done() }) })
    const { summary } = await run.ended()
    expect(summary).toMatchObject({ reason: 'the client has gone', contacts: 0 })
    expect(summary['path_m']).toBeGreaterThan(0.2)
    expect(existsSync(line)).toBe(false)
  }, 60_000)
  test('refuses a board that does not speak Firmata, and a wiring that cannot be built', () => {
    const says = (folder: string, ...more: readonly string[]) => spawnSync(process.execPath, ['--liftoff-only', program, 'board', folder, '--tcp', '0', ...more], { encoding: 'utf8' })
    expect(says('demo/projects/kiss-the-fender', '--board', 'rp2040')).toMatchObject({ status: 2, stderr: expect.stringContaining('--board is rp2040, which does not speak Firmata; allowed is firmata') })
    const folder = mkdtempSync(join(tmpdir(), 'mindpath-'))
    cpSync('demo', folder, { recursive: true })
    const path = join(folder, 'robots', 'limpet.json')
    const robot = JSON.parse(readFileSync(path, 'utf8')) as object
    writeFileSync(path, JSON.stringify({ ...robot, wiring: { board: 'firmata', ports: { P4: { by: 'switch', pins: { signal: 'D99' } } } } }))
    expect(says(join(folder, 'projects', 'kiss-the-fender'))).toMatchObject({ status: 2, stderr: expect.stringMatching(/limpet\.json: wiring\.ports\.P4\.pins\.signal: found D99/) })
  })
  test('is driven up to the fender by a Firmata client, and the run is kept, judged and the same again', async () => {
    const keep = join(mkdtempSync(join(tmpdir(), 'mindpath-')), 'wire.mindrun')
    const run = await begin('--realism', 'ideal', '--keep', keep)
    expect(run.says).toContain('left wheel, no encoder: power D3, direction D2')
    expect(run.says).toContain('sonar, voltage: signal A0')
    const { board, socket } = await client(run.port)
    expect(board.firmware.name).toBe('limpet')
    // One at a time: another client is let go at once, and another board cannot listen there.
    const other = connect(run.port, '127.0.0.1')
    await new Promise((resolve) => { other.once('close', resolve); other.on('error', () => undefined); other.resume() })
    expect(spawnSync(process.execPath, ['--liftoff-only', program, 'board', 'demo/projects/kiss-the-fender', '--tcp', String(run.port)], { encoding: 'utf8' }))
      .toMatchObject({ status: 2, stdout: '', stderr: expect.stringContaining(`--tcp ${run.port}: something listens there already`) })
    expect(board.pins[LEFT]!.supportedModes).toContain(board.MODES.PWM)
    for (const pin of [LEFT_BACK, RIGHT_BACK]) { board.pinMode(pin, board.MODES.OUTPUT); board.digitalWrite(pin, 0) }
    for (const pin of [LEFT, RIGHT]) board.pinMode(pin, board.MODES.PWM)
    const power = (share: number): void => { for (const pin of [LEFT, RIGHT]) board.pwmWrite(pin, Math.round(255 * share)) }
    let stood = 0
    await new Promise<void>((resolve) => {
      board.analogRead(SONAR, (value) => {
        const left = value * METRES - 0.12
        power(left > 0.35 ? 0.8 : left > 0.06 ? 0.25 : left > 0.006 ? 0.1 : 0)
        // Stands where it should for a while.
        if (left <= 0.006 && ++stood === 65) resolve()
      })
    })
    socket.destroy()
    const { status, summary } = await run.ended()
    expect(summary).toMatchObject({ ended: 'finished', reason: 'the client has gone', goals: [{ met: true }, { met: true }, { met: true }] })
    expect(status).toBe(0)
    const { stdout } = spawnSync(process.execPath, ['--liftoff-only', program, 'replay', keep, '--json'], { encoding: 'utf8' })
    expect(JSON.parse(stdout)).toMatchObject({ same: true })
  })
})
