/** Where a plan looks: the place (metres) in the middle of the picture, page pixels a metre, and how far (radians, to the left) the world is turned on it. */
export interface PlanView { readonly x: number, readonly y: number, readonly scale: number, readonly turn: number }

/** What stands still on the picture: the arena, the arena while the picture goes with the robot, or the robot with its nose upwards. */
export const FRAMES = ['arena', 'follow', 'robot'] as const
export type Frame = (typeof FRAMES)[number]

export interface Point { readonly x: number, readonly y: number }

/** A place of the world on a picture of this size, page pixels. */
export function toPage(v: PlanView, width: number, height: number, { x, y }: Point): Point {
  const [c, s] = [Math.cos(v.turn), Math.sin(v.turn)]
  const [dx, dy] = [x - v.x, y - v.y]
  return { x: width / 2 + v.scale * (dx * c - dy * s), y: height / 2 - v.scale * (dx * s + dy * c) }
}

/** The place of the world at a place of the picture, metres. */
export function toWorld(v: PlanView, width: number, height: number, { x, y }: Point): Point {
  const [c, s] = [Math.cos(v.turn), Math.sin(v.turn)]
  const [right, up] = [(x - width / 2) / v.scale, (height / 2 - y) / v.scale]
  return { x: v.x + right * c + up * s, y: v.y - right * s + up * c }
}

/** Something that a ruler can be laid to: its middle, and how far it reaches from there, metres. */
export interface Anchor extends Point { readonly name: string, readonly reach: number }

/** How far two things are apart: between their middles, and between their edges (0 where they touch). Metres. */
export function apart(a: Anchor, b: Anchor): { readonly middles: number, readonly edges: number } {
  const middles = Math.hypot(a.x - b.x, a.y - b.y)
  return { middles, edges: Math.max(0, middles - a.reach - b.reach) }
}

/** The anchor that is meant by a place: the smallest that it lies on, with some slack; the bare place where it lies on none. */
export function anchorAt(anchors: readonly Anchor[], place: Point, slack: number): Anchor {
  const on = anchors.filter(a => Math.hypot(a.x - place.x, a.y - place.y) <= a.reach + slack)
  return on.sort((a, b) => a.reach - b.reach)[0] ?? { name: '', x: place.x, y: place.y, reach: 0 }
}
