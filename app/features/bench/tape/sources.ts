import { columnsOf, columnValue, type Column } from '~~/core/runs'
import { deviceColor, mainReading, readingName, readingUnit, shownValue } from '~/shown/readings'
import type { Opened } from '~/run/protocol'

/** Something of a run that can be traced over time, in a colour of the theme. */
export interface Source extends Column { readonly color: string }

/** All that can be traced of a run. */
export const sourcesOf = (opened: Opened): readonly Source[] => columnsOf(opened).map(column => ({ ...column, color: column.of === '' ? 'ink' : deviceColor(opened.facts, column.of) }))

/** What is traced until somebody chooses: the readings that the program compares, each once; without any, the first sense. */
export function usualIds(opened: Opened): readonly string[] {
  const used = new Set(opened.program?.thresholds.map(t => t.reading) ?? [])
  const compared = opened.facts.devices.flatMap(d => d.readings.filter(r => !r.hidden).map(r => readingName(d, r))).filter(name => used.has(name))
  return compared.length > 0 ? compared : [mainReading(opened.facts.devices[1] ?? opened.facts.devices[0]!).name]
}

/** What a source is worth where its column holds this, SI; infinite where there is nothing to say. */
export const worth = columnValue

/** A value, or a difference of two, for reading. */
export function said({ spec }: Source, value: number, colors: readonly string[]): string {
  if (spec.type.type === 'truth') return value === 0 ? '○' : '●'
  // What has no unit may be of any size.
  if (spec.type.type === 'quantity' && readingUnit(spec) === undefined && Number.isFinite(value)) return String(Number(value.toPrecision(3)))
  const { figure, unit } = shownValue(spec, value, colors)
  return `${figure} ${unit}`.trim()
}

/** The difference of two values, with its sign; null where there is none to tell. */
export function difference(source: Source, from: number, to: number): string | null {
  if (source.spec.type.type !== 'quantity' || !Number.isFinite(from) || !Number.isFinite(to)) return null
  const text = said(source, to - from, [])
  return to - from > 0 && !/^[-−]?0(\.0+)?\b/.test(text) ? `+${text}` : text
}
