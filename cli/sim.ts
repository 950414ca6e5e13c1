import { dirname, join } from 'node:path'
import { REALISMS, type RealismName } from '../core/devices'
import { checkProgram, compileProgram, placeOf } from '../core/language'
import type { ProgramData } from '../core/program'
import { loadPhysics } from '../core/physics'
import { factsOf } from '../core/robot'
import { Simulation, readProject, readProjectFile, startProblem, summarise } from '../core/simulation'
import { DEFAULT_LIMIT } from '../core/task'
import { findUnit, formatQuantity, kindName, readQuantity, unitsOfKind } from '../core/units'
import { readJson, readText } from './files'
import { numberOption, readOptions, UsageError } from './usage'

export const SIM_USAGE = 'mindpath sim PROJECT_FOLDER [--program FILE] [--seed N] [--realism ideal|typical|rough] [--seconds S] [--dial NAME=VALUE]... [--json]'

/** Runs a project headless. 0 when all goals are met, 1 when not, 2 when it could not run. */
export async function simCommand(args: readonly string[]): Promise<number> {
  const options = readOptions(args, { flags: ['--json'], values: ['--program', '--seed', '--realism', '--seconds'], lists: ['--dial'] }, SIM_USAGE)
  const folder = options.positional[0]
  if (folder === undefined || options.positional.length > 1) throw new UsageError(`expected one project folder. Usage: ${SIM_USAGE}`)
  const seed = numberOption(options, '--seed', 0, 4294967295, true) ?? 1
  const seconds = numberOption(options, '--seconds', 0.02, 3600, false)
  const realism = options.values.get('--realism') ?? 'typical'
  if (!(REALISMS as readonly string[]).includes(realism)) {
    throw new UsageError(`--realism is ${JSON.stringify(realism)}; allowed is ${REALISMS.join(', ')}`)
  }
  const file = readProjectFile(await readJson(join(folder, 'project.json')))
  if (!file.ok) throw new UsageError(file.problems.map(p => `${join(folder, 'project.json')}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  const at = (path: string): string => join(folder, path)
  const project = readProject({
    robot: await readJson(at(file.value.robot)),
    arena: await readJson(at(file.value.arena)),
    task: file.value.task === undefined ? null : await readJson(at(file.value.task)),
  })
  if (!project.ok) {
    const path = { robot: at(file.value.robot), arena: at(file.value.arena), task: at(file.value.task ?? ''), project: dirname(folder) }
    throw new UsageError(project.problems.map(p => `${path[p.document]}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  }
  const programPath = options.values.get('--program') ?? at(file.value.program)
  const text = await readText(programPath)
  const checked = checkProgram(text, factsOf(project.value.robot))
  if (!checked.runs) {
    const lines = checked.diagnostics.filter(d => d.severity === 'error').map(d => {
      const { line, column } = placeOf(text, d.range.from)
      return `${programPath}:${line}:${column}: ${d.message}`
    })
    throw new UsageError(`the program cannot run\n${lines.join('\n')}`)
  }
  await loadPhysics()
  const program = compileProgram(checked.analysis)
  const dials = (options.lists.get('--dial') ?? []).map(given => dialOf(given, program))
  const simulation = new Simulation({
    program, ...project.value,
    realism: realism as RealismName, seed, limit: seconds ?? project.value.task?.limit ?? DEFAULT_LIMIT,
  })
  const wrong = startProblem(simulation)
  if (wrong !== null) throw new UsageError(`${at(file.value.arena)}: ${wrong.path}: found ${wrong.value}; ${wrong.message}`)
  for (const [name, value] of dials) simulation.setDial(name, value)
  simulation.runToEnd()
  const summary = summarise(simulation)
  process.stdout.write(`${JSON.stringify(summary, null, options.flags.has('--json') ? 0 : 2)}\n`)
  return summary.ended !== 'error' && summary.goals.every(g => g.met) ? 0 : 1
}

/** A dial and its value, SI, from `NAME=VALUE` with its unit: `near=12 cm`. */
function dialOf(given: string, program: ProgramData): readonly [string, number] {
  const [, name, text] = /^(\w+)=(.+)$/.exec(given) ?? []
  if (name === undefined || text === undefined) throw new UsageError(`--dial is ${JSON.stringify(given)}; expected NAME=VALUE, such as near=12 cm. Usage: ${SIM_USAGE}`)
  const dial = program.dials.find(d => d.name === name)
  if (dial === undefined) throw new UsageError(`--dial ${given}: the program has no dial ${name}; it has ${program.dials.map(d => d.name).join(', ') || 'none'}`)
  const read = readQuantity(text, dial.kind)
  if (!read.ok) throw new UsageError(`--dial ${given}: ${read.reason} (a ${kindName(dial.kind)})`)
  const unit = (dial.unit === null ? undefined : findUnit(dial.unit)) ?? unitsOfKind(dial.kind)[0]
  const show = (value: number): string => unit === undefined ? String(value) : formatQuantity(value, unit)
  if (read.value < dial.from || read.value > dial.to) throw new UsageError(`--dial ${given}: allowed is from ${show(dial.from)} to ${show(dial.to)}`)
  return [name, read.value]
}
