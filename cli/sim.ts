import { REALISMS, type RealismName } from '../core/devices'
import { openRun, summarise, type ProblemIn } from '../core/simulation'
import { errorLines, problemLines, readFolder } from './project'
import { numberOption, readOptions, UsageError } from './usage'

export const SIM_USAGE = 'mindpath sim PROJECT_FOLDER [--program FILE] [--seed N] [--realism ideal|typical|rough] [--seconds S] [--dial NAME=VALUE]... [--world NAME=VALUE]... [--json]'

/** Runs a project headless. 0 when all goals are met, 1 when not, 2 when it could not run. */
export async function simCommand(args: readonly string[]): Promise<number> {
  const options = readOptions(args, { flags: ['--json'], values: ['--program', '--seed', '--realism', '--seconds'], lists: ['--dial', '--world'] }, SIM_USAGE)
  const folder = options.positional[0]
  if (folder === undefined || options.positional.length > 1) throw new UsageError(`expected one project folder. Usage: ${SIM_USAGE}`)
  const seed = numberOption(options, '--seed', 0, 4294967295, true) ?? 1
  const seconds = numberOption(options, '--seconds', 0.02, 3600, false)
  const realism = options.values.get('--realism') ?? 'typical'
  if (!(REALISMS as readonly string[]).includes(realism)) {
    throw new UsageError(`--realism is ${JSON.stringify(realism)}; allowed is ${REALISMS.join(', ')}`)
  }
  const project = await readFolder(folder, options.values.get('--program'))
  const dials = dialsOf(options.lists.get('--dial') ?? [])
  const world = worldOf(options.lists.get('--world') ?? [])
  const opened = await openRun({ ...project.documents, program: project.program, realism: realism as RealismName, seed, limit: seconds ?? null, dials, world })
  if (!opened.ok && opened.problems[0]?.document === 'run') throw new UsageError(opened.problems.map(optionLine).join('\n'))
  if (!opened.ok) {
    throw new UsageError(opened.problems.length > 0 ? problemLines(opened.problems, project.pathOf) : `the program cannot run\n${errorLines(project.programPath, project.program, opened.diagnostics)}`)
  }
  const { simulation } = opened
  simulation.runToEnd()
  const summary = summarise(simulation)
  process.stdout.write(`${JSON.stringify(summary, null, options.flags.has('--json') ? 0 : 2)}\n`)
  return summary.ended !== 'error' && summary.goals.every(g => g.met) ? 0 : 1
}

/** Values of dials by their names, as they were given: `near=12 cm`. */
function dialsOf(given: readonly string[]): Readonly<Record<string, string>> {
  return Object.fromEntries(given.map((one) => {
    const [, name, value] = /^(\w+)=(.+)$/.exec(one) ?? []
    if (name === undefined || value === undefined) throw new UsageError(`--dial is ${JSON.stringify(one)}; expected NAME=VALUE, such as near=12 cm. Usage: ${SIM_USAGE}`)
    return [name, value]
  }))
}

/** How the world differs from its arena, as it was given: `grip=0.6`, `start=50 cm, 1 m, 90 deg`. */
function worldOf(given: readonly string[]): unknown {
  return Object.fromEntries(given.map((one): [string, unknown] => {
    const [, name, value] = /^(\w+)=(.+)$/.exec(one) ?? []
    if (name === undefined || value === undefined) throw new UsageError(`--world is ${JSON.stringify(one)}; expected grip=0.6, light=0.5 or start=50 cm, 1 m, 90 deg. Usage: ${SIM_USAGE}`)
    if (name !== 'start') return [name, Number(value)]
    const [x, y, heading] = value.split(',').map(v => v.trim())
    return ['start', { at: [x, y], ...heading === undefined ? {} : { heading } }]
  }))
}

/** A problem with a setting of the run, by the option that gave it. */
function optionLine({ path, value, message }: ProblemIn): string {
  const [option, ...name] = path.split('.')
  return option === 'dials' ? `--dial ${name.join('.')}=${value}: ${message}` : `--world ${name.join('.')}: found ${value}; ${message}`
}
