import { workerData } from 'node:worker_threads'
import { readProject } from '../core/simulation'
import { jobOf, runTrial, type Trial, type TrialBasis } from '../core/trials'

/** What a thread does of a plan: jobs by their numbers. */
const basis = workerData as TrialBasis
const read = readProject(basis.documents)

/** Does a job; a string says why it could not be done. */
export default async function trial(number: number): Promise<Trial | string> {
  if (!read.ok) return read.problems.map(p => `${p.document}: ${p.path}: ${p.message}`).join('; ')
  return runTrial(basis, jobOf(basis.plan, basis.programs.length, number), read.value.arena)
}
