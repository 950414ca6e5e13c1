import type { Outline } from './outline'
import { readLength } from '~/shown/quantities'
import { readQuantity, kindOf } from '~~/core/units'

/** Things of an arena document as they are written: where they stand, and what moving and turning them writes. Metres, radians; x east, y north, turns right positive. */

export type Point = readonly [number, number]
/** A thing as its document has it: any JSON. */
export type Raw = Record<string, unknown>
/** Where a thing stands in the document; the start is a list of one. */
export interface Ref { readonly list: string, readonly index: number }

export const refKey = ({ list, index }: Ref): string => `${list}[${index}]`

/** Writes a length to the millimetre, an angle to a tenth of a degree. */
export interface Pen { length(metres: number): string, angle(radians: number): string }

/** The points that a thing goes through, by their field; null for one that stands at a place. */
function pointsField(raw: Raw): 'points' | 'path' | null { return Array.isArray(raw['points']) ? 'points' : Array.isArray(raw['path']) ? 'path' : null }

export function readPoint(value: unknown): Point {
  const [x, y] = Array.isArray(value) ? value as unknown[] : []
  return [readLength(x, 'length', 0), readLength(y, 'length', 0)]
}
const writePoint = ([x, y]: Point, pen: Pen): readonly [string, string] => [pen.length(x), pen.length(y)]
export function readAngle(value: unknown): number {
  const read = typeof value === 'string' ? readQuantity(value, kindOf('angle')) : null
  return read?.ok === true ? read.value : 0
}

/** The area that a thing's place is drawn from, when it has one and no place of its own. */
function areaOf(raw: Raw): Raw | null {
  const { area } = raw
  return typeof area === 'object' && area !== null && !Array.isArray(area) && raw['from'] === undefined ? area as Raw : null
}

/** Points that can be dragged one by one: the ends of a wall, the points of a line or path; none of what stands at a place. */
export function pointsOf(raw: Raw): readonly Point[] {
  if (raw['from'] !== undefined || raw['to'] !== undefined) return [readPoint(raw['from']), readPoint(raw['to'])]
  const field = pointsField(raw)
  return field === null ? [] : (raw[field] as unknown[]).map(readPoint)
}

/** The middle of a thing: where it is written, or between its points. */
export function middleOf(raw: Raw): Point {
  const points = pointsOf(raw)
  if (points.length > 0) {
    const [xs, ys] = [points.map(p => p[0]), points.map(p => p[1])]
    return [(Math.min(...xs) + Math.max(...xs)) / 2, (Math.min(...ys) + Math.max(...ys)) / 2]
  }
  return readPoint(areaOf(raw)?.['at'] ?? raw['at'])
}

/** Half of a thing's size on the plan before it is turned: what is chosen and dragged. At least as large as a finger finds. */
export function outlineOf({ list }: Ref, raw: Raw): Outline {
  const points = pointsOf(raw)
  if (points.length > 0) return { shape: 'way', points, width: Math.max(0.03, readLength(raw['thickness'] ?? raw['width'], 'length', list === 'walls' ? 0.04 : 0.03)) }
  const area = areaOf(raw)
  const turn = area === null ? readAngle(raw['turn'] ?? raw['heading']) : 0
  return { shape: 'box', at: middleOf(raw), size: sizeOf(list, raw, area), turn }
}

/** The least that an outline is wide, metres. */
const LEAST = 0.04

function sizeOf(list: string, raw: Raw, area: Raw | null): Point {
  const size = area?.['size'] ?? raw['size']
  if (size !== undefined) return readPoint(size)
  if (list === 'lanes') {
    const pitch = readLength(raw['width'], 'length', 0.45) + readLength(raw['thickness'], 'length', 0.03)
    return [pitch * Number(raw['columns'] ?? 4), pitch * Number(raw['rows'] ?? 3)]
  }
  if (list === 'start') return [0.18, 0.13]
  if (raw['diameter'] !== undefined && raw['length'] === undefined) { const d = Math.max(LEAST, readLength(raw['diameter'], 'length', 0.1)); return [d, d] }
  if (raw['length'] === undefined) return [0.08, 0.08]
  return [Math.max(LEAST, readLength(raw['length'], 'length', 0.1)), Math.max(LEAST, readLength(raw['width'], 'length', 0.1))]
}

/** Whether a thing has a size on the plan that a corner can drag: two lengths, east and north. */
export function isSized(raw: Raw): boolean { return (areaOf(raw)?.['size'] ?? raw['size']) !== undefined }

/** Whether a thing can be turned where it stands. */
export function canTurn({ list }: Ref, raw: Raw): boolean {
  if (pointsOf(raw).length > 0) return true
  if (areaOf(raw) !== null || raw['before'] !== undefined) return false
  return list !== 'areas' && list !== 'lamps' && list !== 'noises' && list !== 'lanes'
}

/** Puts each point of a thing elsewhere. */
function eachPoint(raw: Raw, to: (p: Point) => Point, pen: Pen): void {
  const field = pointsField(raw)
  if (raw['from'] !== undefined || raw['to'] !== undefined) {
    raw['from'] = writePoint(to(readPoint(raw['from'])), pen)
    raw['to'] = writePoint(to(readPoint(raw['to'])), pen)
    // A drawn wall's area goes where the wall goes.
    if (typeof raw['area'] === 'object' && raw['area'] !== null) (raw['area'] as Raw)['at'] = writePoint(to(readPoint((raw['area'] as Raw)['at'])), pen)
  } else if (field !== null) raw[field] = (raw[field] as unknown[]).map(p => writePoint(to(readPoint(p)), pen))
  else {
    const holder = areaOf(raw) ?? raw
    if (holder['at'] !== undefined) holder['at'] = writePoint(to(readPoint(holder['at'])), pen)
  }
}

