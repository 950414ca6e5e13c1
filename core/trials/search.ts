import type { CheckedPlan } from './basis'
import { findValues, LEAST_BUDGET_TO_FIND, type Finding, type RunJobs } from './find'
import type { Sought } from './plan'
import type { Ran, Trial, TrialBasis } from './trial'
import { findFailure, LEAST_BUDGET_TO_FAIL, type Worst } from './worst'

/** The fewest runs with which anything is looked for. */
export const LEAST_RUNS: Readonly<Record<Sought, number>> = { values: LEAST_BUDGET_TO_FIND, failure: LEAST_BUDGET_TO_FAIL }

/** What a search came to. */
export type Outcome =
  | { readonly for: 'values', readonly finding: Finding }
  | { readonly for: 'failure', readonly worst: Worst }

/** Does some runs of a basis, the first of which is the so manieth of the whole search; the answers in the order of the numbers. */
export type RunBatch = (basis: TrialBasis, numbers: readonly number[], first: number) => Promise<readonly (Trial | string)[]>

/**
 * Looks for what a plan is to find. What it asks for next depends on nothing but what came before: whoever kept the answers comes, with them, to where it was, as
 * the server does after a new start and the page to tell what was found. Throws for a plan that looks for nothing.
 */
export async function search({ basis: { documents, plan, programs }, compiled }: CheckedPlan, batch: RunBatch, tell: (line: string) => void = () => undefined): Promise<Outcome> {
  const { search: sought, ...rest } = plan
  if (sought === null) throw new Error('a plan that looks for nothing')
  let count = 0
  const run: RunJobs = (of, numbers) => {
    const first = count
    count += numbers.length
    return batch(of, numbers, first)
  }
  const [{ name, text }] = programs as readonly [TrialBasis['programs'][number]]
  const of = { documents, name, text, plan: { ...rest, search: null, cases: [] }, budget: sought.runs }
  return sought.for === 'values' ? { for: 'values', finding: await findValues({ ...of, program: compiled[0]! }, run, tell) } : { for: 'failure', worst: await findFailure(of, run, tell) }
}

/** Of a search: it cannot go on, as an answer is missing. */
export class NotYet extends Error {}

/** How far a search has come with the answers that there are, by their numbers in it: each with what it was made of, what is to be told, and the outcome; null where answers are missing. */
export async function searchSoFar(checked: CheckedPlan, answers: ReadonlyMap<number, Trial | string>): Promise<{ readonly ran: readonly Ran[], readonly told: readonly string[], readonly outcome: Outcome | null }> {
  const ran: Ran[] = []
  const told: string[] = []
  const known: RunBatch = async (basis, numbers, first) => {
    const there = numbers.map((_, i) => answers.get(first + i))
    for (const [i, answer] of there.entries()) if (answer !== undefined) ran.push({ number: first + i, basis, job: numbers[i]!, answer })
    if (there.includes(undefined)) throw new NotYet()
    return there.filter(a => a !== undefined)
  }
  try {
    return { ran, told, outcome: await search(checked, known, line => told.push(line)) }
  } catch (error) {
    if (error instanceof NotYet) return { ran, told, outcome: null }
    throw error
  }
}
