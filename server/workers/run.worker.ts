import type { RealismName } from '../../core/devices'
import { checkProgram, compileProgram } from '../../core/language'
import { loadPhysics } from '../../core/physics'
import { factsOf } from '../../core/robot'
import { Simulation, readProject, startProblem, summarise, type RunSummary } from '../../core/simulation'
import { DEFAULT_LIMIT } from '../../core/task'

export interface RunRequest {
  readonly robot: unknown
  readonly arena: unknown
  readonly task: unknown
  readonly program: string
  readonly seed: number
  readonly realism: RealismName
}

export type RunOutcome =
  | { readonly ran: true, readonly summary: RunSummary }
  | { readonly ran: false, readonly problems: readonly string[] }

/** One headless run, on a worker thread of the server. */
export default async function run(request: RunRequest): Promise<RunOutcome> {
  const project = readProject(request)
  if (!project.ok) return { ran: false, problems: project.problems.map(p => `${p.document}: ${p.path}: ${p.message}`) }
  const checked = checkProgram(request.program, factsOf(project.value.robot))
  if (!checked.runs) return { ran: false, problems: checked.diagnostics.filter(d => d.severity === 'error').map(d => d.message) }
  await loadPhysics()
  const simulation = new Simulation({
    program: compileProgram(checked.analysis), ...project.value,
    realism: request.realism, seed: request.seed, limit: project.value.task?.limit ?? DEFAULT_LIMIT,
  })
  const wrong = startProblem(simulation)
  if (wrong !== null) return { ran: false, problems: [`${wrong.document}: ${wrong.path}: found ${wrong.value}; ${wrong.message}`] }
  simulation.runToEnd()
  const summary = summarise(simulation)
  simulation.free()
  return { ran: true, summary }
}
