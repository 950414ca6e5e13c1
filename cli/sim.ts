import { dirname, join } from 'node:path'
import { REALISMS, type RealismName } from '../core/devices'
import { checkProgram, compileProgram, placeOf } from '../core/language'
import { loadPhysics } from '../core/physics'
import { factsOf } from '../core/robot'
import { Simulation, readProject, readProjectFile, summarise } from '../core/simulation'
import { DEFAULT_LIMIT } from '../core/task'
import { readJson, readText } from './files'
import { numberOption, readOptions, UsageError } from './usage'

const USAGE = 'mindpath sim PROJECT_FOLDER [--program FILE] [--seed N] [--realism ideal|typical|rough] [--seconds S] [--json]'

/** Runs a project headless. 0 when all goals are met, 1 when not, 2 when it could not run. */
export async function simCommand(args: readonly string[]): Promise<number> {
  const options = readOptions(args, { flags: ['--json'], values: ['--program', '--seed', '--realism', '--seconds'] }, USAGE)
  const folder = options.positional[0]
  if (folder === undefined || options.positional.length > 1) throw new UsageError(`expected one project folder. Usage: ${USAGE}`)
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
  const simulation = new Simulation({
    program: compileProgram(checked.analysis), ...project.value,
    realism: realism as RealismName, seed, limit: seconds ?? project.value.task?.limit ?? DEFAULT_LIMIT,
  })
  simulation.runToEnd()
  const summary = summarise(simulation)
  process.stdout.write(`${JSON.stringify(summary, null, options.flags.has('--json') ? 0 : 2)}\n`)
  return summary.ended !== 'error' && summary.goals.every(g => g.met) ? 0 : 1
}
