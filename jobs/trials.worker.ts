import { readProject } from '../core/simulation'
import { jobOf, runTrial, type Trial, type TrialBasis } from '../core/trials'

/** A run of a plan, with all that the plan's runs are made of. */
export interface Task { readonly basis: TrialBasis, readonly number: number }

/** Does a job; a string says why it could not be done. */
export default async function trial({ basis, number }: Task): Promise<Trial | string> {
  const read = readProject(basis.documents)
  if (!read.ok) return read.problems.map(p => `${p.document}: ${p.path}: ${p.message}`).join('; ')
  return runTrial(basis, jobOf(basis.plan, basis.programs.length, number), read.value.arena)
}