export function moveBy(raw: Raw, dx: number, dy: number, pen: Pen): void { eachPoint(raw, ([x, y]) => [x + dx, y + dy], pen) }

/** Turns a thing about a place, to the right. */
export function turnAbout(ref: Ref, raw: Raw, about: Point, angle: number, pen: Pen): void {
  const [c, s] = [Math.cos(-angle), Math.sin(-angle)]
  eachPoint(raw, ([x, y]) => [about[0] + c * (x - about[0]) - s * (y - about[1]), about[1] + s * (x - about[0]) + c * (y - about[1])], pen)
  if (pointsOf(raw).length === 0 && canTurn(ref, raw)) addTurn(ref, raw, angle, pen)
}

function addTurn({ list }: Ref, raw: Raw, angle: number, pen: Pen): void {
  const field = list === 'start' ? 'heading' : 'turn'
  raw[field] = pen.angle(within(readAngle(raw[field]) + angle))
}

/** An angle within half a turn either way. */
const within = (angle: number): number => Math.atan2(Math.sin(angle), Math.cos(angle))

/** Mirrors a thing: what was east of the line x = `at` is west of it then. */
export function mirror(ref: Ref, raw: Raw, at: number, pen: Pen): void {
  eachPoint(raw, ([x, y]) => [2 * at - x, y], pen)
  if (pointsOf(raw).length > 0 || !canTurn(ref, raw)) return
  const field = ref.list === 'start' ? 'heading' : 'turn'
  raw[field] = pen.angle(within(ref.list === 'start' ? Math.PI - readAngle(raw[field]) : -readAngle(raw[field])))
}

/** Drags one of a thing's points to a place. */
export function dragPoint(raw: Raw, index: number, to: Point, pen: Pen): void {
  const field = pointsField(raw)
  if (field !== null) raw[field] = (raw[field] as unknown[]).map((p, i) => i === index ? writePoint(to, pen) : p)
  else raw[index === 0 ? 'from' : 'to'] = writePoint(to, pen)
}

/** Makes a thing so large that its corner, as it is turned, lies at a place; the middle stays. */
export function dragCorner(ref: Ref, raw: Raw, to: Point, pen: Pen): void {
  const outline = outlineOf(ref, raw)
  if (outline.shape !== 'box') return
  const [dx, dy] = [to[0] - outline.at[0], to[1] - outline.at[1]]
  const [c, s] = [Math.cos(outline.turn), Math.sin(outline.turn)]
  const holder = areaOf(raw) ?? raw
  holder['size'] = [pen.length(Math.max(0.02, 2 * Math.abs(c * dx - s * dy))), pen.length(Math.max(0.02, 2 * Math.abs(s * dx + c * dy)))]
}

/** Puts a thing as another one does: its left, right, lower or upper edge, or its middle. */
export const EDGES = ['west', 'middle', 'east', 'south', 'centre', 'north'] as const
export type Edge = (typeof EDGES)[number]

/** The box around what is chosen: west, south, east, north. */
export function boundsOf(things: readonly { readonly ref: Ref, readonly raw: Raw }[]): readonly [number, number, number, number] {
  const corners = things.flatMap(({ ref, raw }) => cornersOf(outlineOf(ref, raw)))
  const [xs, ys] = [corners.map(p => p[0]), corners.map(p => p[1])]
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]
}

/** The corners of an outline; the points of a way. */
export function cornersOf(outline: Outline): readonly Point[] {
  if (outline.shape === 'way') return outline.points
  const { at, size, turn } = outline
  const [c, s] = [Math.cos(-turn), Math.sin(-turn)]
  return [[-1, -1], [1, -1], [1, 1], [-1, 1]].map(([p, q]) => {
    const [x, y] = [p! * size[0] / 2, q! * size[1] / 2]
    return [at[0] + c * x - s * y, at[1] + s * x + c * y]
  })
}

/** Aligns things by an edge of the box around all of them. */
export function align(things: readonly { readonly ref: Ref, readonly raw: Raw }[], edge: Edge, pen: Pen): void {
  const [west, south, east, north] = boundsOf(things)
  for (const thing of things) {
    const [w, s, e, n] = boundsOf([thing])
    const by = { west: [west - w, 0], east: [east - e, 0], middle: [(west + east - w - e) / 2, 0], south: [0, south - s], north: [0, north - n], centre: [0, (south + north - s - n) / 2] }[edge]
    moveBy(thing.raw, by[0]!, by[1]!, pen)
  }
}

/** Puts the middles of things at even distances, along the way on which they lie farther apart. */
export function distribute(things: readonly { readonly ref: Ref, readonly raw: Raw }[], pen: Pen): void {
  if (things.length < 3) return
  const middles = things.map(t => middleOf(t.raw))
  const spread = (k: 0 | 1): number => Math.max(...middles.map(m => m[k])) - Math.min(...middles.map(m => m[k]))
  const axis = spread(0) >= spread(1) ? 0 : 1
  const order = things.map((t, i) => ({ t, at: middles[i]![axis] })).sort((a, b) => a.at - b.at)
  const [first, last] = [order[0]!.at, order.at(-1)!.at]
  order.forEach(({ t, at }, i) => {
    const by = first + (last - first) * i / (order.length - 1) - at
    moveBy(t.raw, axis === 0 ? by : 0, axis === 1 ? by : 0, pen)
  })
}
