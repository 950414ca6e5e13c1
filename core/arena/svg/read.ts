import type { ColorName } from '../../colors'
import { cos, sin } from '../../maths'
import { freeName } from '../arena'
import { written as cm, writtenPlace } from '../items/item'
import { readDrawing, type Figure } from './drawing'
import { plainOf, simplified, type Plain, type Stroke } from './outline'
import { paintOf } from './paint'

/** What came of a drawing: lists of an arena document with its size, and what was not understood, a line each. */
export type FromSvg =
  | { readonly ok: true, readonly size: readonly [string, string], readonly items: Readonly<Record<string, readonly object[]>>, readonly left: readonly string[] }
  | { readonly ok: false, readonly message: string }

/** What the names of layers, classes and figures say about what is drawn in them. */
const LAYERS: readonly (readonly [RegExp, Kind])[] = [
  [words('walls?'), 'walls'], [words('pieces?|things?'), 'pieces'], [words('areas?|zones?'), 'areas'], [words('decks?|floors?'), 'decks'], [words('patch|patches|paint'), 'patches'], [words('lines?|tracks?'), 'lines'],
]
/** Whole words: an outline is no line, and a floorplan no floor. */
function words(any: string): RegExp { return new RegExp(`(?<![a-z])(${any})(?![a-z])`, 'i') }
type Kind = 'walls' | 'pieces' | 'areas' | 'decks' | 'patches' | 'lines'

/** Of walls and lines that are drawn without a width, metres; of pieces, how high. */
const WALL = 0.04
const LINE = 0.02
const HIGH = 0.1
/** How far a line may stray from what was drawn, metres, and how many points it may have. */
const STRAY = 0.002
const MOST_POINTS = 200

const deg = (radians: number): string => `${Math.round(radians * 1800 / Math.PI) / 10} deg`
const within = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x))

/**
 * Reads a drawing as an arena, true to scale. What a figure becomes is said by the name of a layer (or class, or its own); without one,
 * filled boxes and discs are patches, grey strokes walls and other strokes painted lines.
 */
export function arenaFromSvg(text: string): FromSvg {
  const drawing = readDrawing(text)
  if (typeof drawing === 'string') return { ok: false, message: drawing }
  const items: Record<string, object[]> = {}
  const left = [...drawing.left]
  const names = new Set<string>()
  const put = (kind: Kind, item: object): void => { (items[kind] ??= []).push(item) }
  const named = (figure: Figure, base: string): string => {
    const own = /^[A-Za-z][A-Za-z0-9_]{0,31}$/.test(figure.name) ? figure.name : null
    const name = own !== null && !names.has(own) ? own : freeName(own ?? base, names)
    names.add(name)
    return name
  }
  for (const figure of drawing.figures) {
    const kind = kindOf(figure)
    if (kind === null) { left.push(`${figure.place}: it has neither fill nor stroke`); continue }
    for (const stroke of figure.strokes) {
      const wrong = MAKE[kind](figure, stroke, item => put(kind, item), named)
      if (wrong !== null) left.push(`${figure.place}: ${wrong}`)
    }
  }
  return { ok: true, size: [cm(drawing.size[0]), cm(drawing.size[1])], items, left }
}

/** What a figure becomes; null for one of which nothing is seen. */
function kindOf({ layers, fill, stroke }: Figure): Kind | null {
  const paint = paintOf(stroke)
  if (paintOf(fill) === null && paint === null) return null
  for (const name of layers) {
    const found = LAYERS.find(([words]) => words.test(name))
    if (found !== undefined) return found[1]
  }
  if (paintOf(fill) !== null) return 'patches'
  return paint === 'grey' ? 'walls' : 'lines'
}

/** The paint of a figure: of its fill, else of its stroke. */
const paintedAs = ({ fill, stroke }: Figure, usual: ColorName): ColorName => paintOf(fill) ?? paintOf(stroke) ?? usual
const turnField = (plain: Plain): object => plain.shape === 'box' && plain.turn !== 0 ? { turn: deg(plain.turn) } : {}
const NEITHER = 'it is neither a box nor a disc'

