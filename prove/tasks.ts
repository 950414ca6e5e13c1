import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { readFolder } from '../cli/project'
import type { RealismName } from '../core/devices'
import { openRun } from '../core/simulation'

/** How a demo program did its task over some seeds: of how many runs it met every goal, and what went wrong in the others. */
export interface Attempts {
  readonly project: string
  /** The program's file. */
  readonly program: string
  readonly realism: RealismName
  readonly runs: number
  /** Runs that met every goal. */
  readonly met: number
  /** Seconds until the middle one of those had met its last goal; null where none did. */
  readonly median: number | null
  /** Of each other run: its seed, how it ended and which goals were missed. */
  readonly misses: readonly { readonly seed: number, readonly ended: string, readonly goals: readonly string[] }[]
}

/** The first attempt at a task, with the mistake that is typical of it. */
export const FIRST_TRY = 'first-try.mindpath'

/** The program that must do its task. */
const OWN = 'program.mindpath'

/** The programs of a demo project: its own, other strategies, then the first try. */
export function programsOf(project: string): readonly string[] {
  const all = readdirSync(join('demo/projects', project)).filter(file => file.endsWith('.mindpath')).sort()
  return [OWN, ...all.filter(file => file !== OWN && file !== FIRST_TRY), ...all.filter(file => file === FIRST_TRY)]
}

/** Runs a demo program to its end with each seed. Nothing of the runs is kept but how they ended. Throws for a project that cannot run. */
export async function attempts(project: string, program: string, realism: RealismName, seeds: readonly number[]): Promise<Attempts> {
  const folder = join('demo/projects', project)
  const { documents, program: text } = await readFolder(folder, join(folder, program))
  const times: number[] = []
  const misses: Attempts['misses'][number][] = []
  for (const seed of seeds) {
    const opened = await openRun({ ...documents, program: text, realism, seed, limit: null, keeping: 'events' })
    if (!opened.ok) throw new Error(`${project}, seed ${seed}: ${JSON.stringify([opened.problems, opened.diagnostics.filter(d => d.severity === 'error')])}`)
    const { simulation } = opened
    simulation.runToEnd()
    const { end, goals, input } = simulation
    const at = goals.map(g => g.at ?? 0)
    const missed = (input.task?.goals ?? []).flatMap((goal, i) => goals[i]!.status === 'met' ? [] : [`${goal.sentence}${goals[i]!.progress === '' ? '' : ` (${goals[i]!.progress})`}`])
    simulation.free()
    if (missed.length === 0) times.push(Math.max(0, ...at))
    else misses.push({ seed, ended: `${end!.ended}: ${end!.reason} ${end!.time.toFixed(1)} s`, goals: missed })
  }
  times.sort((a, b) => a - b)
  return { project, program, realism, runs: seeds.length, met: times.length, median: times[Math.floor(times.length / 2)] ?? null, misses }
}

/** Where the table stands in docs/tasks.md. */
const TABLE = /<!-- attempts -->[\s\S]*<!-- \/attempts -->/
const shown = (a: Attempts | undefined): string => a === undefined ? '' : `${a.met} of ${a.runs}`

/** Runs every program of every demo task at typical and rough realism and puts the table of it into a page. True when each program does its task as often as is asked. */
export async function taskTable(page: string, projects: readonly string[], seeds: readonly number[], tell: (line: string) => void): Promise<{ readonly page: string, readonly good: boolean }> {
  const rows: string[] = []
  let good = true
  for (const project of projects) {
    for (const program of programsOf(project)) {
      const first = program === FIRST_TRY
      const typical = await attempts(project, program, 'typical', seeds)
      const rough = await attempts(project, program, 'rough', seeds)
      const enough = first ? 2 * typical.met < typical.runs : program !== OWN || (typical.met >= 0.95 * typical.runs && rough.met >= 0.8 * rough.runs)
      good &&= enough
      const row = `| ${project} | ${program.replace('.mindpath', '')} | ${shown(typical)} | ${typical.median === null ? '' : `${typical.median.toFixed(0)} s`} | ${shown(rough)} | ${rough.median === null ? '' : `${rough.median.toFixed(0)} s`} |`
      tell(`${row}${enough ? '' : ' too few or too many'}`)
      for (const m of typical.misses.slice(0, 2)) tell(`    seed ${m.seed}, ${m.ended}: ${m.goals.join('; ')}`)
      rows.push(row)
    }
  }
  const table = ['<!-- attempts -->', '| task | program | typical | median time | rough | median time |', '| --- | --- | --- | --- | --- | --- |', ...rows, '<!-- /attempts -->'].join('\n')
  return { page: page.replace(TABLE, () => table), good }
}
