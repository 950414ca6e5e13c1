import { array, object } from 'yup'
import { documentText, nameText, plainNumber, quantity, readDocument, readPart, text, type Problem, type Read } from '../document'
import type { Arena } from '../arena'
import { GOAL_KINDS, placeNames, thingNames, type Goal, type GoalKind } from './goals'

export const TASK_VERSION = 1
/** How long a run lasts where no task says otherwise, seconds. */
export const DEFAULT_LIMIT = 120

export const taskSchema = object({
  mindpath: text().oneOf(['task'], 'expected "task": this is another kind of document').required(),
  version: plainNumber().oneOf([TASK_VERSION], `allowed is ${TASK_VERSION}`).required(),
  name: nameText().required(),
  title: documentText(80).required(),
  about: documentText(400),
  limit: quantity('time', { min: 1, max: 3600 }).default(DEFAULT_LIMIT),
  // What a fall off the deck does to the run.
  falls: text().oneOf(['end', 'go on'], 'allowed is end or go on').default('end'),
  // What a goal may say depends on its kind: read below.
  goals: array(object().required()).max(20).required(),
}).noUnknown().required()

export interface Task {
  readonly name: string
  readonly title: string
  readonly about: string
  /** Seconds. */
  readonly limit: number
  readonly goals: readonly Goal[]
  /** Whether the run goes on after the robot fell. */
  readonly fallsGoOn: boolean
}

/** Reads a task document for an arena: what its goals name must be there. null: for any arena, and nothing is looked for. */
export function readTask(value: unknown, arena: Arena | null): Read<Task> {
  const read = readDocument<{ name: string, title: string, about?: string, limit: number, falls: string, goals: { goal: string }[] }>(taskSchema, value)
  if (!read.ok) return read
  const { name, title, about, limit, falls, goals: raw } = read.value
  const problems: Problem[] = []
  const goals: Goal[] = []
  raw.forEach((given, i) => {
    const { goal, ...rest } = given
    const kind = GOAL_KINDS.find(k => k.goal === goal)
    if (kind === undefined) {
      problems.push({ path: `goals[${i}].goal`, value: JSON.stringify(goal) ?? 'nothing', message: `allowed is one of ${GOAL_KINDS.map(k => k.goal).join(', ')}` })
      return
    }
    const parameters = readPart<object>(kind.schema.noUnknown(), rest, `goals[${i}]`, problems)
    if (parameters === null) return
    if (arena !== null) problems.push(...strangers(kind, parameters, `goals[${i}]`, arena))
    goals.push({ kind, parameters, sentence: kind.sentence(parameters) })
  })
  if (problems.length > 0) return { ok: false, problems }
  return { ok: true, value: { name, title, about: about ?? '', limit, goals, fallsGoOn: falls === 'go on' } }
}

/** What a goal names and the arena has not. */
function strangers(kind: GoalKind, parameters: object, path: string, arena: Arena): Problem[] {
  const missing = (what: string, names: readonly string[], all: readonly string[]): Problem[] =>
    names.filter(name => !all.includes(name)).map(name => ({ path, value: JSON.stringify(name), message: `the arena ${arena.name} has no such ${what}; it has ${all.join(', ') || 'none'}` }))
  return [
    ...missing('piece', kind.about(parameters), [...new Set([...thingNames(arena), ...arena.crates.map(c => c.name), 'wall', 'crate'])]),
    ...missing('area, crate or painted colour', kind.places?.(parameters) ?? [], placeNames(arena)),
    ...missing('line', kind.lines?.(parameters) ?? [], arena.lines.map(l => l.name)),
  ]
}
