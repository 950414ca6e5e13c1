import { SaxesParser } from 'saxes'
import svgpath from 'svgpath'
import { distance, type Point, type Stroke } from './outline'

/** A figure of a drawing, in metres from its south-west corner: x east, y north. */
export interface Figure {
  /** What it calls itself; '' where it does not. */
  readonly name: string
  /** Names of the layers around it, the innermost first, its own class and name before them. */
  readonly layers: readonly string[]
  readonly strokes: readonly Stroke[]
  /** As CSS writes them; 'none' for none. */
  readonly fill: string
  readonly stroke: string
  /** Metres. */
  readonly width: number
  /** Where it stands, for messages: "rect in line 12". */
  readonly place: string
}

/** A drawing as it was read. */
export interface Drawing {
  /** Metres. */
  readonly size: Point
  readonly figures: readonly Figure[]
  /** What was not understood, a line each. */
  readonly left: readonly string[]
}

/** Millimetres of a unit of length; a pixel is a 96th of an inch (CSS). */
const UNITS: Readonly<Record<string, number>> = { 'mm': 1, 'cm': 10, 'm': 1000, 'in': 25.4, 'pt': 25.4 / 72, 'pc': 25.4 / 6, 'px': 25.4 / 96, '': 25.4 / 96, 'q': 0.25 }
/** Elements that are drawn, those that group, and those that say nothing of the plan. */
const DRAWN = ['path', 'rect', 'circle', 'ellipse', 'line', 'polyline', 'polygon']
const GROUPS = ['g', 'a', 'switch']
const SILENT = ['title', 'desc', 'metadata', 'defs', 'style', 'namedview', 'script', 'symbol', 'clippath', 'mask', 'pattern', 'lineargradient', 'radialgradient', 'marker', 'filter']
/** A drawing with more elements is refused, and so is a longer text, characters. */
const MOST = 5000
const LONGEST = 4_000_000
/** Curves are cut into stretches of about this length, metres, into as few and as many as these. */
const STRETCH = 0.01
const FEWEST = 4
const FINEST = 64

interface Element { readonly tag: string, readonly attributes: Readonly<Record<string, string>>, readonly line: number, readonly children: Element[], text: string }

/** Reads an SVG drawing. A sentence where it is none. */
export function readDrawing(text: string): Drawing | string {
  if (text.length > LONGEST) return `the drawing is too long; allowed are ${LONGEST} characters`
  const root = parsed(text)
  if (typeof root === 'string') return root
  if (root.tag !== 'svg') return `this is no drawing: it begins with <${root.tag}>, not with <svg>`
  const figures: Figure[] = []
  const left: string[] = []
  const scale = scaleOf(root, left)
  const rules = classRules(root)
  walk(root, { transforms: [], layers: [], style: {} }, { figures, left, rules, ...scale })
  return { size: scale.size, figures, left }
}

function parsed(text: string): Element | string {
  const stack: Element[] = []
  let root: Element | null = null
  let count = 0
  let wrong: string | null = null
  const parser = new SaxesParser()
  parser.on('error', (error) => { wrong ??= `this is no drawing: ${error.message}` })
  parser.on('doctype', () => { /* Entities of its own are not known: what uses them is an error. */ })
  parser.on('opentag', (tag) => {
    if (++count > MOST) { wrong ??= `the drawing has too many parts; allowed are ${MOST}`; return }
    const attributes = tag.attributes
    const element: Element = { tag: tag.name.replace(/^.*:/, '').toLowerCase(), attributes, line: parser.line, children: [], text: '' }
    stack.at(-1)?.children.push(element)
    root ??= element
    stack.push(element)
  })
  parser.on('text', (t) => { const top = stack.at(-1); if (top?.tag === 'style' || top?.tag === 'title') top.text += t })
  parser.on('cdata', (t) => { const top = stack.at(-1); if (top?.tag === 'style') top.text += t })
  parser.on('closetag', () => { stack.pop() })
  try {
    parser.write(text).close()
  } catch (error) {
    wrong ??= `this is no drawing: ${error instanceof Error ? error.message : String(error)}`
  }
  return wrong ?? root ?? 'this is no drawing: it is empty'
}

/** A length as SVG writes it, in user units; null for what is none. */
function lengthOf(text: string | undefined): number | null {
  const match = /^\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z]*)\s*$/i.exec(text ?? '')
  const unit = match === null ? undefined : UNITS[match[2]!.toLowerCase()]
  return match === null || unit === undefined ? null : Number(match[1]) * unit / UNITS['px']!
}

