import { figuresOf, type Arena } from '../arena'
import { REFLECTS, type Rgb } from '../colors'
import type { Solid } from '../geometry'
import { cos, sin } from '../maths'
import { toByte, type Lens, type Picture } from './picture'
import { TAG_PAPER, TAG_SIZE, TAG_WORDS } from './tags'

/** Nearer than this nothing is drawn, metres. */
const NEAR = 0.004
/** Corners of a round thing. */
const ROUND = 20
/** What is beyond the arena: a pale room, and water or ground to the horizon. */
const ROOM: Rgb = [0.44, 0.46, 0.47]
const BEYOND: Readonly<Record<Arena['surround'], Rgb>> = { water: [0.12, 0.2, 0.24], ground: [0.3, 0.29, 0.27] }
/** The sun of the harbour: how much a face has of it, over what comes from everywhere. */
const SUN = { x: -0.36, y: -0.54, z: 0.76 }
const FROM_EVERYWHERE = 0.72
const FROM_SUN = 0.34
/** How far tags stand out of their face, metres: enough for the depth of a picture to tell. */
const PROUD = 0.0015

const CIRCLE = Float64Array.from({ length: ROUND * 2 }, (_, i) => i % 2 === 0 ? cos(Math.PI * (i - i % 2) / ROUND) : sin(Math.PI * (i - i % 2) / ROUND))

/** Heights of a ball's bands, as shares of its radius from pole to pole: every 20 degrees. */
const BANDS = Array.from({ length: 10 }, (_, i) => sin((i - 4.5) * Math.PI / 9))

/** A flat floor figure: corners on the plan, and its paint. */
interface FloorFigure { readonly corners: Float64Array, readonly paint: Rgb }

/** Draws what a lens sees of an arena: flat floor figures first, then solids with a depth buffer. */
export class Rasteriser {
  private readonly figures: readonly FloorFigure[]
  private readonly beyond: Rgb
  // Corners of the polygon at work, in the lens's frame: forward, left, up.
  private readonly polygon = new Float64Array(3 * (ROUND + 8))
  private readonly clipped = new Float64Array(3 * (ROUND + 12))
  private count = 0
  private lens!: Lens
  private picture!: Picture
  private light = 1

  constructor(arena: Arena) {
    this.beyond = BEYOND[arena.surround]
    this.figures = floorFigures(arena)
  }

  /** Draws into the picture; `light` is how bright the room is (1 is well lit). */
  draw(picture: Picture, lens: Lens, solids: readonly Solid[], light: number): void {
    this.lens = lens
    this.picture = picture
    this.light = light
    this.background()
    for (const figure of this.figures) this.floorFigure(figure)
    for (const solid of solids) this.solid(solid)
  }

  private background(): void {
    const { picture, lens, light } = this
    const { width, height } = picture
    const { beyond } = this
    picture.depth.fill(0)
    const { words } = picture
    const below = picture.wordOf(toByte(beyond[0] * light), toByte(beyond[1] * light), toByte(beyond[2] * light))
    const above = picture.wordOf(toByte(ROOM[0] * light), toByte(ROOM[1] * light), toByte(ROOM[2] * light))
    for (let y = 0; y < height; y++) {
      const v = (height / 2 - y - 0.5) / lens.focal
      const row = y * width
      // The horizon is a straight line: where both ends of a row lie on one side of it, so does all between.
      const left = this.isBelow(0, v)
      if (left === this.isBelow(width - 1, v)) words.fill(left ? below : above, row, row + width)
      else for (let x = 0; x < width; x++) words[row + x] = this.isBelow(x, v) ? below : above
    }
  }

  /** Whether what is seen in a column of pixels, `v` above the middle of the picture, lies below the horizon. */
  private isBelow(x: number, v: number): boolean {
    const { picture: { width }, lens } = this
    return lens.fz + (width / 2 - x - 0.5) / lens.focal * lens.lz + v * lens.uz < 0
  }

  private begin(): void { this.count = 0 }

  private corner(x: number, y: number, z: number): void {
    const { lens: l, polygon } = this
    const dx = x - l.ox
    const dy = y - l.oy
    const dz = z - l.oz
    const at = 3 * this.count++
    polygon[at] = dx * l.fx + dy * l.fy + dz * l.fz
    polygon[at + 1] = dx * l.lx + dy * l.ly + dz * l.lz
    polygon[at + 2] = dx * l.ux + dy * l.uy + dz * l.uz
  }

