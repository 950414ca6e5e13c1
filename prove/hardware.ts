import { join } from 'node:path'
import { readFolder } from '../cli/project'
import { loadPhysics } from '../core/physics'
import { factsOf, readRobot, type RobotFacts } from '../core/robot'
import { openRun } from '../core/simulation'
import { DEFAULT_LIMIT } from '../core/task'
import { readFileSync } from 'node:fs'
import { difference } from './export/held-against'
import { Interpreter } from './export/interpreter'
import { randomExports } from './export/random'
import { demoProjects } from './fingerprints'

/** Programs carried to a board against the machine here, as far as interpreters and simulated chips stand in for one. */

const ROBOTS = ['limpet', 'cuttle', 'winkle', 'heron']

export interface Held { readonly project: string, readonly ticks: number, readonly differs: string | null }

/** Every demo project's program in MicroPython, on the courses of rough runs: of as many seeds as come to so many ticks. */
export async function demosInPython(ticks: number, tell: (text: string) => void): Promise<readonly Held[]> {
  await loadPhysics()
  const held: Held[] = []
  for (const project of demoProjects()) {
    // One each: what an interpreter keeps of a program is not given back.
    const interpreter = await Interpreter.load()
    const { documents, program } = await readFolder(join('demo/projects', project))
    let done = 0
    let differs: string | null = null
    for (let seed = 1; done < ticks && differs === null; seed++) {
      const opened = await openRun({ ...documents, program, realism: 'rough', seed, limit: DEFAULT_LIMIT })
      if (!opened.ok) throw new Error(`${project}: ${JSON.stringify([opened.problems, opened.diagnostics])}`)
      const { simulation } = opened
      const course = simulation.recordCourse()
      simulation.runToEnd()
      const { input, facts } = simulation
      differs = difference(interpreter, input.program!, facts, program, seed, course.map(c => c.input))
      if (differs !== null) differs = `seed ${seed}, ${differs}`
      done += course.length
      simulation.free()
    }
    held.push({ project, ticks: done, differs })
    tell(`${project}: ${done} ticks, ${differs ?? 'equal'}`)
  }
  return held
}

/** Random programs in MicroPython on random readings, shared out over the demo robots; what differed. */
export async function randomInPython(count: number, ticks: number, tell: (text: string) => void): Promise<readonly string[]> {
  const wrong: string[] = []
  for (const robot of ROBOTS) wrong.push(...randomExports(await Interpreter.load(), robot, factsOfDemo(robot), Math.ceil(count / ROBOTS.length), ticks, 1, tell))
  return wrong
}

function factsOfDemo(robot: string): RobotFacts {
  const read = readRobot(JSON.parse(readFileSync(`demo/robots/${robot}.json`, 'utf8')))
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return factsOf(read.value)
}
