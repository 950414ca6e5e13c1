import { mkdtempSync, readdirSync, mkdirSync, rmSync, writeFileSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { tmpdir } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { exportTo } from '../../core/export'
import { BOARDS, wiringOn, type Board } from '../../core/hardware'
import { needsOf, type Needs } from '../../core/export/arduino'
import type { Robot } from '../../core/robot'
import { CHIP_HEADERS, ran, sizeOf } from './arduino'

/** Whole exported sketches with their drivers, compiled with the boards' own library, and run on a simulated board with things at its pins. */

/** Where Debian's package keeps the boards' library. */
const CORE = '/usr/share/arduino/hardware/arduino/avr'
const CHIPS: Readonly<Record<string, { readonly chip: string, readonly variant: string }>> = { atmega328p: { chip: 'atmega328p', variant: 'standard' }, atmega2560: { chip: 'atmega2560', variant: 'mega' } }
const flagsFor = ({ name }: Board): readonly string[] => [
  `-mmcu=${CHIPS[name]!.chip}`, '-DF_CPU=16000000L', '-DARDUINO=10819', '-DARDUINO_ARCH_AVR', '-Os', '-ffunction-sections', '-fdata-sections', '-flto', '-fno-fat-lto-objects',
  ...[`${CORE}/cores/arduino`, `${CORE}/variants/${CHIPS[name]!.variant}`, `${CORE}/libraries/Wire/src`, `${CORE}/libraries/Wire/src/utility`].map(path => `-I${path}`),
]
const CPP = ['-std=gnu++11', '-DDECIMAL_DIG=__DECIMAL_DIG__', '-fpermissive', '-fno-exceptions', '-fno-threadsafe-statics']

export const ATMEGA: Board = BOARDS.find(b => b.name === 'atmega328p')!
export const ATMEGA_LONG: Board = BOARDS.find(b => b.name === 'atmega2560')!

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
  /** The dots of a display, a line of # and . each; empty where there is none. */
  readonly dots: readonly string[]
}

/** A sketch that was compiled: bytes that it takes, and those that were expected beforehand; devices that it is without. */
export interface Sketch { readonly elf: string, readonly flash: number, readonly memory: number, readonly expected: Needs, readonly missing: readonly string[] }

/** Compiles sketches and runs them. Throws Error with what a compiler said. */
export class Sketches {
  private readonly folder = mkdtempSync(join(tmpdir(), 'mindpath-sketch-'))
  /** The boards' own library, for each board that was asked for. */
  private readonly libraries = new Map<Board, string>()

  constructor() {
    ran('gcc', ['-O2', '-Wall', '-Werror', CHIP_HEADERS, resolve('prove/export/chip/pins.c'), '-o', join(this.folder, 'pins'), '-lsimavr', '-lelf', '-lm'], 'what runs the board does not compile')
  }

  private libraryFor(board: Board): string {
    const made = this.libraries.get(board)
    if (made !== undefined) return made
    const objects: string[] = []
    const files = (folder: string, end: string): readonly string[] => readdirSync(folder).filter(f => f.endsWith(end)).map(f => join(folder, f))
    const compile = (command: string, flags: readonly string[], file: string): void => {
      const object = join(this.folder, `${board.name}-${objects.length}.o`)
      ran(command, [...flagsFor(board), '-w', ...flags, '-c', file, '-o', object], 'the boards\u2019 library does not compile')
      objects.push(object)
    }
    for (const folder of [`${CORE}/cores/arduino`, `${CORE}/libraries/Wire/src/utility`]) files(folder, '.c').forEach(f => compile('avr-gcc', ['-std=gnu11'], f))
    files(`${CORE}/cores/arduino`, '.S').forEach(f => compile('avr-gcc', ['-x', 'assembler-with-cpp'], f))
    for (const folder of [`${CORE}/cores/arduino`, `${CORE}/libraries/Wire/src`]) files(folder, '.cpp').forEach(f => compile('avr-g++', CPP, f))
    const library = join(this.folder, `${board.name}.a`)
    ran('avr-gcc-ar', ['rcs', library, ...objects], 'the boards\u2019 library is not put together')
    this.libraries.set(board, library)
    return library
  }

  /** A program as a sketch, wired as would do, though it may have no room on the board. Throws RangeError where it cannot be carried there. */
  compile(text: string, robot: Robot, board: Board = ATMEGA): Sketch {
    const made = exportTo('arduino', { text, robot, board, wiring: wiringOn(robot, board).wiring, seed: 1 })
    if (!made.ok) throw new RangeError([made.says, ...made.diagnostics.map(d => d.message)].join('\n'))
    const folder = mkdtempSync(join(this.folder, 'sketch-'))
    for (const [name, file] of Object.entries(made.files)) {
      mkdirSync(dirname(join(folder, name)), { recursive: true })
      writeFileSync(join(folder, name), file)
    }
    const elf = join(folder, 'sketch.elf')
    const room = ['-Wl,--defsym=__TEXT_REGION_LENGTH__=131072', '-Wl,--defsym=__DATA_REGION_LENGTH__=16384']
    ran('avr-g++', [...flagsFor(board), ...CPP, '-Wall', '-Werror', '-Wl,--gc-sections', '-fuse-linker-plugin', ...room, '-x', 'c++', join(folder, robot.name, `${robot.name}.ino`), '-x', 'none', this.libraryFor(board), '-lm', '-o', elf], 'the sketch does not compile')
    return { elf, ...sizeOf(elf), expected: needsOf(made.files), missing: made.differs.flatMap(d => d.absent ? [d.device] : []) }
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
    return { said, pins, wheels, ahead: ahead ?? null, dots: lines.flatMap(l => l.startsWith('dots ') ? [l.slice(5)] : []) }
  }

  free(): void { rmSync(this.folder, { recursive: true, force: true }) }
}
