import type { ReadingSpec } from '~~/core/devices'
import type { NamedCell } from '~~/core/program'
import { namedValue } from '~~/core/program'
import { KINDS } from '~~/core/units'
import { deviceColor, mainReading, readingName, readingUnit, shownValue } from '~/shown/readings'
import type { Opened } from '~/run/protocol'

/** Something of a run that can be traced over time: a column of the tape with its name. */
export interface Source {
  readonly id: string
  readonly title: string
  readonly group: 'senses' | 'told' | 'names' | 'rules'
  /** Name of the theme's colour. */
  readonly color: string
  readonly column: number
  readonly spec: Pick<ReadingSpec, 'name' | 'type'>
  /** A time since something, of which the column holds when that was. */
  readonly named: NamedCell | null
}

const TRUTH = { type: 'truth' } as const
const NUMBER = { type: 'quantity', kind: KINDS.number, share: false } as const

/** All that can be traced of a run: readings, what motors are told, what the program names, whether each rule wants control. */
export function sourcesOf({ facts, layout, program }: Opened): readonly Source[] {
  const senses = facts.devices.flatMap(device => device.readings.flatMap((spec, i): Source[] => spec.hidden ? [] : [{
    id: readingName(device, spec), title: readingName(device, spec), group: 'senses', color: deviceColor(facts, device.name), column: layout.readings + device.first + i, spec, named: null,
  }]))
  const told = facts.actuators.flatMap((a) => {
    const column = layout.commands + a.channel
    // A bare number: what a channel's number means depends on how the motor is told, as power or as a speed.
    const source = (i: number): Source => ({ id: `told ${a.name} ${i + 1}`, title: a.channels === 1 ? `${a.name} told` : `${a.name} told ${i + 1}`, group: 'told', color: deviceColor(facts, a.name), column: column + i, spec: { name: 'told', type: NUMBER }, named: null })
    return Array.from({ length: a.channels }, (_, i) => source(i))
  })
  const names = (program?.named ?? []).map((named, i): Source => ({
    id: `named ${named.name}`, title: named.name, group: 'names', color: 'ink', column: layout.named + i, named,
    spec: { name: named.name, type: named.shown.type === 'quantity' ? { type: 'quantity', kind: named.shown.kind, share: named.shown.share } : named.shown.type === 'truth' ? TRUTH : { type: 'color' } },
  }))
  const rules = (program?.rules ?? []).map((rule, i): Source => {
    const title = `${rule.mode === '' ? '' : `${rule.mode} `}rule ${rule.urgency} wants`
    return { id: `wants ${program!.lanes[rule.lane]?.name ?? ''} ${rule.mode} ${rule.urgency}`, title, group: 'rules', color: 'ink', column: layout.wants + i, spec: { name: 'wants', type: TRUTH }, named: null }
  })
  return [...senses, ...told, ...names, ...rules]
}

/** What is traced until somebody chooses: the readings that the program compares, each once; without any, the first sense. */
export function usualIds(opened: Opened): readonly string[] {
  const used = new Set(opened.program?.thresholds.map(t => t.reading) ?? [])
  const compared = opened.facts.devices.flatMap(d => d.readings.filter(r => !r.hidden).map(r => readingName(d, r))).filter(name => used.has(name))
  return compared.length > 0 ? compared : [mainReading(opened.facts.devices[1] ?? opened.facts.devices[0]!).name]
}

/** What a source is worth where its column holds this, SI; infinite where there is nothing to say. */
export function worth({ named }: Source, held: number, tick: number, dt: number): number {
  return named === null ? held : namedValue(named, held, tick, dt)
}

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
