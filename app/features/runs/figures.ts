import { metIn, stuckFor, touchesIn, type RunOutline } from '~~/core/runs'

/** What is told of a run in a number: in the table of compared runs, and in the chart over all of them. */
export interface Figure {
  readonly value: string
  readonly title: string
  /** '' for counts. */
  readonly unit: 's' | 'm' | ''
  readonly of: (outline: RunOutline) => number
}

export const FIGURES: readonly Figure[] = [
  { value: 'time', title: 'time', unit: 's', of: o => o.time },
  { value: 'met', title: 'goals met', unit: '', of: metIn },
  { value: 'path', title: 'path', unit: 'm', of: o => o.path },
  { value: 'away', title: 'from the start', unit: 'm', of: o => o.away },
  { value: 'touched', title: 'touched', unit: '', of: touchesIn },
  { value: 'takeovers', title: 'takeovers', unit: '', of: o => o.takeovers },
  { value: 'stuck', title: 'stuck', unit: 's', of: stuckFor },
]

/** A figure for reading, with its unit. */
export const figureText = ({ unit }: Figure, x: number): string => unit === '' ? String(x) : `${x.toFixed(2)} ${unit}`

/** How a rule is called across runs: its lane, its mode, and its line as it is written. */
export const ruleName = ({ lane, mode, line }: RunOutline['rules'][number], program: string, lanes: number): string =>
  `${lanes > 1 ? `${lane}, ` : ''}${mode === '' ? '' : `${mode}: `}${program.split('\n')[line - 1]?.trim().replace(/\s*->.*$/, '') ?? ''}`
