import type { Generated } from 'kysely'
import type { PlanState } from '../../core/trials'

/** The tables as they are after the last migration. Times are ISO 8601 in UTC. */
export interface Database {
  projects: ProjectTable
  documents: DocumentTable
  revisions: RevisionTable
  shelf: ShelfTable
  runs: RunTable
  run_files: RunFileTable
  plans: PlanTable
  trials: TrialTable
  settings: SettingTable
}

export interface ProjectTable {
  id: string
  title: string
  created_at: string
  changed_at: string
  /** null while it is there; deleting can be undone. */
  deleted_at: string | null
  /** Number of the last revision that ran; null before the first run. */
  ran_revision: number | null
}

/** Robot, arena and task documents, kept once each by the fingerprint of their text. */
export interface DocumentTable {
  id: string
  body: string
}

/** Everything that was ever saved of a project. */
export interface RevisionTable {
  id: Generated<number>
  project_id: string
  /** From 1, without gaps, per project. */
  number: number
  program: string
  robot: string
  arena: string
  task: string | null
  created_at: string
  /** 1 for one that somebody marked, and for one that ran: it stays whatever its age. */
  marked: Generated<number>
  ran: Generated<number>
}

/** Robots, arenas and tasks kept for use in any project. */
export interface ShelfTable {
  id: string
  kind: 'robot' | 'arena' | 'task'
  document: string
  created_at: string
  deleted_at: string | null
}

/** Runs of a project, as they are listed; what all was recorded is in `run_files`. */
export interface RunTable {
  id: string
  project_id: string
  /** The project's revision that it ran; null where what ran was never saved. */
  revision: number | null
  /** '' for one that nobody named. One that has a name or a star stays whatever its age. */
  name: Generated<string>
  starred: Generated<number>
  seed: number
  realism: string
  engine: number
  ticks: number
  fingerprint: string
  /** Id of the run that it went on from, and after how many of its ticks; null for one from the start. */
  origin: string | null
  origin_ticks: number | null
  /** JSON of core/runs' RunOutline. */
  outline: string
  /** Of its file as it is kept. */
  bytes: number
  created_at: string
  deleted_at: string | null
}

/** A kept run's file (core/runs/kept.ts). */
export interface RunFileTable {
  run_id: string
  body: Buffer
}

/** Trial plans, each with what its runs are made of as that was when it came. */
export interface PlanTable {
  id: string
  project_id: string
  /** The plan as it was written, JSON. */
  plan: string
  /** JSON of its programs: name, text, and the revision that it is; null for none. */
  programs: string
  robot: string
  arena: string
  task: string | null
  /** How many runs it has. */
  total: number
  state: PlanState
  /** Why it failed; '' while it did not. */
  why: Generated<string>
  /** Milliseconds that it has been under way. */
  spent: Generated<number>
  created_at: string
  deleted_at: string | null
}
/** A run of a plan: what it was made of, and what came of it. */
export interface TrialTable {
  id: Generated<number>
  plan_id: string
  /** Of its job: each once. */
  number: number
  program: string
  realism: string
  seed: number
  /** JSON: values of dials, and how its world differs from the arena. */
  dials: string
  world: string
  /** 1 where it met all goals; null where it could not be run. */
  met: number | null
  /** JSON of core/trials' Trial, or a string that says why it could not be run. */
  result: string
}

export interface SettingTable {
  key: string
  value: string
}
