import { field } from '../runs'
import { jobOf, settingAt } from './jobs'
import type { TrialPlan } from './plan'
import { differenceOf, type Ran } from './trial'
import { variationOf } from './varied'

/** What came of a plan's runs as comma-separated values (RFC 4180), a line each: what it was made of, and how it went. Units stand in the header. */
export function* trialsCsv(plan: TrialPlan, ran: Iterable<Ran>, goals: readonly string[]): Generator<string> {
  const varied = [...new Set([plan.world, ...plan.cases.map(c => c.world)].flatMap(Object.keys))]
  const head = [
    'number', 'program', 'realism', 'seed', ...plan.dials.map(d => d.name), ...varied.map(name => `${name} [${variationOf(name)!.unit ?? 'times'}]`), 'met', 'ended', 'reason', 'time [s]', 'took [s]', 'path [m]', 'contacts', 'falls',
    ...goals.flatMap(g => [g, `${g}, at [s]`]), 'lost', 'lost at [s]', 'lost x [m]', 'lost y [m]', 'line in control',
  ]
  yield `${head.map(field).join(',')}\r\n`
  const figure = (x: number | null | undefined): string => x == null ? '' : String(Math.round(x * 1e6) / 1e6)
  for (const { number, basis, job: of, answer } of ran) {
    const job = jobOf(basis.plan, basis.programs.length, of)
    const { name, values } = basis.programs[job.program]!
    const drawn = differenceOf(basis, job)
    const made = [String(number), name, job.realism, String(job.seed), ...settingAt(values, job.setting).map(d => d.text), ...varied.map(v => figure((drawn[v] ?? variationOf(v)!.plain) / variationOf(v)!.scale))]
    const line = typeof answer === 'string' ? [...made, '', 'could not be run', answer] : [
      ...made, answer.met ? '1' : '0', answer.ended, answer.reason, figure(answer.time), figure(answer.took), figure(answer.path), String(answer.contacts), String(answer.falls),
      ...answer.goals.flatMap(g => [g.status, figure(g.at)]),
      answer.lost?.goal == null ? '' : goals[answer.lost.goal] ?? '', figure(answer.lost?.time), figure(answer.lost?.x), figure(answer.lost?.y), answer.lost?.line == null ? '' : String(answer.lost.line),
    ]
    // Every line has as many cells.
    yield `${[...line, ...Array<string>(head.length - line.length).fill('')].map(field).join(',')}\r\n`
  }
}
