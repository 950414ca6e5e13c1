import type { Command } from 'commander'
import { findUnit, KINDS, readQuantity } from '../core/units'
import { columnText, columnsOf } from '../core/runs'
import { lookInto, openRun, type Doing, type Insight, type KnownReading } from '../core/simulation'
import { memoriesSet, why, type Why, type WhyPart, type WhyRule } from '../core/why'
import { readTaped, type TapedRun } from './runs'
import { UsageError } from './usage'

interface Options { readonly at: string, readonly json?: true }

/** Why a kept run's lanes did what they did at an instant. 2 when there is no such instant, or no program. */
export function addWhy(program: Command): void {
  program.command('why').description('An instant of a kept run: which rule was in control, and why not those above it?')
    .argument('<file>', 'a run, NAME.mindrun or NAME.run.json').requiredOption('--at <time>', 'the instant, such as 3.2s').option('--json', 'as data, in one line')
    .action(tellWhy)
}

async function tellWhy(path: string, { at, json }: Options): Promise<void> {
  const time = readQuantity(/[a-z]$/.test(at) ? at : `${at} s`, KINDS.time)
  if (!time.ok) throw new UsageError(`--at is ${at}: ${time.reason}`)
  const file = await readTaped(path)
  const { tape, context: { analysis, program } } = file
  if (program === null) throw new UsageError(`${path}: there is no program in this run`)
  const { dt } = tape.layout
  const tick = Math.round(time.value / dt)
  if (tick < tape.first || tick >= tape.rows) throw new UsageError(`--at is ${at}; allowed is from ${(tape.first * dt).toFixed(2)} s to ${((tape.rows - 1) * dt).toFixed(2)} s, as long as the run went on`)
  const lanes = program.lanes.map((_, lane) => why(analysis, program, tape, tick, lane)).filter(w => w !== null)
  // What no tape tells is asked of the run itself, run again as far as that.
  const { insight, changed } = await runInto(path, file, tick)
  if (json === true) process.stdout.write(`${JSON.stringify({ tick, time: tick * dt, lanes, known: insight.known, moving: insight.moving, set: changed })}\n`)
  else process.stdout.write(lanes.map(w => lines(w, dt)).join('') + behind(file, insight, changed))
}

interface Changed extends Doing { readonly tick: number }

/** Runs it again up to a tick: what was behind that, and where each memory got the value that it had then. */
async function runInto(path: string, file: TapedRun, tick: number): Promise<{ readonly insight: Insight, readonly changed: readonly Changed[] }> {
  const { tape, context: { program } } = file
  const opened = await openRun(file.record)
  if (!opened.ok) throw new UsageError(`${path}: it cannot be run again`)
  const { simulation } = opened
  const changes = memoriesSet(program!, tape, tick)
  const ticks = new Set(changes.map(c => c.at))
  const changed: Changed[] = []
  let insight: Insight | null = null
  for (let now = simulation.tape.rows; now <= tick && simulation.end === null; now++) {
    if (now !== tick && !ticks.has(now)) { simulation.advance(); continue }
    insight = lookInto(simulation)!
    for (const { name, at } of changes) {
      const by = at === now ? insight.set.findLast(s => s.name === name) : undefined
      if (by !== undefined) changed.push({ ...by, tick: now })
    }
  }
  simulation.free()
  if (insight?.tick !== tick) throw new UsageError(`${path}: run again, it ends before ${tick * tape.layout.dt} s`)
  return { insight, changed }
}

/** What moved the motors, what set the memories, what was true. */
function behind({ tape: { layout }, context: { facts, map } }: TapedRun, { known, moving }: Insight, changed: readonly Changed[]): string {
  const at = (line: number): string => `line ${line}: ${map!.text.split('\n')[line - 1]!.trim()}`
  const columns = columnsOf({ facts, layout, program: map })
  const said = (k: KnownReading): string => {
    const column = columns.find(c => c.column === layout.readings + k.reading)!
    return `${column.title} said ${columnText(column, k.said, facts.colors)}, true was ${columnText(column, k.truth, facts.colors)}, looked ${k.age.toFixed(2)} s before\n`
  }
  return [
    ...moving.map(m => `${m.name} is moved by ${at(m.line)}\n`),
    ...changed.map(c => `${c.name} was set by ${at(c.line)}, at ${seconds(c.tick, layout.dt)}\n`),
    ...known.map(said),
  ].join('')
}

const seconds = (ticks: number, dt: number): string => `${(ticks * dt).toFixed(2)} ${findUnit('s')!.name}`

function lines({ tick, lane, mode, phase, control, above }: Why, dt: number): string {
  const where = `${lane}${mode === '' ? '' : `, ${mode}`}`
  const now = control === null ? phase === 'rules' ? 'no rule wants control' : phase : `rule ${control.urgency} (line ${control.line}) has control since ${seconds(tick - control.took, dt)}`
  return `${where}: ${now}\n${above.map(r => rule(r, tick, dt)).join('')}`
}

function rule({ urgency, line, wants, since, when, done, had }: WhyRule, tick: number, dt: number): string {
  return `  rule ${urgency} (line ${line}) ${done ? 'acted once and waits' : wants ? 'wants control' : 'does not want control'} since ${seconds(tick - since, dt)}${wants || had === null ? '' : `, had control until ${seconds(had.to, dt)}`}${when === null ? '' : `: ${part(when)}`}\n`
}

/** A condition with what its sides were worth, and by how much it was missed. */
function part({ text, truth, values, missing, parts }: WhyPart): string {
  if (parts.length > 0) return parts.map(part).join('; ')
  const worth = values.map(v => `${v.text} was ${v.value}`).join(', ')
  return `${text} is ${truth ? 'true' : 'false'}${worth === '' ? '' : ` (${worth}${missing === null ? '' : `; ${missing.value} to turn over`})`}`
}