/** How large the drawing is, and how its user units become metres. */
function scaleOf(root: Element, left: string[]): { readonly size: Point, readonly matrix: number[] } {
  const { width, height, viewBox } = root.attributes
  const view = (viewBox ?? '').trim().split(/[\s,]+/).map(Number)
  const [x, y, w, h] = view.length === 4 && view.every(Number.isFinite) && view[2]! > 0 && view[3]! > 0 ? view as [number, number, number, number] : [0, 0, lengthOf(width) ?? 0, lengthOf(height) ?? 0]
  const wide = lengthOf(width) ?? w
  const units = wide / w
  if (!/[a-z]\s*$/i.test(width ?? '')) left.push('the drawing says no unit of its width: a unit of it was taken as a pixel, 96 to an inch')
  const metres = units * UNITS['px']! / 1000
  return { size: [w * metres, h * metres], matrix: [metres, 0, 0, -metres, -x * metres, (y + h) * metres] }
}

/** What classes of a style sheet say: `.wall { fill: none; stroke: #777 }`. */
function classRules(root: Element): ReadonlyMap<string, Readonly<Record<string, string>>> {
  const rules = new Map<string, Record<string, string>>()
  const look = (e: Element): void => {
    if (e.tag === 'style') {
      for (const [, selectors, body] of e.text.replaceAll(/\/\*[\s\S]*?\*\//g, '').matchAll(/([^{}]+)\{([^{}]*)\}/g)) {
        for (const selector of selectors!.split(',')) {
          const name = /^\s*\.([\w-]+)\s*$/.exec(selector)?.[1]
          if (name !== undefined) rules.set(name, { ...rules.get(name), ...declarations(body!) })
        }
      }
    }
    e.children.forEach(look)
  }
  look(root)
  return rules
}
const declarations = (text: string): Record<string, string> => Object.fromEntries(text.split(';').map(d => d.split(':').map(part => part.trim())).filter(d => d.length === 2 && d[0] !== '') as [string, string][])

interface Around { readonly transforms: readonly string[], readonly layers: readonly string[], readonly style: Readonly<Record<string, string>> }
interface Into { readonly figures: Figure[], readonly left: string[], readonly rules: ReadonlyMap<string, Readonly<Record<string, string>>>, readonly matrix: number[] }
/** What goes on from a group to what is in it, and what says whether something is drawn at all. */
const STYLED = ['fill', 'stroke', 'stroke-width', 'fill-opacity', 'stroke-opacity', 'opacity', 'display', 'visibility']

function walk(e: Element, around: Around, into: Into): void {
  const place = `${e.tag} in line ${e.line}`
  const { attributes: a } = e
  const classes = (a['class'] ?? '').split(/\s+/).filter(c => c !== '')
  const style = {
    ...around.style,
    ...Object.fromEntries(STYLED.flatMap(name => a[name] === undefined ? [] : [[name, a[name]]])),
    ...classes.reduce((all, c) => ({ ...all, ...into.rules.get(c) }), {}),
    ...declarations(a['style'] ?? ''),
  } as Readonly<Record<string, string>>
  if (style['display'] === 'none' || style['visibility'] === 'hidden') return
  const name = a['inkscape:label'] ?? a['data-name'] ?? a['id'] ?? e.children.find(c => c.tag === 'title')?.text ?? ''
  const here: Around = {
    transforms: a['transform'] === undefined ? around.transforms : [a['transform'], ...around.transforms],
    layers: [...[name, ...classes].filter(n => n !== ''), ...around.layers], style,
  }
  if (e.tag === 'svg' && around.layers.length + around.transforms.length === 0 && into.figures.length === 0) { for (const child of e.children) walk(child, here, into); return }
  if (GROUPS.includes(e.tag)) { for (const child of e.children) walk(child, here, into); return }
  if (SILENT.includes(e.tag)) return
  if (!DRAWN.includes(e.tag)) { into.left.push(`${place}: <${e.tag}> is not understood`); return }
  const path = pathOf(e)
  if (path === null) { into.left.push(`${place}: its measures are not understood`); return }
  const drawn = here.transforms.reduce((p, t) => p.transform(t), svgpath(path)).matrix(into.matrix)
  const err = (drawn as unknown as { err: string }).err
  if (err !== '') { into.left.push(`${place}: ${err.replace(/^SvgPath: /, '')}`); return }
  const strokes = flattened(drawn)
  if (strokes.length === 0) { into.left.push(`${place}: it draws nothing`); return }
  const seen = (which: 'fill' | 'stroke', usual: string): string => Number(style[`${which}-opacity`] ?? 1) * Number(style['opacity'] ?? 1) === 0 ? 'none' : style[which] ?? usual
  into.figures.push({
    name, layers: here.layers, strokes, place,
    fill: e.tag === 'line' ? 'none' : seen('fill', 'black'), stroke: seen('stroke', 'none'),
    width: (lengthOf(style['stroke-width']) ?? 1) * growth(here.transforms, into.matrix),
  })
}

/** So many times as long a stretch becomes: the root of what an area grows by. */
function growth(transforms: readonly string[], matrix: number[]): number {
  const [{ points }] = flattened(transforms.reduce((p, t) => p.transform(t), svgpath('M1000 0L0 0L0 1000')).matrix(matrix)) as readonly [Stroke]
  const [a, o, b] = points as unknown as readonly [Point, Point, Point]
  return Math.sqrt(Math.abs((a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0]))) / 1000
}

