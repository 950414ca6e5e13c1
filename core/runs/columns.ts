import type { ReadingSpec } from '../devices'
import type { ProgramMap } from '../language'
import { namedValue, valueText, type NamedCell } from '../program'
import { readingName, type RobotFacts } from '../robot'
import type { TapeLayout } from '../tape'
import { KINDS, UNITS, sameKind, unitsOfKind } from '../units'

/** Something of a run that has a value in every tick: a column of its tape, with its name and what its numbers are. */
export interface Column {
  /** The same in every run in which the same is meant. */
  readonly id: string
  readonly title: string
  readonly group: 'senses' | 'told' | 'names' | 'rules' | 'place'
  /** What it belongs to: a device, an actuator; '' for what the program has. */
  readonly of: string
  readonly column: number
  readonly spec: Pick<ReadingSpec, 'name' | 'type'>
  /** A time since something, of which the column holds when that was. */
  readonly named: NamedCell | null
}

const TRUTH = { type: 'truth' } as const
const quantity = (kind: typeof KINDS[keyof typeof KINDS]) => ({ type: 'quantity', kind, share: false }) as const

/** A value of a column, SI, for people. */
export function columnText({ spec: { type } }: Column, value: number, colors: readonly string[]): string {
  return valueText(value, type.type === 'quantity' ? { type: 'quantity', kind: type.kind, share: type.share } : { type: type.type }, colors)
}

/** All that can be asked of a run's tape: readings, what motors are told, what the program names, whether each rule wants control. */
export function columnsOf({ facts, layout, program }: { readonly facts: RobotFacts, readonly layout: TapeLayout, readonly program: ProgramMap | null }): readonly Column[] {
  const senses = facts.devices.flatMap(device => device.readings.flatMap((spec, i): Column[] => spec.hidden ? [] : [{
    id: readingName(device, spec), title: readingName(device, spec), group: 'senses', of: device.name, column: layout.readings + device.first + i, spec, named: null,
  }]))
  const told = facts.actuators.flatMap((a) => {
    const column = layout.commands + a.channel
    // A bare number: what a channel's number means depends on how the motor is told, as power or as a speed.
    const one = (i: number): Column => ({ id: `told ${a.name} ${i + 1}`, title: a.channels === 1 ? `${a.name} told` : `${a.name} told ${i + 1}`, group: 'told', of: a.name, column: column + i, spec: { name: 'told', type: quantity(KINDS.number) }, named: null })
    return Array.from({ length: a.channels }, (_, i) => one(i))
  })
  const names = (program?.named ?? []).map((named, i): Column => ({
    id: `named ${named.name}`, title: named.name, group: 'names', of: '', column: layout.named + i, named,
    spec: { name: named.name, type: named.shown.type === 'quantity' ? { type: 'quantity', kind: named.shown.kind, share: named.shown.share } : named.shown.type === 'truth' ? TRUTH : { type: 'color' } },
  }))
  const rules = (program?.rules ?? []).map((rule, i): Column => ({
    id: `wants ${program!.lanes[rule.lane]?.name ?? ''} ${rule.mode} ${rule.urgency}`, title: `${rule.mode === '' ? '' : `${rule.mode} `}rule ${rule.urgency} wants`,
    group: 'rules', of: '', column: layout.wants + i, spec: { name: 'wants', type: TRUTH }, named: null,
  }))
  return [...senses, ...told, ...names, ...rules]
}

/** Where the robot's middle is: what was true, whatever it sensed. */
export const placeColumns = ({ body }: TapeLayout): readonly Column[] => ['x', 'y', 'z'].map((axis, i): Column => ({
  id: `robot.${axis}`, title: `robot.${axis}`, group: 'place', of: '', column: body + i, spec: { name: axis, type: quantity(KINDS.length) }, named: null,
}))

/** What a column is worth where it holds this, SI; infinite where there is nothing to say. */
export function columnValue({ named }: Pick<Column, 'named'>, held: number, tick: number, dt: number): number {
  return named === null ? held : namedValue(named, held, tick, dt)
}

/** The unit in which a column goes to a file: the usual one of its kind; null for truths, colours and bare numbers. */
export function unitOf({ spec }: Pick<Column, 'spec'>): { readonly name: string, readonly scale: number } | null {
  if (spec.type.type !== 'quantity') return null
  if (spec.type.share) return UNITS.find(u => u.name === '%')!
  if (sameKind(spec.type.kind, KINDS.number)) return null
  return unitsOfKind(spec.type.kind)[0] ?? null
}