  private floorFigure(figure: FloorFigure): void {
    this.begin()
    const { corners } = figure
    for (let i = 0; i < corners.length; i += 2) this.corner(corners[i]!, corners[i + 1]!, 0)
    this.fill(figure.paint, this.light * (FROM_EVERYWHERE + FROM_SUN * SUN.z), false)
  }

  private solid(s: Solid): void {
    const { lens: l } = this
    const cx = s.px - l.ox
    const cy = s.py - l.oy
    const cz = s.pz - l.oz
    if (cx * l.fx + cy * l.fy + cz * l.fz < -s.bound) return
    if (s.shape.shape === 'box') this.box(s, s.shape.hx, s.shape.hy, s.shape.hz)
    else if (s.shape.shape === 'ball') this.ball(s, s.shape.radius)
    else this.cylinder(s, s.shape.radius, s.shape.hz)
  }

  /** Whether a face with this outward normal through this point is turned to the lens; its share of light. */
  private facing(nx: number, ny: number, nz: number, x: number, y: number, z: number): number {
    const { lens: l } = this
    if ((l.ox - x) * nx + (l.oy - y) * ny + (l.oz - z) * nz <= 0) return 0
    return this.light * (FROM_EVERYWHERE + FROM_SUN * Math.max(0, nx * SUN.x + ny * SUN.y + nz * SUN.z))
  }

  private box(s: Solid, hx: number, hy: number, hz: number): void {
    const m = s.matrix
    const half = [hx, hy, hz]
    for (let axis = 0; axis < 3; axis++) {
      const a = (axis + 1) % 3
      const b = (axis + 2) % 3
      for (let side = -1; side <= 1; side += 2) {
        const nx = side * m[axis]!
        const ny = side * m[3 + axis]!
        const nz = side * m[6 + axis]!
        const x = s.px + nx * half[axis]!
        const y = s.py + ny * half[axis]!
        const z = s.pz + nz * half[axis]!
        const lit = this.facing(nx, ny, nz, x, y, z)
        if (lit === 0) continue
        this.begin()
        for (let k = 0; k < 4; k++) {
          const p = (k === 0 || k === 3 ? -1 : 1) * half[a]!
          const q = (k < 2 ? -1 : 1) * half[b]!
          this.corner(x + m[a]! * p + m[b]! * q, y + m[3 + a]! * p + m[3 + b]! * q, z + m[6 + a]! * p + m[6 + b]! * q)
        }
        this.fill(s.surface.paint, lit, true)
        if (axis !== 2 && s.surface.tag !== null) this.tag(s, axis, side, x, y, z, lit, axis === 0 ? hy : hx, hz)
      }
    }
  }

  /** A tag on an upright face of a box, upright as its box is; a face too small for it carries none. */
  private tag(s: Solid, axis: number, side: number, x: number, y: number, z: number, lit: number, wide: number, high: number): void {
    if (wide * 2 < TAG_PAPER || high * 2 < TAG_PAPER) return
    const m = s.matrix
    const word = TAG_WORDS[s.surface.tag!] ?? 0
    // Right as one looks at the face, and up.
    const across = axis === 0 ? 1 : 0
    const sign = axis === 0 ? side : -side
    const rx = sign * m[across]!
    const ry = sign * m[3 + across]!
    const rz = sign * m[6 + across]!
    const ux = m[2]!
    const uy = m[5]!
    const uz = m[8]!
    const patch = (left: number, bottom: number, right: number, top: number, paint: Rgb, out: number): void => {
      const ox = x + side * m[axis]! * out
      const oy = y + side * m[3 + axis]! * out
      const oz = z + side * m[6 + axis]! * out
      this.begin()
      for (const [p, q] of [[left, bottom], [right, bottom], [right, top], [left, top]] as const) this.corner(ox + rx * p + ux * q, oy + ry * p + uy * q, oz + rz * p + uz * q)
      this.fill(paint, lit, true)
    }
    patch(-TAG_PAPER / 2, -TAG_PAPER / 2, TAG_PAPER / 2, TAG_PAPER / 2, REFLECTS.white, PROUD)
    patch(-TAG_SIZE / 2, -TAG_SIZE / 2, TAG_SIZE / 2, TAG_SIZE / 2, REFLECTS.black, 2 * PROUD)
    const cell = TAG_SIZE / 6
    for (let row = 0; row < 4; row++) {
      for (let col = 0; col < 4; col++) {
        if ((word >> (row * 4 + col) & 1) === 0) continue
        const left = -TAG_SIZE / 2 + (col + 1) * cell
        const top = TAG_SIZE / 2 - (row + 1) * cell
        patch(left, top - cell, left + cell, top, REFLECTS.white, 3 * PROUD)
      }
    }
  }

