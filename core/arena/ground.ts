import { REFLECTS, type Rgb } from '../colors'
import { atan2, cos, sin } from '../maths'
import type { Arena } from './arena'
import type { PaintFigure } from './figure'
import { figuresOf } from './figures'

/** What a floor looks like from above: painted patches and lines on decks, nothing beyond them. */
export interface Ground {
  /** The paint at a place (metres on the plan); null where there is no deck. */
  paintAt(x: number, y: number): Rgb | null
  /**
   * Adds what a round spot of light about a place throws back: red, green and blue, and the share of the spot that falls on a
   * deck, each times `strength`. The light is strongest in the middle, 2 (1 - r²), and covers edges smoothly.
   */
  spread(x: number, y: number, radius: number, strength: number, into: Float64Array): void
}

type Inside = (x: number, y: number) => boolean
/** The share of a spot's light that falls on something. */
type Covers = (x: number, y: number, radius: number) => number

/**
 * The share of the light on one side of a straight edge `t` radii from the middle of the spot: the integral of 2 (1 - r²)
 * over the disc's part, (1 / π) (asin t + t √(1 - t²) (5 - 2 t²) / 3) + 1 / 2.
 */
function beyondEdge(t: number): number {
  if (t <= -1) return 0
  if (t >= 1) return 1
  const root = Math.sqrt(1 - t * t)
  return 0.5 + (atan2(t, root) + t * root * (5 - 2 * t * t) / 3) / Math.PI
}

/** Builds the floor of an arena. Of what is painted the later covers the earlier. */
export function groundOf(arena: Arena): Ground {
  const figures = figuresOf(arena)
  const made = (figure: PaintFigure) => ({ inside: insideOf(figure), covers: coversOf(figure), paint: REFLECTS[figure.color] })
  const decks = figures.floor.map(made)
  const paints = figures.paint.map(made).reverse()
  const floor = REFLECTS[arena.floor.color]
  return {
    paintAt(x, y) {
      let deck = false
      for (const { inside } of decks) if (inside(x, y)) { deck = true; break }
      if (!deck) return null
      for (const p of paints) if (p.inside(x, y)) return p.paint
      return floor
    },
    spread(x, y, radius, strength, into) {
      let left = 0
      for (const { covers } of decks) left = Math.max(left, covers(x, y, radius))
      if (left <= 0) return
      into[3]! += left * strength
      for (const { covers, paint } of paints) {
        const share = left * covers(x, y, radius)
        if (share <= 0) continue
        add(paint, share, strength, into)
        left -= share
        if (left <= 1e-9) return
      }
      add(floor, left, strength, into)
    },
  }
}

function add(paint: Rgb, share: number, strength: number, into: Float64Array): void {
  into[0]! += paint[0] * share * strength
  into[1]! += paint[1] * share * strength
  into[2]! += paint[2] * share * strength
}

function insideOf(figure: PaintFigure): Inside {
  switch (figure.shape) {
    case 'box': return inBox(figure.at, figure.size, figure.turn)
    case 'disc': return inDisc(figure.at, figure.radius)
    case 'way': return onLine(figure.points, figure.width)
  }
}

function coversOf(figure: PaintFigure): Covers {
  switch (figure.shape) {
    case 'box': return coversBox(figure.at, figure.size, figure.turn)
    case 'disc': return coversDisc(figure.at, figure.radius)
    case 'way': return coversLine(figure.points, figure.width)
  }
}

/** Exact at straight edges; at a corner the two edges count one after the other. */
function coversBox(at: readonly [number, number], size: readonly [number, number], turn: number): Covers {
  const c = cos(turn)
  const s = sin(turn)
  return (x, y, radius) => {
    const dx = x - at[0]
    const dy = y - at[1]
    const u = Math.abs(c * dx - s * dy)
    const v = Math.abs(s * dx + c * dy)
    if (u - size[0] / 2 >= radius || v - size[1] / 2 >= radius) return 0
    const along = beyondEdge((size[0] / 2 - u) / radius) - beyondEdge((-size[0] / 2 - u) / radius)
    return along * (beyondEdge((size[1] / 2 - v) / radius) - beyondEdge((-size[1] / 2 - v) / radius))
  }
}

/** A disc's rim counts as straight over the spot; one smaller than the spot covers no more than its own part of it. */
function coversDisc(at: readonly [number, number], reach: number): Covers {
  return (x, y, radius) => {
    const far = Math.sqrt((x - at[0]) * (x - at[0]) + (y - at[1]) * (y - at[1]))
    const small = Math.min(1, reach / radius)
    return Math.min(beyondEdge((reach - far) / radius), small * small * (2 - small * small))
  }
}

function coversLine(points: readonly (readonly [number, number])[], width: number): Covers {
  return (x, y, radius) => {
    let near = Infinity
    for (let i = 1; i < points.length; i++) near = Math.min(near, distanceToSegment(x, y, points[i - 1]!, points[i]!).distance)
    if (near - width / 2 >= radius) return 0
    return beyondEdge((width / 2 - near) / radius) - beyondEdge((-width / 2 - near) / radius)
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
