import { existsSync, readFileSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { readFolder } from '../cli/project'
import { REALISMS, type RealismName } from '../core/devices'
import { openRun } from '../core/simulation'

/** A demo project's run, and what its tape comes to. */
export interface Fingerprint { readonly project: string, readonly realism: RealismName, readonly seed: number, readonly digest: string, readonly ticks: number }

/** The fingerprints that the runs had when they were last meant to change. */
export const KEPT = 'prove/fingerprints.txt'
/** Simulated seconds of each. */
const LIMIT = 40
const SEEDS = [1, 2, 3, 4, 5] as const

export const demoProjects = (): readonly string[] => readdirSync('demo/projects').sort()

export async function fingerprintOf(project: string, realism: RealismName, seed: number): Promise<Fingerprint> {
  const { documents, program } = await readFolder(join('demo/projects', project))
  const opened = await openRun({ ...documents, program, realism, seed, limit: LIMIT })
  if (!opened.ok) throw new Error(`${project}: ${JSON.stringify([opened.problems, opened.diagnostics])}`)
  const { simulation } = opened
  simulation.runToEnd()
  const { tape } = simulation
  simulation.free()
  return { project, realism, seed, digest: tape.digest(), ticks: tape.rows }
}

/** Of every demo project, for five seeds at each realism. */
export async function fingerprints(): Promise<readonly Fingerprint[]> {
  const all: Fingerprint[] = []
  for (const project of demoProjects()) for (const realism of REALISMS) for (const seed of SEEDS) all.push(await fingerprintOf(project, realism, seed))
  return all
}

export const lineOf = (f: Fingerprint): string => `${f.project} ${f.realism} ${f.seed} ${f.digest} ${f.ticks}`

export const keptLines = (): readonly string[] => existsSync(KEPT) ? readFileSync(KEPT, 'utf8').trimEnd().split('\n') : []
