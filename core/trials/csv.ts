import { field } from '../runs'
import { jobOf, settingAt } from './jobs'
import type { Trial, TrialBasis } from './trial'

/** The trials as comma-separated values (RFC 4180), a line each: what it was made of, and how it went. Seconds and metres, as the header says. */
export function* trialsCsv({ plan, programs }: TrialBasis, trials: readonly Trial[], goals: readonly string[]): Generator<string> {
  const head = [
    'number', 'program', 'realism', 'seed', ...plan.dials.map(d => d.name), 'met', 'ended', 'reason', 'time [s]', 'took [s]', 'path [m]', 'contacts', 'falls',
    ...goals.flatMap(g => [g, `${g}, at [s]`]), 'lost', 'lost at [s]', 'lost x [m]', 'lost y [m]', 'line in control',
  ]
  yield `${head.map(field).join(',')}\r\n`
  const figure = (x: number | null | undefined): string => x == null ? '' : String(Math.round(x * 1e6) / 1e6)
  for (const trial of trials) {
    const job = jobOf(plan, programs.length, trial.number)
    const { lost } = trial
    const cells = [
      String(trial.number), programs[job.program]!.name, job.realism, String(job.seed), ...settingAt(programs[job.program]!.values, job.setting).map(d => d.text),
      trial.met ? '1' : '0', trial.ended, trial.reason, figure(trial.time), figure(trial.took), figure(trial.path), String(trial.contacts), String(trial.falls),
      ...trial.goals.flatMap(g => [g.status, figure(g.at)]),
      lost?.goal == null ? '' : goals[lost.goal] ?? '', figure(lost?.time), figure(lost?.x), figure(lost?.y), lost?.line == null ? '' : String(lost.line),
    ]
    yield `${cells.map(field).join(',')}\r\n`
  }
}
