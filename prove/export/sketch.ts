import { mkdtempSync, readdirSync, mkdirSync, rmSync, writeFileSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { tmpdir } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { exportTo } from '../../core/export'
import { BOARDS, wiringOn, type Board } from '../../core/hardware'
import type { Robot, Wiring } from '../../core/robot'
import { CHIP_HEADERS, ran, sizeOf } from './arduino'

/** Whole exported sketches with their drivers, compiled with the boards' own library, and run on a simulated board with things at its pins. */

/** Where Debian's package keeps the boards' library. */
const CORE = '/usr/share/arduino/hardware/arduino/avr'
const FLAGS = [
  '-mmcu=atmega328p', '-DF_CPU=16000000L', '-DARDUINO=10819', '-DARDUINO_ARCH_AVR', '-Os', '-ffunction-sections', '-fdata-sections', '-flto', '-fno-fat-lto-objects',
  ...[`${CORE}/cores/arduino`, `${CORE}/variants/standard`, `${CORE}/libraries/Wire/src`, `${CORE}/libraries/Wire/src/utility`].map(path => `-I${path}`),
]
const CPP = ['-std=gnu++11', '-DDECIMAL_DIG=__DECIMAL_DIG__', '-fpermissive', '-fno-exceptions', '-fno-threadsafe-statics']

export const ATMEGA: Board = BOARDS.find(b => b.name === 'atmega328p')!

/** What a pin did: its edges, its latest high time and period in microseconds, the share of the last 50 ms that it was high, and the bits that it was told as a data line. */
export interface PinDid { readonly edges: number, readonly high: number, readonly period: number, readonly share: number, readonly duty: number, readonly level: number, readonly bits: string }

export interface BoardRan {
  /** Lines of the serial line with their times, s. */
  readonly said: readonly { readonly at: number, readonly line: string }[]
  readonly pins: ReadonlyMap<number, PinDid>
  /** Radians of each wheel. */
  readonly wheels: readonly number[]
  /** How far away the wall is, metres; null where there is none. */
  readonly ahead: number | null
}

/** Compiles sketches and runs them. Throws Error with what a compiler said. */
export class Bench {
  private readonly folder = mkdtempSync(join(tmpdir(), 'mindpath-sketch-'))
  private readonly library: string

  constructor() {
    const objects: string[] = []
    const files = (folder: string, end: string): readonly string[] => readdirSync(folder).filter(f => f.endsWith(end)).map(f => join(folder, f))
    const compile = (command: string, flags: readonly string[], file: string): void => {
      const object = join(this.folder, `${objects.length}.o`)
      ran(command, [...FLAGS, '-w', ...flags, '-c', file, '-o', object], 'the boards\u2019 library does not compile')
      objects.push(object)
    }
    for (const folder of [`${CORE}/cores/arduino`, `${CORE}/libraries/Wire/src/utility`]) files(folder, '.c').forEach(f => compile('avr-gcc', ['-std=gnu11'], f))
    files(`${CORE}/cores/arduino`, '.S').forEach(f => compile('avr-gcc', ['-x', 'assembler-with-cpp'], f))
    for (const folder of [`${CORE}/cores/arduino`, `${CORE}/libraries/Wire/src`]) files(folder, '.cpp').forEach(f => compile('avr-g++', CPP, f))
    this.library = join(this.folder, 'core.a')
    ran('avr-gcc-ar', ['rcs', this.library, ...objects], 'the boards\u2019 library is not put together')
    ran('gcc', ['-O2', '-Wall', '-Werror', CHIP_HEADERS, resolve('prove/export/chip/pins.c'), '-o', join(this.folder, 'pins'), '-lsimavr', '-lelf', '-lm'], 'what runs the board does not compile')
  }

  /** A program as a sketch; `wiring`: that which would do, where none is given. `whole`: links though it has no room on the chip. */
  compile(text: string, robot: Robot, wiring: Wiring = wiringOn(robot, ATMEGA).wiring): { readonly elf: string, readonly flash: number, readonly memory: number } {
    const made = exportTo('arduino', { text, robot, board: ATMEGA, wiring, seed: 1 })
    if (!made.ok) throw new Error([made.says, ...made.diagnostics.map(d => d.message)].join('\n'))
    const folder = mkdtempSync(join(this.folder, 'sketch-'))
    for (const [name, file] of Object.entries(made.files)) {
      mkdirSync(dirname(join(folder, name)), { recursive: true })
      writeFileSync(join(folder, name), file)
    }
    const elf = join(folder, 'sketch.elf')
    const room = ['-Wl,--defsym=__TEXT_REGION_LENGTH__=131072', '-Wl,--defsym=__DATA_REGION_LENGTH__=16384']
    ran('avr-g++', [...FLAGS, ...CPP, '-Wall', '-Werror', '-Wl,--gc-sections', '-fuse-linker-plugin', ...room, '-x', 'c++', join(folder, robot.name, `${robot.name}.ino`), '-x', 'none', this.library, '-lm', '-o', elf], 'the sketch does not compile')
    return { elf, ...sizeOf(elf) }
  }

  /** `connected`: what stands at its pins, as prove/export/chip/pins.c reads it. */
  run(elf: string, seconds: number, connected: readonly string[]): BoardRan {
    const { status, stdout, stderr } = spawnSync(join(this.folder, 'pins'), [elf, String(seconds)], { input: connected.map(l => `${l}\n`).join(''), encoding: 'utf8', maxBuffer: 1 << 28 })
    if (status !== 0) throw new Error(`the board stopped (${status}): ${stderr}`)
    const lines = stdout.split('\n')
    const said = lines.flatMap((l) => { const m = /^(\d+\.\d+) (.*)$/.exec(l); return m === null ? [] : [{ at: Number(m[1]), line: m[2]! }] })
    const pins = new Map(lines.flatMap((l): [number, PinDid][] => {
      const m = /^pin (\d+) edges (\d+) high (\S+) period (\S+) share (\S+) duty (\S+) level (\d) bits (\S+)$/.exec(l)
      return m === null ? [] : [[Number(m[1]), { edges: Number(m[2]), high: Number(m[3]), period: Number(m[4]), share: Number(m[5]), duty: Number(m[6]), level: Number(m[7]), bits: m[8]! }]]
    }))
    const wheels = lines.flatMap((l) => { const m = /^wheel \d+ angle (\S+)/.exec(l); return m === null ? [] : [Number(m[1])] })
    const ahead = lines.flatMap((l) => { const m = /^ahead (\S+)$/.exec(l); return m === null ? [] : [Number(m[1])] })[0]
    return { said, pins, wheels, ahead: ahead ?? null }
  }

  free(): void { rmSync(this.folder, { recursive: true, force: true }) }
}
