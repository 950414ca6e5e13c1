import type { Command } from 'commander'
import { firstDifference, type Comparison } from '../core/runs'
import { comparedOf } from '../core/runs/context'
import { ENGINE_VERSION, summarise } from '../core/simulation'
import { differenceLines } from './compare'
import { readRunFile, runAgain } from './runs'
import type { Exit } from './usage'

interface Options { readonly json?: true }

/** Runs a kept run again, hands included. 0 when it is the same to the bit, 1 when not, 2 when it could not run. */
export function addReplay(program: Command, exit: Exit): void {
  program.command('replay').description('Runs a kept run again from its file, with what hands did in it: is it the same to the bit?')
    .argument('<file>', 'a run, NAME.mindrun or NAME.run.json, as the page or sim keeps it').option('--json', 'what it came to, in one line')
    .action(async (path: string, options: Options) => { exit.code = await again(path, options) })
}

async function again(path: string, { json }: Options): Promise<number> {
  const file = await readRunFile(path)
  const { record, context, tape } = file
  const { same, ticks, fingerprint, simulation } = await runAgain(path, file)
  const seconds = (t: number): string => `${Math.round(t * simulation.facts.tick * 1000) / 1000} s`
  // With its tape, where it went another way can be told.
  const difference: Comparison | null = same || tape === null ? null
    : firstDifference(comparedOf({ tape, context }), comparedOf({ tape: simulation.tape, context }))
  if (json === true) {
    process.stdout.write(`${JSON.stringify({
      same, ticks, fingerprint, kept: { ticks: record.ticks, fingerprint: record.fingerprint, engine: record.engine }, engine: ENGINE_VERSION,
      ...difference === null ? {} : { difference }, ...simulation.end === null ? {} : { summary: summarise(simulation) },
    })}\n`)
  } else {
    process.stdout.write(`${record.title}, seed ${record.seed}, ${record.realism}, ${record.pokes.length} pokes, ${seconds(ticks)}: ${
      same ? `the same to the bit (${fingerprint})` : `not the same: ${ticks === record.ticks ? '' : `it ended after ${seconds(ticks)} and not ${seconds(record.ticks)}; `}${fingerprint} and not ${record.fingerprint}`}${
      same || record.engine === ENGINE_VERSION ? '' : `; it was made by engine ${record.engine}, this is ${ENGINE_VERSION}`}\n`)
    if (difference !== null) process.stdout.write(differenceLines(difference, context.facts, 'kept', 'now'))
  }
  simulation.free()
  return same ? 0 : 1
}
