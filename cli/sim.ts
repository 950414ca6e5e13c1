import { REALISMS, type RealismName } from '../core/devices'
import type { ProgramData } from '../core/program'
import { openRun, summarise } from '../core/simulation'
import { findUnit, formatQuantity, kindName, readQuantity, unitsOfKind } from '../core/units'
import { errorLines, problemLines, readFolder } from './project'
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
  const project = await readFolder(folder, options.values.get('--program'))
  const opened = await openRun({ ...project.documents, program: project.program, realism: realism as RealismName, seed, limit: seconds ?? null })
  if (!opened.ok) {
    throw new UsageError(opened.problems.length > 0 ? problemLines(opened.problems, project.pathOf) : `the program cannot run\n${errorLines(project.programPath, project.program, opened.diagnostics)}`)
  }
  const { simulation } = opened
  const dials = (options.lists.get('--dial') ?? []).map(given => dialOf(given, simulation.input.program))
  for (const [name, value] of dials) simulation.setDial(name, value)
  simulation.runToEnd()
  const summary = summarise(simulation)
  process.stdout.write(`${JSON.stringify(summary, null, options.flags.has('--json') ? 0 : 2)}\n`)
  return summary.ended !== 'error' && summary.goals.every(g => g.met) ? 0 : 1
}

/** A dial and its value, SI, from `NAME=VALUE` with its unit: `near=12 cm`. */
function dialOf(given: string, program: ProgramData | null): readonly [string, number] {
  const [, name, text] = /^(\w+)=(.+)$/.exec(given) ?? []
  if (name === undefined || text === undefined) throw new UsageError(`--dial is ${JSON.stringify(given)}; expected NAME=VALUE, such as near=12 cm. Usage: ${SIM_USAGE}`)
  const all = program?.dials ?? []
  const dial = all.find(d => d.name === name)
  if (dial === undefined) throw new UsageError(`--dial ${given}: the program has no dial ${name}; it has ${all.map(d => d.name).join(', ') || 'none'}`)
  const read = readQuantity(text, dial.kind)
  if (!read.ok) throw new UsageError(`--dial ${given}: ${read.reason} (a ${kindName(dial.kind)})`)
  const unit = (dial.unit === null ? undefined : findUnit(dial.unit)) ?? unitsOfKind(dial.kind)[0]
  const show = (value: number): string => unit === undefined ? String(value) : formatQuantity(value, unit)
  if (read.value < dial.from || read.value > dial.to) throw new UsageError(`--dial ${given}: allowed is from ${show(dial.from)} to ${show(dial.to)}`)
  return [name, read.value]
}
