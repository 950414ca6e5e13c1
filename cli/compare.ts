import type { Command } from 'commander'
import { differingSaid, firstDifference, metIn, outlineOf, stuckFor, touchesIn, type Comparison, type RunOutline } from '../core/runs'
import { comparedOf } from '../core/runs/context'
import type { RobotFacts } from '../core/robot'
import { readTaped, type TapedRun } from './runs'
import type { Exit } from './usage'

interface Options { readonly json?: true }

/** How many of the things that differ at first are named. */
const MOST_NAMED = 12

/** Compares two kept runs. 0 when they are the same as far as can be seen, 1 when not, 2 when they cannot be compared. */
export function addCompare(program: Command, exit: Exit): void {
  program.command('compare').description('Two kept runs: where do they first differ, in what, and how does what they came to?')
    .argument('<a>', 'a run, NAME.mindrun or NAME.run.json').argument('<b>', 'another').option('--json', 'as data, in one line')
    .action(async (a: string, b: string, options: Options) => { exit.code = await compare(a, b, options) })
}

async function compare(pathA: string, pathB: string, { json }: Options): Promise<number> {
  const [a, b] = [await readTaped(pathA), await readTaped(pathB)]
  const found = firstDifference(comparedOf(a), comparedOf(b))
  const [one, two] = [outline(a), outline(b)]
  if (json === true) process.stdout.write(`${JSON.stringify({ first: found, a: one, b: two })}\n`)
  else {
    process.stdout.write(`a: ${pathA}: ${brief(one)}\nb: ${pathB}: ${brief(two)}\n`)
    process.stdout.write(differenceLines(found, a.context.facts, 'a', 'b'))
  }
  return found.found === 'none' ? 0 : found.found === 'nothing in common' ? 2 : 1
}

/** A file by its inputs alone does not say how the run ended. */
const outline = (run: TapedRun): RunOutline => outlineOf(comparedOf(run), run.standing ?? { end: null, goals: [] })

const brief = (o: RunOutline): string =>
  `${o.ended} after ${o.time.toFixed(2)} s (${o.reason}); ${metIn(o)} of ${o.goals.length} goals, path ${o.path.toFixed(2)} m, ${touchesIn(o)} contacts, ${o.takeovers} takeovers${o.stuck.length === 0 ? '' : `, stuck for ${stuckFor(o).toFixed(1)} s`}`

/** What was found, in lines for people. */
export function differenceLines(found: Comparison, facts: RobotFacts, a: string, b: string): string {
  const turned = found.dials.map(d => `The dial ${d.title} stood at ${differingSaid(d, 'a', facts.colors)} in ${a}, ${differingSaid(d, 'b', facts.colors)} in ${b}.\n`).join('')
  return turned + outcomeLines(found, facts, a, b)
}

function outcomeLines(found: Comparison, facts: RobotFacts, a: string, b: string): string {
  switch (found.found) {
    case 'none': return 'They are the same as far as can be seen.\n'
    case 'nothing in common': return `They cannot be compared: ${found.why}.\n`
    case 'length': return `They are the same until ${found.time.toFixed(2)} s, where one of them ends.\n`
    case 'difference': {
      const more = found.what.length - MOST_NAMED
      return `They first differ at ${found.time.toFixed(2)} s (tick ${found.tick}):\n${found.what.slice(0, MOST_NAMED).map(d => `  ${d.title}: ${differingSaid(d, 'a', facts.colors)} in ${a}, ${differingSaid(d, 'b', facts.colors)} in ${b}\n`).join('')}${more > 0 ? `  and ${more} more\n` : ''}`
    }
  }
}
