import type { Command } from 'commander'
import { ENGINE_VERSION, readRecord, replay, summarise } from '../core/simulation'
import { readJson } from './files'
import { errorLines, problemLines } from './project'
import { UsageError, type Exit } from './usage'

interface Options { readonly json?: true }

/** Runs a kept run again, hands included. 0 when it is the same to the bit, 1 when not, 2 when it could not run. */
export function addReplay(program: Command, exit: Exit): void {
  program.command('replay').description('Runs a kept run again from its file, with what hands did in it: is it the same to the bit?')
    .argument('<file>', 'a run, NAME.run.json, as the Bench keeps it').option('--json', 'what it came to, in one line')
    .action(async (file: string, options: Options) => { exit.code = await again(file, options) })
}

async function again(file: string, { json }: Options): Promise<number> {
  const read = readRecord(await readJson(file))
  if (!read.ok) throw new UsageError(read.problems.map(p => `${file}: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
  const record = read.value
  const done = await replay(record)
  if (!done.ok) throw new UsageError(done.problems.length > 0 ? problemLines(done.problems, document => `${file}: ${document}`) : `the program cannot run\n${errorLines(`${file}: program`, record.program, done.diagnostics)}`)
  const { same, ticks, fingerprint, simulation } = done
  const seconds = (t: number): string => `${Math.round(t * simulation.facts.tick * 1000) / 1000} s`
  if (json === true) process.stdout.write(`${JSON.stringify({ same, ticks, fingerprint, kept: { ticks: record.ticks, fingerprint: record.fingerprint, engine: record.engine }, engine: ENGINE_VERSION, ...simulation.end === null ? {} : { summary: summarise(simulation) } })}\n`)
  else {
    process.stdout.write(`${record.title}, seed ${record.seed}, ${record.realism}, ${record.pokes.length} pokes, ${seconds(ticks)}: ${
      same ? `the same to the bit (${fingerprint})` : `not the same: ${ticks === record.ticks ? '' : `it ended after ${seconds(ticks)} and not ${seconds(record.ticks)}; `}${fingerprint} and not ${record.fingerprint}`}${
      same || record.engine === ENGINE_VERSION ? '' : `; it was made by engine ${record.engine}, this is ${ENGINE_VERSION}`}\n`)
  }
  simulation.free()
  return same ? 0 : 1
}
