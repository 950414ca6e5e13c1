import type { Migration } from 'kysely'
import * as projects from './0001-projects'
import * as robots from './0002-robots'
import * as marks from './0003-marks'
import * as shelf from './0004-shelf'
import * as runs from './0005-runs'
import * as trials from './0006-trials'

/** In the order in which they are applied. One that has landed never changes. */
export const MIGRATIONS: Readonly<Record<string, Migration>> = {
  '0001-projects': projects,
  '0002-robots': robots,
  '0003-marks': marks,
  '0004-shelf': shelf,
  '0005-runs': runs,
  '0006-trials': trials,
}
