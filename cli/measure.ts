import type { Command } from 'commander'
import { writeFile } from 'node:fs/promises'
import { basename } from 'node:path'
import { WHEELS } from '../core/devices'
import type { Read } from '../core/document'
import { endIn, findRobot, foundSays, isFound, measuredDocument, readEnd, readTruths, type EndPose, type MeasuredRun } from '../core/measuring'
import { loadPhysics } from '../core/physics'
import { readRobot } from '../core/robot'
import { isReal } from '../core/simulation'
import { readTaped, type TapedRun } from './runs'
import { UsageError, type Exit } from './usage'

type Given = readonly (readonly [run: string, value: string])[]
interface Options { readonly end?: Given, readonly true?: Given, readonly into?: string, readonly json?: true }

/** `RUN=VALUE`, where a run is called by its file's name. */
const option = (example: string) => (text: string, before: Given = []): Given => {
  const at = text.lastIndexOf('=')
  if (at < 1 || at === text.length - 1) throw new UsageError(`found ${text}; expected RUN=VALUE, such as ${example}`)
  return [...before, [text.slice(0, at), text.slice(at + 1)]]
}

/** What a robot is like by its runs (docs/measuring.md). 0 when something was found, 1 when not, 2 when a run cannot be read. */
export function addMeasure(program: Command, exit: Exit): void {
  program.command('measure').description('Measures a robot by kept runs: its wheels, and how its sensors err (docs/measuring.md).')
    .argument('<runs...>', 'runs of one robot, NAME.mindrun')
    .option('--end <run=forward,right,heading>', 'where the robot stood at the end of a run, seen from where it began; simulated runs know', option('left.mindrun=3 cm,-5 cm,4 deg'))
    .option('--true <run=device value>', 'what is true of a device while the robot stands in a run', option('"stand.mindrun=sonar 50 cm"'))
    .option('--into <file>', 'where the robot goes with what was found, for the realism "measured"').option('--json', 'as data, in one line')
    .action(async (runs: readonly string[], options: Options) => { exit.code = await measure(runs, options) })
}

async function measure(paths: readonly string[], { end, true: truths, into, json }: Options): Promise<number> {
  const runs: TapedRun[] = []
  for (const path of paths) runs.push(await readTaped(path))
  const { facts, parts } = runs[0]!.context
  const other = runs.findIndex(r => JSON.stringify(r.context.facts) !== JSON.stringify(facts))
  if (other !== -1) throw new UsageError(`${paths[other]!}: its robot is another than that of ${paths[0]!}`)
  for (const [option, list] of [['--end', end], ['--true', truths]] as const) {
    const strange = list?.find(([name]) => !paths.some(p => isCalled(p, name)))
    if (strange !== undefined) throw new UsageError(`${option}: there is no run ${strange[0]}; there are ${paths.map(p => basename(p)).join(', ')}`)
  }
  await loadPhysics()
  const found = findRobot(runs.map((run, i): MeasuredRun => ({ tape: run.tape, arena: run.context.parts.arena, seed: run.record.seed, end: endOf(run, end?.find(([name]) => isCalled(paths[i]!, name))?.[1]), truths: given('--true', readTruths((truths ?? []).flatMap(([name, said]) => isCalled(paths[i]!, name) ? [said] : []).join(','), facts)) })), parts.robot, facts)
  const document = measuredDocument(found, facts)
  if (into !== undefined) {
    const robot = { ...runs[0]!.record.robot as object, measured: document }
    const read = readRobot(robot)
    if (!read.ok) throw new UsageError(read.problems.map(p => `what was found cannot be: ${p.path}: found ${p.value}; ${p.message}`).join('\n'))
    await writeFile(into, `${JSON.stringify(robot, null, 2)}\n`)
  }
  process.stdout.write(json === true ? `${JSON.stringify({ ...found, measured: document })}\n` : `${foundSays(found, facts).join('\n')}\n`)
  return isFound(found) ? 0 : 1
}

const isCalled = (path: string, name: string): boolean => path === name || basename(path) === name

/** Where a run ended: as was given, else as a simulated robot knows; null for a real one of which nobody said it. */
function endOf({ tape, record }: TapedRun, said: string | undefined): EndPose | null {
  if (said === undefined) return isReal(record, WHEELS) ? null : endIn(tape)
  return given('--end', readEnd(said))
}

/** What was given with an option; a usage error where it cannot be read. */
function given<T>(option: string, read: Read<T>): T {
  if (read.ok) return read.value
  throw new UsageError(read.problems.map(p => `${option}: found ${p.value}; ${p.message}`).join('\n'))
}