type Make = (figure: Figure, stroke: Stroke, put: (item: object) => void, named: (figure: Figure, base: string) => string) => string | null
/** What each kind makes of a stroke; what is wrong where it makes nothing. */
const MAKE: Readonly<Record<Kind, Make>> = {
  walls(figure, stroke, put) {
    const painted = paintOf(figure.stroke)
    const plain = painted === null ? plainOf(stroke) : null
    const color = painted ?? paintedAs(figure, 'grey')
    if (plain?.shape === 'disc') return 'a wall is straight'
    if (plain !== null) {
      // A filled bar is a wall along its longer side.
      const [x, y] = plain.at
      const along = plain.size[0] >= plain.size[1]
      const angle = -plain.turn + (along ? 0 : Math.PI / 2)
      const half = Math.max(...plain.size) / 2
      const [dx, dy] = [half * cos(angle), half * sin(angle)]
      put({ from: writtenPlace(x - dx, y - dy), to: writtenPlace(x + dx, y + dy), thickness: cm(within(Math.min(...plain.size), 0.005, 2)), color })
      return null
    }
    if (painted === null) return 'a filled wall is a bar'
    const points = simplified(stroke.closed ? [...stroke.points, stroke.points[0]!] : stroke.points, STRAY)
    const thickness = figure.width > 0 ? within(figure.width, 0.005, 2) : WALL
    for (let i = 1; i < points.length; i++) put({ from: writtenPlace(...points[i - 1]!), to: writtenPlace(...points[i]!), thickness: cm(thickness), color })
    return null
  },
  lines(figure, stroke, put, named) {
    const points = simplified(stroke.closed ? [...stroke.points, stroke.points[0]!] : stroke.points, STRAY)
    if (points.length > MOST_POINTS) return `the line has too many turns; allowed are ${MOST_POINTS}`
    put({ name: named(figure, 'line'), points: points.map(p => writtenPlace(...p)), width: cm(figure.width > 0 ? within(figure.width, 0.002, 0.5) : LINE), color: paintOf(figure.stroke) ?? paintOf(figure.fill) ?? 'black' })
    return null
  },
  patches(figure, stroke, put) {
    const plain = plainOf(stroke)
    if (plain === null) return `${NEITHER}, as patches are`
    put({ shape: plain.shape, at: writtenPlace(...plain.at), ...plain.shape === 'box' ? { size: plain.size.map(cm) } : { diameter: cm(plain.diameter) }, ...turnField(plain), color: paintedAs(figure, 'yellow') })
    return null
  },
  areas(figure, stroke, put, named) {
    const plain = plainOf(stroke)
    if (plain?.shape !== 'box') return 'a marked area is a box'
    if (plain.turn !== 0) return 'a marked area is not turned'
    put({ name: named(figure, 'area'), at: writtenPlace(...plain.at), size: plain.size.map(cm) })
    return null
  },
  decks(_figure, stroke, put) {
    const plain = plainOf(stroke)
    if (plain?.shape !== 'box') return 'a deck is a box'
    put({ at: writtenPlace(...plain.at), size: plain.size.map(cm), ...turnField(plain) })
    return null
  },
  pieces(figure, stroke, put, named) {
    const plain = plainOf(stroke)
    if (plain === null) return `${NEITHER}, as pieces are`
    const name = named(figure, 'piece')
    const kind = name.replace(/_?\d+$/, '') || 'piece'
    put({
      name, kind, at: writtenPlace(...plain.at), height: cm(HIGH), color: paintedAs(figure, 'grey'), ...turnField(plain),
      ...plain.shape === 'box' ? { shape: 'box', length: cm(plain.size[0]), width: cm(plain.size[1]) } : { shape: 'cylinder', diameter: cm(plain.diameter) },
    })
    return null
  },
}
