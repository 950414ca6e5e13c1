import { spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { runtimeFor, toArduino } from '../../core/export/arduino'
import type { ProgramData } from '../../core/program'
import { channelCount, type DeviceFacts, type RobotFacts } from '../../core/robot'
import type { VmInput } from '../../core/vm'
import type { Ran, Target } from './ran'

/** Exported C++ compiled for this machine, where a number has 64 bits: it runs on a course of readings as a board would, and faster. */

const HOST = resolve('prove/export/host')
/** No warnings, and no text cut that a board would have to cut. */
const FLAGS = ['-std=gnu++11', '-Wall', '-Werror', '-O0', '-DTEXT_ROOM=2000']

/** Throws Error with what the compiler said. */
class Compiled {
  private readonly folder = mkdtempSync(join(tmpdir(), 'mindpath-cpp-'))
  private readonly devices: readonly DeviceFacts[]

  constructor(program: ProgramData, private readonly facts: RobotFacts, text: string, seed: number, whole = true) {
    const made = toArduino(program, facts, text, seed)
    this.devices = facts.devices.filter(d => made.devices.has(d.name))
    writeFileSync(join(this.folder, 'program.h'), made.program)
    writeFileSync(join(this.folder, 'mindpath.h'), runtimeFor(facts, made.program))
    const { status, stderr } = spawnSync('g++', [...FLAGS, `-I${HOST}`, `-I${this.folder}`, join(HOST, 'course.cpp'), ...whole ? ['-o', join(this.folder, 'course')] : ['-fsyntax-only']], { encoding: 'utf8' })
    if (status !== 0) throw new Error(`it does not compile:\n${stderr.slice(0, 2000)}`)
  }

  run(course: readonly VmInput[]): Ran {
    const { facts, devices } = this
    const width = 1 + devices.reduce((n, d) => n + 2 + d.readings.length, 0)
    const data = new Float64Array(width * course.length)
    let at = 0
    for (const { raw, looks, began, still } of course) {
      data[at++] = still ? 1 : 0
      for (const d of devices) {
        data[at++] = looks[d.first]!
        data[at++] = began[d.first]!
        for (let i = 0; i < d.readings.length; i++) data[at++] = raw[d.first + i]!
      }
    }
    const file = join(this.folder, 'readings')
    writeFileSync(file, new Uint8Array(data.buffer))
    const { status, stdout, signal } = spawnSync(join(this.folder, 'course'), [file], { encoding: 'utf8', maxBuffer: 1 << 30 })
    if (status !== 0) throw new Error(`it ended with ${status ?? signal}`)
    const channels = channelCount(facts)
    return stdout.split('\x1d').slice(0, -1).map((tick) => {
      const [told, control, numbers] = tick.split('\x1f') as [string, string, string]
      const given = numbers.trim().split(' ').map(number)
      const commands = new Float64Array(channels)
      let next = 0
      for (const a of facts.actuators) {
        const own = devices.some(d => d.name === a.name)
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

export const cppHere: Target = {
  run(program, facts, text, seed, course) {
    const compiled = new Compiled(program, facts, text, seed)
    try { return compiled.run(course) } finally { compiled.free() }
  },
  wrong(program, facts, text, seed) {
    try {
      new Compiled(program, facts, text, seed, false).free()
      return null
    } catch (error) { return (error as Error).message }
  },
}
