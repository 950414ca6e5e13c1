import type { Command } from 'commander'
import { findUnit, KINDS, readQuantity } from '../core/units'
import { why, type Why, type WhyPart, type WhyRule } from '../core/why'
import { readTaped } from './runs'
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
  const { tape, context: { analysis, program } } = await readTaped(path)
  if (program === null) throw new UsageError(`${path}: there is no program in this run`)
  const { dt } = tape.layout
  const tick = Math.round(time.value / dt)
  if (tick < tape.first || tick >= tape.rows) throw new UsageError(`--at is ${at}; allowed is from ${(tape.first * dt).toFixed(2)} s to ${((tape.rows - 1) * dt).toFixed(2)} s, as long as the run went on`)
  const lanes = program.lanes.map((_, lane) => why(analysis, program, tape, tick, lane)).filter(w => w !== null)
  process.stdout.write(json === true ? `${JSON.stringify({ tick, time: tick * dt, lanes })}\n` : lanes.map(w => lines(w, dt)).join(''))
}

const seconds = (ticks: number, dt: number): string => `${(ticks * dt).toFixed(2)} ${findUnit('s')!.name}`

function lines({ tick, lane, mode, phase, control, above }: Why, dt: number): string {
  const where = `${lane}${mode === '' ? '' : `, ${mode}`}`
  const now = control === null ? phase === 'rules' ? 'no rule wants control' : phase : `rule ${control.urgency} (line ${control.line}) has control since ${seconds(tick - control.took, dt)}`
  return `${where}: ${now}\n${above.map(r => rule(r, tick, dt)).join('')}`
}

function rule({ urgency, line, wants, since, when, done }: WhyRule, tick: number, dt: number): string {
  return `  rule ${urgency} (line ${line}) ${done ? 'acted once and waits' : wants ? 'wants control' : 'does not want control'} since ${seconds(tick - since, dt)}${when === null ? '' : `: ${part(when)}`}\n`
}

/** A condition with what its sides were worth, and by how much it was missed. */
function part({ text, truth, values, missing, parts }: WhyPart): string {
  if (parts.length > 0) return parts.map(part).join('; ')
  const worth = values.map(v => `${v.text} was ${v.value}`).join(', ')
  return `${text} is ${truth ? 'true' : 'false'}${worth === '' ? '' : ` (${worth}${missing === null ? '' : `; ${missing.value} to turn over`})`}`
}