/** An element's outline as path data, in its own units; null where its measures are none. */
function pathOf({ tag, attributes: a }: Element): string | null {
  const get = (name: string, usual?: number): number => lengthOf(a[name]) ?? (a[name] === undefined ? usual ?? Number.NaN : Number.NaN)
  const sound = (numbers: readonly number[], path: string): string | null => numbers.every(Number.isFinite) ? path : null
  const round = (x: number, y: number, rx: number, ry: number): string => `M${x - rx} ${y}A${rx} ${ry} 0 1 0 ${x + rx} ${y}A${rx} ${ry} 0 1 0 ${x - rx} ${y}Z`
  switch (tag) {
    case 'path': return a['d'] ?? null
    case 'rect': {
      const [x, y, w, h] = [get('x', 0), get('y', 0), get('width'), get('height')]
      return sound([x, y, w, h], `M${x} ${y}h${w}v${h}h${-w}Z`)
    }
    case 'circle': {
      const [x, y, r] = [get('cx', 0), get('cy', 0), get('r')]
      return sound([x, y, r], round(x, y, r, r))
    }
    case 'ellipse': {
      const [x, y, rx, ry] = [get('cx', 0), get('cy', 0), get('rx'), get('ry')]
      return sound([x, y, rx, ry], round(x, y, rx, ry))
    }
    case 'line': {
      const [x1, y1, x2, y2] = [get('x1', 0), get('y1', 0), get('x2', 0), get('y2', 0)]
      return sound([x1, y1, x2, y2], `M${x1} ${y1}L${x2} ${y2}`)
    }
    default: {
      const numbers = (a['points'] ?? '').trim().split(/[\s,]+/).map(Number)
      return numbers.length < 4 ? null : sound(numbers, `M${numbers.join(' ')}${tag === 'polygon' ? 'Z' : ''}`)
    }
  }
}

/** Straight stretches of a path in metres, its curves cut. */
function flattened(path: ReturnType<typeof svgpath>): readonly Stroke[] {
  const strokes: { points: Point[], closed: boolean }[] = []
  const add = (x: number, y: number): void => {
    const { points } = strokes.at(-1)!
    const last = points.at(-1)
    if (last === undefined || distance(last, [x, y]) > 1e-6) points.push([x, y])
  }
  path.abs().unshort().unarc().iterate((segment, _index, x, y) => {
    const [what, ...n] = segment as unknown as [string, ...number[]]
    if (what === 'M') strokes.push({ points: [[n[0]!, n[1]!]], closed: false })
    else if (what === 'L') add(n[0]!, n[1]!)
    else if (what === 'H') add(n[0]!, y)
    else if (what === 'V') add(x, n[0]!)
    else if (what === 'C') curve([[x, y], [n[0]!, n[1]!], [n[2]!, n[3]!], [n[4]!, n[5]!]], add)
    else if (what === 'Q') curve([[x, y], [n[0]!, n[1]!], [n[2]!, n[3]!]], add)
    else if (what === 'Z' || what === 'z') {
      const { points } = strokes.at(-1)!
      const [first, last] = [points[0]!, points.at(-1)!]
      if (points.length > 1 && distance(first, last) < 1e-6) points.pop()
      strokes.at(-1)!.closed = true
      // What follows begins where the closed one did.
      strokes.push({ points: [first], closed: false })
    }
  })
  return strokes.filter(s => s.points.length > 1)
}

/** A Bézier curve by its corners, cut into stretches (de Casteljau). */
function curve(corners: readonly Point[], add: (x: number, y: number) => void): void {
  let long = 0
  for (let i = 1; i < corners.length; i++) long += distance(corners[i]!, corners[i - 1]!)
  const count = Math.min(FINEST, Math.max(FEWEST, Math.ceil(long / STRETCH)))
  for (let i = 1; i <= count; i++) {
    let points = corners
    while (points.length > 1) points = points.slice(1).map((p, k): Point => [points[k]![0] + (p[0] - points[k]![0]) * i / count, points[k]![1] + (p[1] - points[k]![1]) * i / count])
    add(points[0]![0], points[0]![1])
  }
}
