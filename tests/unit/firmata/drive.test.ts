import { spawn, type ChildProcess } from 'node:child_process'
import { buildSync } from 'esbuild'
import { cpSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { createServer, type AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from 'vitest'
import { Firmware } from '../../../prove/export/firmware'

/** Programs that run here and drive a board: the real firmware on a simulated chip over a serial line, and the simulated robot over a socket. All in real time. */

const program = join(process.cwd(), '.build', 'drive-test.mjs')
buildSync({ entryPoints: ['cli/main.ts'], loader: { '.py': 'text', '.h': 'text' }, bundle: true, platform: 'node', format: 'esm', packages: 'external', outfile: program, logLevel: 'error' })

/** The demo projects, with limpet's wiring as it would be on a board that speaks Firmata: what its sonar's voltage means is given. */
const folder = mkdtempSync(join(tmpdir(), 'mindpath-'))
cpSync('demo', folder, { recursive: true })
const limpet = join(folder, 'robots', 'limpet.json')
writeFileSync(limpet, JSON.stringify({
  ...JSON.parse(readFileSync(limpet, 'utf8')) as object,
  wiring: {
    board: 'firmata',
    ports: {
      A: { by: 'no encoder', pins: { power: 'D3', direction: 'D2' } }, B: { by: 'no encoder', pins: { power: 'D5', direction: 'D4' } },
      P2: { by: 'voltage', pins: { signal: 'A0' }, curve: [{ volts: 0, reads: '0 cm' }, { volts: 5, reads: '2.5 m' }] },
      P4: { by: 'switch', pins: { signal: 'D8' } }, P5: { by: 'switch', pins: { signal: 'D12' } }, P1: { by: 'bus', pins: {}, bus: 'i2c', address: 0x68 }, P8: { by: 'three pins', pins: { red: 'D13', green: 'A1', blue: 'A2' } },
    },
  },
}))
const project = join(folder, 'projects', 'kiss-the-fender')

interface Ended { readonly status: number | null, readonly out: string, readonly says: string }
/** Starts a command of Mindpath. */
function begin(command: string, of: string, ...more: readonly string[]): { readonly child: ChildProcess, readonly ended: Promise<Ended>, says(what: RegExp): Promise<string> } {
  const child = spawn(process.execPath, ['--liftoff-only', program, command, of, ...more], { stdio: ['ignore', 'pipe', 'pipe'] })
  let [out, said] = ['', '']
  const waiting: (() => void)[] = []
  child.stdout.on('data', (piece: Buffer) => { out += piece.toString() })
  child.stderr.on('data', (piece: Buffer) => { said += piece.toString(); for (const look of waiting) look() })
  const ended = new Promise<Ended>((resolve) => { child.on('close', (status) => { resolve({ status, out, says: said }) }) })
  return {
    child, ended,
    says: what => new Promise((resolve, reject) => {
      const look = (): void => { const found = what.exec(said); if (found !== null) resolve(found[1] ?? found[0]) }
      waiting.push(look)
      look()
      void ended.then(() => { reject(new Error(`it ended without saying ${String(what)}: ${said}`)) })
    }),
  }
}

/** The registers of a gyro that stands level. */
const LEVEL_GYRO = Buffer.from(Uint8Array.from({ length: 128 }, (_, i) => i === 0x75 ? 0x68 : i === 0x3f ? 0x40 : 0)).toString('hex')
/** A robot with two motors, a wall half a metre ahead of its sonar, and bumpers that nothing presses. */
const ROLLING = ['ahead 0.5', 'far 0 2000', 'wheel 3 2 -1 -1 0 10 0.03', 'wheel 5 4 -1 -1 0 10 0.03', 'level 8 1 0', 'level 12 1 0', `bus 0x68 ${LEVEL_GYRO}`]

/** Both wheels have turned, and have no power any more. */
function stands(printed: string): void {
  for (const wheel of [0, 1]) {
    const [, angle, power] = new RegExp(`wheel ${wheel} angle (\\S+) speed \\S+ power (\\S+)`).exec(printed) ?? []
    expect(Number(angle)).toBeGreaterThan(0.1)
    expect(Number(power)).toBe(0)
  }
}

describe('./mindpath drive', () => {
  let firmware: Firmware
  beforeAll(() => { firmware = new Firmware() })
  afterAll(() => { firmware.free() })

  test('drives the real firmware on a simulated chip up to a wall, by its sonar, and leaves its motors off', async () => {
    const board = await firmware.start(60, ROLLING)
    const { status, out, says } = await begin('drive', project, '--wire', board.line, '--json').ended
    expect(says).toMatch(/StandardFirmata\S* answers in [\d.]+ ms; the run begins/)
    expect(says).toMatch(/there and back took [\d.]+ ms/)
    const summary = JSON.parse(out) as { reason: string, notes: { text: string }[], goals: { met: boolean }[] }
    expect(summary).toMatchObject({ ended: 'finished', reason: 'alongside' })
    const printed = await board.stop()
    const ahead = Number(/ahead (\S+)/.exec(printed)![1])
    // Where its sonar says that it stopped it stands, and that is before the wall, where the program put the brakes on.
    expect(Math.abs(Number.parseFloat(summary.notes[0]!.text.replace('stopped at ', '')) / 100 - ahead)).toBeLessThan(0.011)
    expect(ahead).toBeGreaterThan(0.04)
    expect(ahead).toBeLessThan(0.131)
    stands(printed)
    // The goals are judged where the simulated robot came to that goes along: how near to the real one that is, time decides.
    expect(summary.goals.length).toBeGreaterThan(0)
    expect(status).toBe(summary.goals.every(g => g.met) ? 0 : 1)
  }, 90_000)

  test('takes what is real from the board and all else from the simulation: real bumpers stop simulated wheels', async () => {
    // The left bumper is pressed from the seventh second of the board on.
    const board = await firmware.start(60, [...ROLLING.slice(4), 'level 8 0 5'])
    const other = join(folder, 'bumpers.mindpath')
    writeFileSync(other, 'when bumper_left.pressed\n  finish "met"\notherwise\n  drive 10 cm/s\n')
    const keep = join(folder, 'bumpers.mindrun')
    const { out, says } = await begin('drive', project, '--wire', board.line, '--real', 'bumper_left', '--program', other, '--seconds', '20', '--keep', keep, '--json').ended
    const printed = await board.stop()
    expect(says).toContain('bumper_left: real\n')
    expect(says).toContain('wheels: simulated\n')
    const summary = JSON.parse(out) as { reason: string, time_s: number, path_m: number }
    expect(summary.reason).toBe('met')
    expect(summary.path_m).toBeGreaterThan(0.05 * summary.time_s)
    // Nothing went to the motors' pins.
    expect(printed).not.toMatch(/^pin [35] /m)
    expect(JSON.parse((await begin('replay', keep, '--json').ended).out)).toMatchObject({ same: true })
  }, 90_000)

  test('stops the robot when it is asked to end, and ends when the wire is lost', async () => {
    const first = await firmware.start(60, ROLLING.with(0, 'ahead 30'))
    const driving = begin('drive', project, '--wire', first.line, '--json')
    await driving.says(/the run begins/)
    await new Promise(done => setTimeout(done, 1500))
    driving.child.kill('SIGTERM')
    const stopped = await driving.ended
    expect(JSON.parse(stopped.out)).toMatchObject({ ended: 'finished', reason: 'stopped' })
    expect(stopped.says).not.toContain('may not have heard')
    const printed = await first.stop()
    stands(printed)
    const second = await firmware.start(60, ROLLING.with(0, 'ahead 30'))
    const lost = begin('drive', project, '--wire', second.line, '--json')
    await lost.says(/the run begins/)
    await second.stop()
    const { status, out, says } = await lost.ended
    expect(status).toBe(1)
    expect(JSON.parse(out)).toMatchObject({ reason: expect.stringMatching(/^(the wire is gone|the board has said nothing)/) })
    expect(says).toContain('it may not have heard that it is to stop; what it did last goes on until it is switched off')
  }, 90_000)

  test('drives the simulated robot at the other end of a socket, whose goals are judged there', async () => {
    const board = begin('board', project, '--tcp', '0', '--realism', 'ideal', '--json')
    const port = await board.says(/127\.0\.0\.1:(\d+)/)
    const { says } = await begin('drive', project, '--wire', `tcp://127.0.0.1:${port}`, '--json').ended
    expect(says).toContain('limpet answers in')
    expect(says).toContain('floor: simulated (it is not connected)')
    const far = JSON.parse((await board.ended).out) as { reason: string, path_m: number, contacts: number }
    expect(far).toMatchObject({ reason: 'the client has gone', contacts: 0 })
    expect(far.path_m).toBeGreaterThan(1.5)
  }, 60_000)

  test('says what is wrong with a wire, a device or a board', async () => {
    const says = (...more: readonly string[]) => begin('drive', project, ...more).ended
    const wrong: readonly (readonly [options: readonly string[], says: string | RegExp])[] = [
      [['--wire', join(folder, 'nothing-here')], /--wire: .*nothing-here cannot be opened: there is no such port/],
      [['--wire', 'tcp://127.0.0.1:1'], 'tcp://127.0.0.1:1 cannot be opened: nothing listens there'],
      [['--wire', 'tcp://nowhere'], 'tcp://nowhere is no address: expected tcp://HOST:PORT'],
      [['--wire', 'x', '--real', 'periscope'], '--real: the robot has no device periscope; it has wheels, sonar'],
      [['--wire', 'x', '--real', 'horn'], '--real: horn cannot be real: it is not connected'],
      [['--wire', 'x', '--board', 'rp2040'], '--board is rp2040, which does not speak Firmata; allowed is firmata'],
    ]
    for (const [i, { status, says: said }] of (await Promise.all(wrong.map(([options]) => says(...options)))).entries()) {
      expect(status).toBe(2)
      expect(said).toMatch(wrong[i]![1])
    }
    // Somebody listens who speaks something else.
    const server = createServer((socket) => { socket.write('220 welcome\r\n'); socket.on('error', () => undefined) })
    await new Promise<void>((done) => { server.listen(0, '127.0.0.1', done) })
    const { port } = server.address() as AddressInfo
    expect(await says('--wire', `tcp://127.0.0.1:${port}`)).toMatchObject({ status: 2, says: expect.stringContaining('nothing at the other end of the wire speaks Firmata') as string })
    server.close()
  }, 60_000)
})
