import { Controller } from '../../core/controller'
import type { ProgramData } from '../../core/program'
import type { RobotFacts } from '../../core/robot'
import type { VmInput } from '../../core/vm'
import type { Ran, Target } from './ran'

/** What the machine here does on a course, as an exported program's run is written down. */
export function ranHere(program: ProgramData, facts: RobotFacts, seed: number, course: readonly VmInput[]): Ran {
  const controller = new Controller(program, facts, seed)
  const ran: Ran[number][] = []
  for (const input of course) {
    controller.tick({ sense: () => input, obey: () => undefined })
    const control = program.lanes.map((_, i) => controller.lane(i)).map(l => `${l.phase} ${l.mode} ${l.rule}`).join('; ')
    ran.push({ control, commands: controller.commands.slice(), told: controller.told.map(e => `${e.type} ${e.about} ${e.text}`), over: controller.end !== null })
    if (controller.end !== null) break
  }
  return ran
}

/** Numbers are equal within so much of the larger one: the course's own doubles go in, and out come the target's. */
const RESOLUTION = 1e-9
const near = (a: number, b: number, resolution: number): boolean => a === b || Math.abs(a - b) <= resolution * Math.max(1, Math.abs(a), Math.abs(b)) || (Number.isNaN(a) && Number.isNaN(b))

/** Displays are told at the end of a tick, and once. */
function settled(told: readonly string[]): string {
  const shown = new Map(told.filter(l => l.startsWith('show ')).map((l): [string, string] => [l.split(' ', 2)[1]!, l]))
  return [...[...shown.values()].sort(), ...told.filter(l => !l.startsWith('show '))].join('\n')
}

/** The first tick in which a program does other in another language than in the machine here, told; null where none does. */
export const difference = (target: Target, program: ProgramData, facts: RobotFacts, text: string, seed: number, course: readonly VmInput[]): string | null =>
  firstDifference(ranHere(program, facts, seed, course), target.run(program, facts, text, seed, course))

/** The first tick in which one run is other than another, told; null where none is. */
export function firstDifference(here: Ran, there: Ran, resolution = RESOLUTION): string | null {
  for (let tick = 0; tick < Math.max(here.length, there.length); tick++) {
    const a = here[tick]
    const b = there[tick]
    if (a === undefined || b === undefined) return `tick ${tick}: one had ended, one had not`
    const same = a.control === b.control && a.over === b.over && settled(a.told) === settled(b.told) && a.commands.length === b.commands.length && a.commands.every((x, i) => near(x, b.commands[i]!, resolution))
    if (!same) return `tick ${tick}\nhere:  ${a.control} | ${[...a.commands].join(' ')} | ${settled(a.told)} | ${String(a.over)}\nthere: ${b.control} | ${[...b.commands].join(' ')} | ${settled(b.told)} | ${String(b.over)}`
  }
  return null
}