  private cylinder(s: Solid, radius: number, hz: number): void {
    const m = s.matrix
    const rim = (i: number, up: number): void => {
      const p = radius * CIRCLE[2 * (i % ROUND)]!
      const q = radius * CIRCLE[2 * (i % ROUND) + 1]!
      this.corner(s.px + m[0]! * p + m[1]! * q + m[2]! * up, s.py + m[3]! * p + m[4]! * q + m[5]! * up, s.pz + m[6]! * p + m[7]! * q + m[8]! * up)
    }
    for (let i = 0; i < ROUND; i++) {
      const c = (CIRCLE[2 * i]! + CIRCLE[2 * ((i + 1) % ROUND)]!) / 2
      const d = (CIRCLE[2 * i + 1]! + CIRCLE[2 * ((i + 1) % ROUND) + 1]!) / 2
      const nx = m[0]! * c + m[1]! * d
      const ny = m[3]! * c + m[4]! * d
      const nz = m[6]! * c + m[7]! * d
      const lit = this.facing(nx, ny, nz, s.px + nx * radius, s.py + ny * radius, s.pz + nz * radius)
      if (lit === 0) continue
      this.begin()
      rim(i, -hz)
      rim(i + 1, -hz)
      rim(i + 1, hz)
      rim(i, hz)
      this.fill(s.surface.paint, lit, true)
    }
    for (let side = -1; side <= 1; side += 2) {
      const nx = side * m[2]!
      const ny = side * m[5]!
      const nz = side * m[8]!
      const lit = this.facing(nx, ny, nz, s.px + nx * hz, s.py + ny * hz, s.pz + nz * hz)
      if (lit === 0) continue
      this.begin()
      for (let i = 0; i < ROUND; i++) rim(i, side * hz)
      this.fill(s.surface.paint, lit, true)
    }
  }

  /** A ball as bands of facets, from pole to pole. It looks the same however it is turned. */
  private ball(s: Solid, radius: number): void {
    const at = (i: number, up: number): void => {
      const flat = Math.sqrt(Math.max(0, 1 - up * up))
      this.corner(s.px + radius * flat * CIRCLE[2 * (i % ROUND)]!, s.py + radius * flat * CIRCLE[2 * (i % ROUND) + 1]!, s.pz + radius * up)
    }
    for (let band = 0; band + 1 < BANDS.length; band++) {
      const low = BANDS[band]!
      const high = BANDS[band + 1]!
      const up = (low + high) / 2
      const flat = Math.sqrt(1 - up * up)
      for (let i = 0; i < ROUND; i++) {
        const nx = flat * (CIRCLE[2 * i]! + CIRCLE[2 * ((i + 1) % ROUND)]!) / 2
        const ny = flat * (CIRCLE[2 * i + 1]! + CIRCLE[2 * ((i + 1) % ROUND) + 1]!) / 2
        const lit = this.facing(nx, ny, up, s.px + nx * radius, s.py + ny * radius, s.pz + up * radius)
        if (lit === 0) continue
        this.begin()
        at(i, low)
        at(i + 1, low)
        at(i + 1, high)
        at(i, high)
        this.fill(s.surface.paint, lit, true)
      }
    }
  }

