import type { SchemaDescription, SchemaObjectDescription } from 'yup'
import type { Arena } from '~~/core/arena'
import { placeNames, thingNames, type GoalKind } from '~~/core/task'

/** What a goal's field may name in an arena; null for a field that names nothing. */
export function namesFor(field: string, arena: Arena, devices: readonly string[]): readonly string[] | null {
  switch (field) {
    case 'of':
    case 'to': return thingNames(arena)
    case 'kind': return ['', ...thingNames(arena), 'wall', 'crate']
    case 'area': return placeNames(arena)
    case 'line': return arena.lines.map(l => l.name)
    case 'by': return devices
    default: return null
  }
}

/** A new goal about what the arena has, as documents write it. What it cannot name yet stays open, and is told. */
export function freshGoal(kind: GoalKind, arena: Arena, devices: readonly string[]): Record<string, unknown> {
  const { fields } = kind.schema.describe() as SchemaObjectDescription
  const needed = Object.entries(fields).filter(([, field]) => (field as SchemaDescription).optional === false).map(([name]) => name)
  const named = needed.flatMap((name) => {
    const all = namesFor(name, arena, devices)
    return all === null ? [] : [[name, all.find(n => n !== '') ?? ''] as const]
  })
  return { goal: kind.goal, ...Object.fromEntries(named), ...kind.example }
}
