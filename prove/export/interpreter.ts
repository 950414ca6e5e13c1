import { readFileSync } from 'node:fs'
import { loadMicroPython } from '@micropython/micropython-webassembly-pyscript/micropython.mjs'
import { runtimeFor, toMicroPython } from '../../core/export/micropython'
import type { ProgramData } from '../../core/program'
import { channelCount, type RobotFacts } from '../../core/robot'
import type { VmInput } from '../../core/vm'
import type { Ran, Target } from './ran'

/**
 * MicroPython's own interpreter, which runs an exported program on a course of readings and keeps what it told its devices,
 * which rules had control, and what it said.
 */

const HARNESS = `
import sys, array
sys.path.insert(0, "/robot")
for name in ("program", "mindpath"):
    if name in sys.modules:
        del sys.modules[name]
import mindpath
from mindpath import now, run_tick, is_over
told = []
now.tell = lambda kind, about, text: told.append(kind + " " + about + " " + text)
import program
ticks, names, shape, acting = COURSE
by_name = {device.name: device for device in now.devices}
data = array.array("d", open("/robot/course", "rb").read())
width = len(data) // ticks
commands = array.array("d")
controls = []
said = []
for tick in range(ticks):
    at = tick * width
    now.still = data[at] != 0
    at += 1
    for i, name in enumerate(names):
        count = shape[i]
        device = by_name.get(name)
        if device is None:
            at += 2 + count
            continue
        device._looks = data[at]
        device._began = data[at + 1]
        device.take([data[at + 2 + k] for k in range(count)])
        at += 2 + count
    run_tick()
    for name, initial in acting:
        for x in by_name[name].told if name in by_name else initial:
            commands.append(x)
    controls.append("; ".join(["%d %d %d" % (lane.phase, -1 if lane.mode is None else lane.modes.index(lane.mode), -1 if lane.control is None or lane.mode is None else lane.control.number) for lane in now.lanes]))
    said.append("\\x1e".join(told) + ("\\x1eover" if now.finished is not None or is_over() else ""))
    del told[:]
    if now.finished is not None or is_over():
        break
open("/robot/commands", "wb").write(commands)
open("/robot/controls", "w").write("\\n".join(controls))
open("/robot/said", "w").write("\\x1d".join(said))
`

/** Several interpreters may be loaded, one after another; each has its own files. */
export class Interpreter implements Target {
  private constructor(private readonly python: Awaited<ReturnType<typeof loadMicroPython>>, private readonly says: string[]) {}

  static async load(): Promise<Interpreter> {
    const says: string[] = []
    const python = await loadMicroPython({ heapsize: 64 * 1024 * 1024, stdout: line => says.push(line), stderr: line => says.push(line) })
    python.FS.mkdir('/robot')
    return new Interpreter(python, says)
  }

  wrong(data: ProgramData, facts: RobotFacts, text: string, seed: number): string | null {
    const { program } = toMicroPython(data, facts, text, seed)
    try {
      const runtime = runtimeFor(facts, program)
      for (const [name, text] of Object.entries({ program, runtime })) this.python.runPython(`compile(${JSON.stringify(text).replace(/[\u007f-\uffff]/g, c => `\\u${c.charCodeAt(0).toString(16).padStart(4, '0')}`)}, "${name}.py", "exec")`)
      return null
    } catch (error) { return (error as Error).message }
  }

  /** Puts files where programs look for modules, forgets those of before, and runs a script; what it printed. Throws Error with what the interpreter said. */
  script(files: Readonly<Record<string, string>>, script: string): readonly string[] {
    for (const [name, text] of Object.entries(files)) this.python.FS.writeFile(`/robot/${name}`, text)
    this.says.length = 0
    this.python.runPython(`import sys\nsys.path.insert(0, "/robot")\nfor name in (${Object.keys(files).map(f => `"${f.replace(/\.py$/, '')}",`).join('')}):\n    sys.modules.pop(name, None)\n${script}`)
    return [...this.says]
  }

  /** Bytes of the interpreter's memory that stay taken when a program's files are there, on a board on which nothing happens. One interpreter for each program. */
  memoryOf(files: Readonly<Record<string, string>>): number {
    // What is no longer needed is given back between two scripts alone.
    const taken = (): number => { this.python.runPython('import gc\ngc.collect()'); this.says.length = 0; this.python.runPython('print(gc.mem_alloc())'); return Number(this.says.at(-1)) }
    const others = { 'machine.py': readFileSync('prove/export/machine.py', 'utf8'), 'neopixel.py': 'from machine import Anything as NeoPixel\n' }
    for (const [name, text] of Object.entries({ ...others, ...files })) this.python.FS.writeFile(`/robot/${name}`, text)
    this.python.runPython('import sys\nsys.path.insert(0, "/robot")\nimport machine, neopixel, time, framebuf')
    const before = taken()
    this.python.runPython('import hardware')
    return taken() - before
  }

  run(data: ProgramData, facts: RobotFacts, text: string, seed: number, course: readonly VmInput[]): Ran {
    const exported = toMicroPython(data, facts, text, seed)
    const { FS } = this.python
    FS.writeFile('/robot/mindpath.py', runtimeFor(facts, exported.program))
    FS.writeFile('/robot/program.py', exported.program)
    const width = 1 + facts.devices.reduce((n, d) => n + 2 + d.readings.length, 0)
    const readings = new Float64Array(width * course.length)
    course.forEach(({ raw, looks, began, still }, tick) => {
      let at = tick * width
      readings[at++] = still ? 1 : 0
      for (const d of facts.devices) {
        readings[at++] = looks[d.first]!
        readings[at++] = began[d.first]!
        for (let i = 0; i < d.readings.length; i++) readings[at++] = raw[d.first + i]!
      }
    })
    FS.writeFile('/robot/course', new Uint8Array(readings.buffer))
    // What a program has nothing to do with stands as it was at first; what is told for a tick alone is not told.
    const tuple = (all: readonly (string | number)[]): string => `(${all.map(x => `${x},`).join('')})`
    const acting = facts.actuators.map(a => tuple([JSON.stringify(a.name), tuple(a.initial.map((x, i) => a.stays[i]! ? x : 0))]))
    this.says.length = 0
    this.python.runPython(HARNESS.replace('COURSE', tuple([course.length, tuple(facts.devices.map(d => JSON.stringify(d.name))), tuple(facts.devices.map(d => d.readings.length)), tuple(acting)])))
    const read = FS.readFile('/robot/commands') as Uint8Array<ArrayBuffer>
    const commands = new Float64Array(read.slice().buffer)
    const channels = channelCount(facts)
    const said = (FS.readFile('/robot/said', { encoding: 'utf8' }) as string).split('\x1d')
    return (FS.readFile('/robot/controls', { encoding: 'utf8' }) as string).split('\n').map((control, tick) => {
      const told = said[tick]!.split('\x1e').filter(line => line !== '')
      return { control, commands: commands.subarray(tick * channels, (tick + 1) * channels), told: told.filter(line => line !== 'over'), over: told.at(-1) === 'over' }
    })
  }
}