  /** Fills the convex polygon at work; with `solid`, only where it is nearer than what was drawn. */
  private fill(paint: Rgb, lit: number, solid: boolean): void {
    const n = this.clip()
    if (n < 3) return
    const { clipped: p, picture, lens } = this
    const { width, height, words, depth } = picture
    // Newell's method: a normal that small polygons do not upset.
    let nf = 0
    let nl = 0
    let nu = 0
    for (let i = 0; i < n; i++) {
      const a = 3 * i
      const b = 3 * ((i + 1) % n)
      nf += (p[a + 1]! - p[b + 1]!) * (p[a + 2]! + p[b + 2]!)
      nl += (p[a + 2]! - p[b + 2]!) * (p[a]! + p[b]!)
      nu += (p[a]! - p[b]!) * (p[a + 1]! + p[b + 1]!)
    }
    const d = nf * p[0]! + nl * p[1]! + nu * p[2]!
    if (d > -1e-14 && d < 1e-14) return
    // On a plane, one over the depth is linear across the picture.
    const step = -nl / d / lens.focal
    let low = Infinity
    let high = -Infinity
    for (let i = 0; i < n; i++) {
      const a = 3 * i
      const y = height / 2 - p[a + 2]! / p[a]! * lens.focal
      const x = width / 2 - p[a + 1]! / p[a]! * lens.focal
      p[a + 1] = x
      p[a + 2] = y
      if (y < low) low = y
      if (y > high) high = y
    }
    const word = picture.wordOf(toByte(paint[0] * lit), toByte(paint[1] * lit), toByte(paint[2] * lit))
    const top = Math.max(0, Math.ceil(low - 0.5))
    const bottom = Math.min(height - 1, Math.ceil(high - 0.5) - 1)
    for (let y = top; y <= bottom; y++) {
      const line = y + 0.5
      let left = Infinity
      let right = -Infinity
      for (let i = 0; i < n; i++) {
        const a = 3 * i
        const c = 3 * ((i + 1) % n)
        const ya = p[a + 2]!
        const yb = p[c + 2]!
        if ((ya <= line) === (yb <= line)) continue
        const x = p[a + 1]! + (p[c + 1]! - p[a + 1]!) * (line - ya) / (yb - ya)
        if (x < left) left = x
        if (x > right) right = x
      }
      const from = Math.max(0, Math.ceil(left - 0.5))
      const to = Math.min(width - 1, Math.ceil(right - 0.5) - 1)
      if (!solid) {
        if (from <= to) words.fill(word, y * width + from, y * width + to + 1)
        continue
      }
      let at = y * width + from
      let near = (nf + nl * (width / 2 - from - 0.5) / lens.focal + nu * (height / 2 - line) / lens.focal) / d
      for (let x = from; x <= to; x++, at++, near += step) {
        if (near <= depth[at]!) continue
        depth[at] = near
        words[at] = word
      }
    }
  }

  /** Cuts away what is behind the lens (Sutherland and Hodgman, 1974); the corners left. */
  private clip(): number {
    const { polygon: p, clipped: q, count } = this
    let n = 0
    for (let i = 0; i < count; i++) {
      const a = 3 * i
      const b = 3 * ((i + 1) % count)
      const fa = p[a]!
      const fb = p[b]!
      if (fa >= NEAR) {
        q[3 * n] = fa
        q[3 * n + 1] = p[a + 1]!
        q[3 * n + 2] = p[a + 2]!
        n++
      }
      if ((fa >= NEAR) !== (fb >= NEAR)) {
        const t = (NEAR - fa) / (fb - fa)
        q[3 * n] = NEAR
        q[3 * n + 1] = p[a + 1]! + t * (p[b + 1]! - p[a + 1]!)
        q[3 * n + 2] = p[a + 2]! + t * (p[b + 2]! - p[a + 2]!)
        n++
      }
    }
    return n
  }
}

/** Decks and paint as flat figures, in the order in which they cover one another. */
function floorFigures(arena: Arena): FloorFigure[] {
  const figures: FloorFigure[] = []
  const box = (at: readonly [number, number], size: readonly [number, number], turn: number, paint: Rgb): void => {
    const c = cos(turn)
    const s = sin(turn)
    const corners = [[-1, -1], [1, -1], [1, 1], [-1, 1]].flatMap(([p, q]) => {
      const x = p! * size[0] / 2
      const y = q! * size[1] / 2
      return [at[0] + c * x + s * y, at[1] - s * x + c * y]
    })
    figures.push({ corners: Float64Array.from(corners), paint })
  }
  const way = (points: readonly (readonly [number, number])[], width: number, paint: Rgb): void => {
    for (let i = 1; i < points.length; i++) {
      const [ax, ay] = points[i - 1]!
      const [bx, by] = points[i]!
      const long = Math.sqrt((bx - ax) * (bx - ax) + (by - ay) * (by - ay))
      if (long === 0) continue
      const nx = -(by - ay) / long * width / 2
      const ny = (bx - ax) / long * width / 2
      figures.push({ corners: Float64Array.of(ax + nx, ay + ny, ax - nx, ay - ny, bx - nx, by - ny, bx + nx, by + ny), paint })
    }
  }
  const { floor, paint } = figuresOf(arena)
  for (const figure of [...floor, ...paint]) {
    const reflects = REFLECTS[figure.color]
    if (figure.shape === 'box') box(figure.at, figure.size, figure.turn, reflects)
    else if (figure.shape === 'disc') {
      const corners = new Float64Array(2 * ROUND)
      for (let i = 0; i < 2 * ROUND; i++) corners[i] = figure.at[i % 2]! + figure.radius * CIRCLE[i]!
      figures.push({ corners, paint: reflects })
    } else way(figure.points, figure.width, reflects)
  }
  return figures
}
