import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join, resolve } from 'node:path'
import { runtimeFor, toArduino } from '../../core/export/arduino'
import type { ProgramData } from '../../core/program'
import { channelCount, type DeviceFacts, type RobotFacts } from '../../core/robot'
import type { VmInput } from '../../core/vm'
import type { Ran, Target } from './ran'

/**
 * Exported C++ on a course of readings: compiled for this machine, where a number has 64 bits, and for a chip with 8 bits, where it has 32, which
 * a simulator of such chips then runs.
 */

const HOST = resolve('prove/export/host')
const CHIP = resolve('prove/export/chip')
/** Where Debian's package keeps the headers of the simulated chips. */
export const CHIP_HEADERS = '-I/usr/include/simavr'
const WARNINGS = ['-std=gnu++11', '-Wall', '-Werror']

/** A program in C++ in a folder of its own, and what goes in and out of it. */
class Written {
  readonly folder = mkdtempSync(join(tmpdir(), 'mindpath-cpp-'))
  readonly devices: readonly DeviceFacts[]

  constructor(readonly program: ProgramData, readonly facts: RobotFacts, text: string, seed: number) {
    const made = toArduino(program, facts, text, seed)
    this.devices = facts.devices.filter(d => made.devices.has(d.name))
    writeFileSync(join(this.folder, 'program.h'), made.program)
    writeFileSync(join(this.folder, 'mindpath.h'), runtimeFor(facts, made.program))
  }

  /** Numbers of a tick that go in: whether the robot stands, then of each device its looks, when the latest began, and its readings. */
  get width(): number { return 1 + this.devices.reduce((n, d) => n + 2 + d.readings.length, 0) }

  /** Commands of a tick that come out. */
  get commands(): number { return this.facts.actuators.reduce((n, a) => n + (this.devices.some(d => d.name === a.name) ? a.channels : 0), 0) }

  path(name: string): string { return join(this.folder, name) }

  course(course: readonly VmInput[]): string {
    const data = new Float64Array(this.width * course.length)
    let at = 0
    for (const { raw, looks, began, still } of course) {
      data[at++] = still ? 1 : 0
      for (const d of this.devices) {
        data[at++] = looks[d.first]!
        data[at++] = began[d.first]!
        for (let i = 0; i < d.readings.length; i++) data[at++] = raw[d.first + i]!
      }
    }
    const file = this.path('readings')
    writeFileSync(file, new Uint8Array(data.buffer))
    return file
  }

  /** What it wrote of each tick; `behind` is told what stands behind that. */
  ran(written: string, behind: (text: string) => void = () => undefined): Ran {
    const channels = channelCount(this.facts)
    return written.split('\x1d').slice(0, -1).map((tick) => {
      const [told, control, numbers, more] = tick.split('\x1f') as [string, string, string, string | undefined]
      if (more !== undefined) behind(more)
      const given = numbers.trim().split(' ').map(number)
      const commands = new Float64Array(channels)
      let next = 0
      for (const a of this.facts.actuators) {
        const own = this.devices.some(d => d.name === a.name)
        // What a program has nothing to do with stands as it was at first; what is told for a tick alone is not told.
        a.initial.forEach((x, i) => { commands[a.channel + i] = own ? given[next++]! : a.stays[i]! ? x : 0 })
      }
      const said = told.split('\x1e').filter(line => line !== '')
      return { control, commands, told: said.filter(line => line !== 'over'), over: said.at(-1) === 'over' }
    })
  }

  free(): void { rmSync(this.folder, { recursive: true, force: true }) }
}

const number = (text: string): number => text === 'inf' ? Infinity : text === '-inf' ? -Infinity : /nan/.test(text) ? NaN : Number(text)

/** What a program printed. Throws Error with what it complained of where it did not end well. */
export function ran(command: string, given: readonly string[], what: string): { readonly stdout: string, readonly stderr: string } {
  const { status, signal, stdout, stderr } = spawnSync(command, given, { encoding: 'utf8', maxBuffer: 1 << 30 })
  if (status !== 0) throw new Error(`${what} (${status ?? signal}):\n${stderr.slice(0, 2000)}`)
  return { stdout, stderr }
}

/** On this machine: no text cut that a board would have to cut. */
function here(...more: readonly string[]): Target {
  const compile = (written: Written, ...what: readonly string[]): unknown =>
    ran('g++', [...WARNINGS, '-O0', '-DTEXT_ROOM=2000', ...more, `-I${HOST}`, `-I${written.folder}`, join(HOST, 'course.cpp'), ...what], 'it does not compile')
  return {
    run(program, facts, text, seed, course) {
      const written = new Written(program, facts, text, seed)
      try {
        compile(written, '-o', written.path('course'))
        return written.ran(ran(written.path('course'), [written.course(course)], 'it did not run').stdout)
      } finally { written.free() }
    },
    wrong(program, facts, text, seed) {
      const written = new Written(program, facts, text, seed)
      try {
        compile(written, '-fsyntax-only')
        return null
      } catch (error) { return (error as Error).message } finally { written.free() }
    },
  }
}
export const cppHere = here()
/** The same with numbers of 32 bits, as a chip with 8 has them. */
export const cppNarrow = here('-DNARROW', '-fsingle-precision-constant')

