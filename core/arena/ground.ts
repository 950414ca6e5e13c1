import { REFLECTS, type ColorName, type Rgb } from '../colors'
import { cos, sin } from '../maths'
import type { Arena } from './arena'

/** What a floor looks like from above: painted patches and lines on decks, nothing beyond them. */
export interface Ground {
  /** The paint at a place (metres on the plan); null where there is no deck. */
  paintAt(x: number, y: number): Rgb | null
}

type Inside = (x: number, y: number) => boolean

/** Builds the floor of an arena. Of patches and lines the later ones cover the earlier; lines lie on top of patches. */
export function groundOf(arena: Arena): Ground {
  const decks = arena.decks.map(d => inBox(d.at, d.size, d.turn))
  const floor = REFLECTS[arena.floor.color]
  const paints: { readonly inside: Inside, readonly paint: Rgb }[] = []
  const add = (inside: Inside, color: ColorName): void => { paints.unshift({ inside, paint: REFLECTS[color] }) }
  for (const p of arena.patches) add(p.shape === 'disc' ? inDisc(p.at, p.size[0] / 2) : inBox(p.at, p.size, p.turn), p.color)
  for (const line of arena.lines) add(onLine(line.points, line.width), line.color)
  return {
    paintAt(x, y) {
      let deck = false
      for (const inside of decks) if (inside(x, y)) { deck = true; break }
      if (!deck) return null
      for (const p of paints) if (p.inside(x, y)) return p.paint
      return floor
    },
  }
}

function inBox(at: readonly [number, number], size: readonly [number, number], turn: number): Inside {
  const c = cos(turn)
  const s = sin(turn)
  return (x, y) => {
    const dx = x - at[0]
    const dy = y - at[1]
    return Math.abs(c * dx - s * dy) <= size[0] / 2 && Math.abs(s * dx + c * dy) <= size[1] / 2
  }
}

function inDisc(at: readonly [number, number], radius: number): Inside {
  return (x, y) => (x - at[0]) * (x - at[0]) + (y - at[1]) * (y - at[1]) <= radius * radius
}

function onLine(points: readonly (readonly [number, number])[], width: number): Inside {
  const reach = width / 2
  return (x, y) => {
    for (let i = 1; i < points.length; i++) if (distanceToSegment(x, y, points[i - 1]!, points[i]!).distance <= reach) return true
    return false
  }
}

/** Distance of a point to a stretch on the plan, and how far along it the nearest place is (metres). */
export function distanceToSegment(x: number, y: number, a: readonly [number, number], b: readonly [number, number]): { readonly distance: number, readonly along: number } {
  const dx = b[0] - a[0]
  const dy = b[1] - a[1]
  const long = dx * dx + dy * dy
  const t = long === 0 ? 0 : Math.min(1, Math.max(0, ((x - a[0]) * dx + (y - a[1]) * dy) / long))
  const ex = x - a[0] - t * dx
  const ey = y - a[1] - t * dy
  return { distance: Math.sqrt(ex * ex + ey * ey), along: t * Math.sqrt(long) }
}
