import type { Arena } from '~~/core/arena'
import { placeNames } from '~~/core/task'

/** What each kind of goal asks, for the menu that adds one. */
export const GOAL_SAYS: Readonly<Record<string, string>> = {
  'at-distance': 'stand at a distance from something',
  'never-touch': 'touch nothing, or nothing of a kind',
  'travels': 'cover a way of some length',
  'stay-aboard': 'do not fall off the deck',
  'finish': 'end by itself',
  'clear-deck': 'every piece of a kind off the deck',
  'in-area': 'pieces in an area, a crate or on paint',
  'empty-area': 'nothing left in an area',
  'stacked': 'pieces on one another',
  'own-crate': 'each piece in the crate of its colour',
  'robot-in': 'the robot in an area',
  'topple': 'pieces knocked over',
  'follow': 'a line followed to its end',
  'answers': 'a device acts when something is near',
  'rests': 'stand while it is light',
}

/** Things that goals name: kinds, and names of their own. */
function thingNames(arena: Arena): readonly string[] {
  return [...new Set([...arena.pieces.flatMap(p => [p.kind, p.name]), ...arena.scatter.map(s => s.kind), ...arena.belts.flatMap(b => b.feeder?.items.map(i => i.kind) ?? []), ...arena.visitors.flatMap(v => [v.kind, v.name])])]
}

/** What a goal's field may name in an arena; null for a field that names nothing. */
export function namesFor(field: string, arena: Arena, places: readonly string[], devices: readonly string[]): readonly string[] | null {
  switch (field) {
    case 'of':
    case 'to': return thingNames(arena)
    case 'kind': return ['', ...thingNames(arena), 'wall', 'crate']
    case 'area': return places
    case 'line': return arena.lines.map(l => l.name)
    case 'by': return devices
    default: return null
  }
}

/** A new goal about what the arena has, as documents write it. What it cannot name yet stays open, and is told. */
export function freshGoal(goal: string, arena: Arena, devices: readonly string[]): Record<string, unknown> {
  const thing = thingNames(arena)[0] ?? ''
  const place = placeNames(arena)[0] ?? ''
  switch (goal) {
    case 'at-distance': return { goal, of: thing, distance: '12 cm', within: '2 cm' }
    case 'travels': return { goal, distance: '3 m' }
    case 'clear-deck':
    case 'topple':
    case 'own-crate':
    case 'stacked': return { goal, kind: thing }
    case 'in-area': return { goal, kind: thing, area: place }
    case 'empty-area':
    case 'robot-in': return { goal, area: place }
    case 'follow': return { goal, line: arena.lines[0]?.name ?? '' }
    case 'answers': return { goal, by: devices[0] ?? '', to: thing, within: '60 cm' }
    default: return { goal }
  }
}
