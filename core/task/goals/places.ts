import type { Arena } from '../../arena'
import { cos, sin } from '../../maths'
import type { GoalWorld } from './goal'

/** A place of an arena that goals name: a marked area, a crate, or a painted patch by its colour. */
export interface NamedArea {
  /** Whether a point (metres) is in it; a crate holds what is below its rim. */
  holds(x: number, y: number, z: number): boolean
  /** Metres from a point on the plan to its border: above zero inside. */
  within(x: number, y: number): number
}

/** A way that is much, where something is to be in a place or out of it, metres. */
export const FAR_OFF = 0.5
/** As far from a deck's edge is far enough to be measured, metres; and how finely, in so many directions. */
const FAR = 1
const FINE = 0.01
const WAYS = 16
/** Metres from a point on the plan to the edge of the deck, above zero on it; no more than `most`. */
export function onDeckBy(onDeck: GoalWorld['onDeck'], x: number, y: number, most = FAR): number {
  const there = onDeck(x, y)
  let edge = most
  for (let i = 0; i < WAYS; i++) {
    const [dx, dy] = [cos(2 * Math.PI * i / WAYS), sin(2 * Math.PI * i / WAYS)]
    for (let r = 0; r < edge; r += FINE) if (onDeck(x + r * dx, y + r * dy) !== there) edge = r
  }
  return there ? edge : -edge
}

/** How far the piece that is last needed is within, metres, where so many of some are: below zero while it is outside. null where there are too few. */
export const lastWithin = (within: readonly number[], wanted: number): number | null => wanted === 0 ? null : within.toSorted((a, b) => b - a)[wanted - 1] ?? null

/** Places that goals asked for, of each arena: they do so in every tick. */
const KNOWN = new WeakMap<Arena, Map<string, NamedArea | null>>()

/** The area, crate or patch of that name; a patch goes by its colour. null when there is none. */
export function areaOf(arena: Arena, name: string): NamedArea | null {
  let known = KNOWN.get(arena)
  if (known === undefined) KNOWN.set(arena, known = new Map<string, NamedArea | null>())
  let area = known.get(name)
  if (area === undefined) known.set(name, area = findArea(arena, name))
  return area
}

function findArea(arena: Arena, name: string): NamedArea | null {
  const box = (at: readonly [number, number], size: readonly [number, number], turn: number) => {
    const [c, s] = [cos(turn), sin(turn)]
    return (x: number, y: number): number => {
      // Into its own frame, turned back.
      const [ax, ay] = [x - at[0], y - at[1]]
      const dx = Math.abs(c * ax - s * ay) - size[0] / 2
      const dy = Math.abs(s * ax + c * ay) - size[1] / 2
      return dx > 0 && dy > 0 ? -Math.sqrt(dx * dx + dy * dy) : -Math.max(dx, dy)
    }
  }
  const plain = (within: (x: number, y: number) => number): NamedArea => ({ holds: (x, y) => within(x, y) >= 0, within })
  const area = arena.areas.find(a => a.name === name)
  if (area !== undefined) return plain(box(area.at, area.size, 0))
  const crate = arena.crates.find(c => c.name === name)
  if (crate !== undefined) {
    const within = box(crate.at, crate.size, crate.turn)
    return { holds: (x, y, z) => within(x, y) >= 0 && z < crate.height, within }
  }
  const patches = arena.patches.filter(p => p.color === name)
  if (patches.length === 0) return null
  const each = patches.map(p => p.shape === 'disc' ? (x: number, y: number) => p.size[0] / 2 - Math.sqrt((x - p.at[0]) * (x - p.at[0]) + (y - p.at[1]) * (y - p.at[1])) : box(p.at, p.size, p.turn))
  return plain((x, y) => {
    let most = -Infinity
    for (const within of each) most = Math.max(most, within(x, y))
    return most
  })
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
