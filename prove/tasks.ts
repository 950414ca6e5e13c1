import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { readFolder } from '../cli/project'
import type { RealismName } from '../core/devices'
import { readProject } from '../core/simulation'
import { answersOf, jobOf, readPlan, runTrial, runsOf, saidOf, type Result, type RunJobs, type Trial, type TrialBasis } from '../core/trials'

/** How a demo program did its task over some seeds, and what there is to say of it. */
export interface Attempts { readonly result: Result, readonly said: readonly string[] }

/** The first attempt at a task, with the mistake that is typical of it. */
export const FIRST_TRY = 'first-try.mindpath'

/** The program that must do its task. */
const OWN = 'program.mindpath'

/** The programs of a demo project: its own, other strategies, then the first try. */
export function programsOf(project: string): readonly string[] {
  const all = readdirSync(join('demo/projects', project)).filter(file => file.endsWith('.mindpath')).sort()
  return [OWN, ...all.filter(file => file !== OWN && file !== FIRST_TRY), ...all.filter(file => file === FIRST_TRY)]
}

/** Does jobs one after the other, here. */
const here: RunJobs = async (basis, numbers) => {
  const read = readProject(basis.documents)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const all: (Trial | string)[] = []
  for (const number of numbers) all.push(await runTrial(basis, jobOf(basis.plan, basis.programs.length, number), read.value.arena))
  return all
}

/** Runs a demo program to its end with each seed. Throws for a project that cannot run. */
export async function attempts(project: string, program: string, realism: RealismName, seeds: readonly [number, number], run: RunJobs = here): Promise<Attempts> {
  const folder = join('demo/projects', project)
  const { documents, program: text } = await readFolder(folder, join(folder, program))
  const [plan, parts] = [readPlan({ mindpath: 'trials', version: 1, seeds, realisms: [realism] }), readProject(documents)]
  if (!plan.ok || !parts.ok) throw new Error(`${project}: its documents cannot be read`)
  const basis: TrialBasis = { documents, programs: [{ name: program.replace('.mindpath', ''), text, values: [] }], plan: plan.value }
  const done = await run(basis, Array.from({ length: runsOf(plan.value, 1) }, (_, i) => i))
  const refused = done.filter(d => typeof d === 'string')
  if (refused.length > 0) throw new Error(`${project}, ${program}: ${refused[0]!}`)
  const answers = answersOf(basis, done.filter(d => typeof d !== 'string'))
  return { result: answers.results[0]!, said: saidOf(basis, answers, parts.value.task?.goals.map(g => g.sentence) ?? []) }
}

/** Where the table stands in docs/tasks.md. */
const TABLE = /<!-- attempts -->[\s\S]*<!-- \/attempts -->/
const percent = (x: number): string => (100 * x).toFixed(0)
/** As a cell of the table: `17 of 20 (64 to 95 %)`. */
export const shareCell = ({ met, runs, share }: Pick<Result, 'met' | 'runs' | 'share'>): string => `${met} of ${runs} (${percent(share.low)} to ${percent(share.high)} %)`
const timeCell = ({ took }: Result): string => took === null ? '' : `${took.median.toFixed(0)} s`

/** Where the table of many seeds stands. */
const MANY = /<!-- dependable -->[\s\S]*<!-- \/dependable -->/
const MANY_HEAD = '| task | typical | took | rough | took |\n| --- | --- | --- | --- | --- |'
/** The median, and between what half of them lie. */
const spreadCell = ({ took }: Pick<Result, 'took'>): string => took === null ? '' : `${took.median.toFixed(1)} s (${took.lower.toFixed(1)} to ${took.upper.toFixed(1)})`
/** A row of it. */
export const dependableRow = (project: string, typical: Pick<Result, 'met' | 'runs' | 'share' | 'took'>, rough: Pick<Result, 'met' | 'runs' | 'share' | 'took'>): string => `| ${project} | ${shareCell(typical)} | ${spreadCell(typical)} | ${shareCell(rough)} | ${spreadCell(rough)} |`

/** Runs each task's own program with many seeds at typical and rough realism, and puts a row of it into a page as soon as it is done; the other rows stay. */
export async function dependable(projects: readonly string[], seeds: readonly [number, number], run: RunJobs, pageWith: (change: (page: string) => string) => void, tell: (line: string) => void): Promise<void> {
  for (const project of projects) {
    const [typical, rough] = [await attempts(project, OWN, 'typical', seeds, run), await attempts(project, OWN, 'rough', seeds, run)]
    const row = dependableRow(project, typical.result, rough.result)
    tell(row)
    pageWith(page => withRow(page, project, row))
  }
}

/** The page with a task's row in place of the one that it had, in the order of their names. */
export const withRow = (page: string, project: string, row: string): string => page.replace(MANY, (table) => {
  const rows = table.split('\n').filter(line => line.startsWith('| ') && !MANY_HEAD.includes(line) && !line.startsWith(`| ${project} |`))
  return ['<!-- dependable -->', MANY_HEAD, ...[...rows, row].sort(), '<!-- /dependable -->'].join('\n')
})

/** Runs every program of every demo task at typical and rough realism and puts the table of it into a page. True when each program does its task as often as is asked. */
export async function taskTable(page: string, projects: readonly string[], seeds: readonly [number, number], run: RunJobs, tell: (line: string) => void): Promise<{ readonly page: string, readonly good: boolean }> {
  const rows: string[] = []
  let good = true
  for (const project of projects) {
    for (const program of programsOf(project)) {
      const [typical, rough] = [await attempts(project, program, 'typical', seeds, run), await attempts(project, program, 'rough', seeds, run)]
      const [t, r] = [typical.result, rough.result]
      const enough = program === FIRST_TRY ? 2 * t.met < t.runs : program !== OWN || (t.met >= 0.95 * t.runs && r.met >= 0.8 * r.runs)
      good &&= enough
      const row = `| ${project} | ${program.replace('.mindpath', '')} | ${shareCell(t)} | ${timeCell(t)} | ${shareCell(r)} | ${timeCell(r)} |`
      tell(`${row}${enough ? '' : ' too few or too many'}`)
      for (const line of typical.said.slice(1, 3)) tell(`    ${line.trim()}`)
      rows.push(row)
    }
  }
  const table = ['<!-- attempts -->', '| task | program | typical | median time | rough | median time |', '| --- | --- | --- | --- | --- | --- |', ...rows, '<!-- /attempts -->'].join('\n')
  return { page: page.replace(TABLE, () => table), good }
}
