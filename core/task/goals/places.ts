import { turned, type Arena } from '../../arena'
import type { GoalWorld } from './goal'

/** A place of an arena that goals name: a marked area, a crate, or a painted patch by its colour. */
export interface NamedArea {
  /** Whether a point (metres) is in it; a crate holds what is below its rim. */
  holds(x: number, y: number, z: number): boolean
}

/** The area, crate or patch of that name; a patch goes by its colour. null when there is none. */
export function areaOf(arena: Arena, name: string): NamedArea | null {
  const box = (at: readonly [number, number], size: readonly [number, number], turn: number) => (x: number, y: number): boolean => {
    const p = turned(x - at[0], y - at[1], -turn)
    return Math.abs(p.x) <= size[0] / 2 && Math.abs(p.y) <= size[1] / 2
  }
  const area = arena.areas.find(a => a.name === name)
  if (area !== undefined) return { holds: box(area.at, area.size, 0) }
  const crate = arena.crates.find(c => c.name === name)
  if (crate !== undefined) {
    const inside = box(crate.at, crate.size, crate.turn)
    return { holds: (x, y, z) => inside(x, y) && z < crate.height }
  }
  const patches = arena.patches.filter(p => p.color === name)
  if (patches.length === 0) return null
  const holders = patches.map(p => p.shape === 'disc' ? (x: number, y: number) => (x - p.at[0]) * (x - p.at[0]) + (y - p.at[1]) * (y - p.at[1]) <= p.size[0] * p.size[0] / 4 : box(p.at, p.size, p.turn))
  return { holds: (x, y) => holders.some(h => h(x, y)) }
}

/** All names that goals can give to what stands or walks in an arena: names of their own, and kinds; each once. */
export function thingNames(arena: Arena): readonly string[] {
  return [...new Set([
    ...arena.pieces.flatMap(p => [p.name, p.kind]), ...arena.scatter.map(s => s.kind), ...arena.visitors.flatMap(v => [v.name, v.kind]),
    ...arena.belts.flatMap(b => b.feeder?.items.map(i => i.kind) ?? []),
  ])]
}

/** All names that goals can give to places of an arena. */
export function placeNames(arena: Arena): readonly string[] {
  return [...arena.areas.map(a => a.name), ...arena.lanes.map(l => l.exit), ...arena.crates.map(c => c.name), ...new Set(arena.patches.map(p => p.color))]
}

/** Faster than this counts as on its way, metres a second. */
const MOVING = 0.6

/** Whether the robot is not flinging things about: what lies somewhere for a moment only does not count. */
export function slow(world: GoalWorld): boolean {
  const v = world.body.velocity
  return v.x * v.x + v.y * v.y < MOVING * MOVING
}