/** What a run on a chip took. */
export interface Took {
  /** Clock cycles of every tick: of the program alone, without its parts. */
  readonly cycles: readonly number[]
  /** Bytes of the program's code and numbers, without its parts, and the most that its calls had on the stack. */
  readonly flash: number
  readonly memory: number
  readonly stack: number
}

/** Chips of one kind with the same timing: the one that boards have, and one with more memory for what that has no room for. */
const CHIPS = [{ name: 'atmega328p', flash: 32_768, memory: 2048 }, { name: 'atmega1284p', flash: 131_072, memory: 16_384 }] as const

/** On a simulated ATmega: numbers have 32 bits. Throws Error with what was said where it cannot. `harness` is where what runs the chip stands, compiled. */
export class Chip implements Target {
  took: Took = { cycles: [], flash: 0, memory: 0, stack: 0 }

  private constructor(private readonly harness: string) {}

  static make(): Chip {
    const harness = join(mkdtempSync(join(tmpdir(), 'mindpath-chip-')), 'chip')
    ran('gcc', ['-O2', '-Wall', '-Werror', CHIP_HEADERS, join(CHIP, 'chip.c'), '-o', harness, '-lsimavr', '-lelf'], 'what runs the chip does not compile')
    return new Chip(harness)
  }

  run(program: ProgramData, facts: RobotFacts, text: string, seed: number, course: readonly VmInput[]): Ran {
    const written = new Written(program, facts, text, seed)
    try {
      const elf = written.path('course.elf')
      for (const chip of CHIPS) {
        compileForChip(written, chip.name, elf)
        const { flash, memory } = sizeOf(elf)
        // What its calls need besides.
        if (flash > chip.flash || memory + 256 > chip.memory) continue
        const places = new Map(ran('avr-nm', [elf], 'it has no names').stdout.split('\n').map((line): [string, number] => { const [at, , name] = line.split(' '); return [name ?? '', Number.parseInt(at!, 16) & 0xffff] }))
        const place = (name: string): string => String(places.get(name)!)
        const { stdout, stderr } = ran(this.harness, [
          elf, written.course(course), String(written.width), String(written.commands), String(program.lanes.length),
          ...['course_in', 'course_out', 'course_control', 'course_over'].map(place), chip.name,
        ], 'the chip stopped')
        const cycles: number[] = []
        const made = written.ran(stdout, more => cycles.push(Number(more)))
        this.took = { cycles, flash, memory, stack: 0x100 + chip.memory - 1 - Number(stderr) }
        return made
      }
      throw new Error('it fits no chip')
    } finally { written.free() }
  }

  free(): void { rmSync(dirname(this.harness), { recursive: true, force: true }) }

  wrong(program: ProgramData, facts: RobotFacts, text: string, seed: number): string | null {
    const written = new Written(program, facts, text, seed)
    try {
      compileForChip(written, CHIPS[1].name, written.path('course.elf'))
      return null
    } catch (error) { return (error as Error).message } finally { written.free() }
  }
}

function compileForChip(written: Written, chip: string, elf: string): void {
  const room = ['-Wl,--defsym=__TEXT_REGION_LENGTH__=131072', '-Wl,--defsym=__DATA_REGION_LENGTH__=16384']
  ran('avr-g++', [
    `-mmcu=${chip}`, '-DF_CPU=16000000L', '-Os', ...WARNINGS, '-fno-exceptions', '-fno-threadsafe-statics', '-ffunction-sections', '-fdata-sections', '-flto', '-Wl,--gc-sections', ...room,
    '-DTEXT_ROOM=200', `-DCOURSE_IN=${written.width}`, `-DCOURSE_OUT=${written.commands}`, `-I${HOST}`, `-I${written.folder}`, join(CHIP, 'course.cpp'), '-lm', '-o', elf,
  ], 'it does not compile')
}

/** Bytes of flash and of memory that what was compiled takes. */
export function sizeOf(elf: string): { readonly flash: number, readonly memory: number } {
  const sizes = new Map(ran('avr-size', ['-A', elf], 'it has no size').stdout.split('\n').map((line): [string, number] => { const [name, size] = line.trim().split(/\s+/); return [name ?? '', Number(size)] }))
  const size = (name: string): number => sizes.get(name) ?? 0
  return { flash: size('.text') + size('.data'), memory: size('.data') + size('.bss') + size('.noinit') }
}
