import { REFLECTS, type Rgb } from '../colors'
import { rotationMatrix, type MutableQuaternion, type MutableVector, type Quaternion, type Vector } from './vectors'

/** A box by its half sizes, an upright cylinder by radius and half height, or a ball, whose half height is its radius. Metres. */
export type SolidShape =
  | { readonly shape: 'box', readonly hx: number, readonly hy: number, readonly hz: number }
  | { readonly shape: 'cylinder', readonly radius: number, readonly hz: number }
  | { readonly shape: 'ball', readonly radius: number, readonly hz: number }

/** What a face does to sound and to wheels. */
export interface Surface {
  /** Coefficient of friction. */
  readonly friction: number
  /** `smooth` returns sound like a mirror, `rough` in every direction, `soft` swallows most of it. */
  readonly echo: 'smooth' | 'rough' | 'soft'
  /** Shares of red, green and blue that it throws back. */
  readonly paint: Rgb
  /** Whether a magnet holds it. */
  readonly steel: boolean
  /** Number of the square tag printed on its upright faces; null for none. */
  readonly tag: number | null
  /** The robot's own part that it is; null for what is not of the robot. */
  readonly part: string | null
}

/** A plain grey thing of no robot. */
export const PLAIN_SURFACE: Surface = { friction: 0.5, echo: 'rough', paint: REFLECTS.grey, steel: false, tag: null, part: null }

/**
 * A ray: where it begins, which way it goes (of length 1) and how far it reaches, metres; and what it met last, how far along it, with
 * the outward normal there (of length 1). Whoever casts rays keeps one and uses it again: what it met is read before the next cast.
 */
export class Ray {
  ox = 0
  oy = 0
  oz = 0
  dx = 1
  dy = 0
  dz = 0
  reach = Infinity
  distance = 0
  nx = 0
  ny = 0
  nz = 0
  solid: Solid | null = null

  from(x: number, y: number, z: number): this {
    this.ox = x
    this.oy = y
    this.oz = z
    return this
  }

  along(x: number, y: number, z: number): this {
    this.dx = x
    this.dy = y
    this.dz = z
    return this
  }
}

/** A point in a solid's own frame; used again by the next. */
const OWN = { x: 0, y: 0, z: 0 }

/** Radius of the sphere about a shape's middle that holds it, metres. */
export function boundOf(shape: SolidShape): number {
  switch (shape.shape) {
    case 'box': return Math.sqrt(shape.hx * shape.hx + shape.hy * shape.hy + shape.hz * shape.hz)
    case 'cylinder': return Math.sqrt(shape.radius * shape.radius + shape.hz * shape.hz)
    case 'ball': return shape.radius
  }
}

/** A solid thing that sensors can meet. Its pose is set by whoever moves it. */
export class Solid {
  px = 0
  py = 0
  pz = 0
  /** Radius of the sphere around its centre that holds it. */
  readonly bound: number
  readonly matrix = new Float64Array([1, 0, 0, 0, 1, 0, 0, 0, 1])
  readonly rotation: MutableQuaternion = { x: 0, y: 0, z: 0, w: 1 }

  constructor(readonly id: string, readonly shape: SolidShape, readonly surface: Surface, position: Vector, rotation: Quaternion) {
    this.bound = boundOf(shape)
    this.place(position, rotation)
  }

  /** Puts it there; it keeps neither of the two. */
  place(position: Vector, { x, y, z, w }: Quaternion): void {
    this.px = position.x
    this.py = position.y
    this.pz = position.z
    const { rotation } = this
    rotation.x = x
    rotation.y = y
    rotation.z = z
    rotation.w = w
    rotationMatrix(rotation, this.matrix)
  }

  /** Meets the solid with a ray. True, and the ray knows where, when it enters within its reach; one that begins inside meets nothing. */
  cast(ray: Ray): boolean {
    const s = this.shape
    if (s.shape === 'ball') return this.castBall(ray, s.radius)
    const m = this.matrix
    const { dx, dy, dz } = ray
    const wx = ray.ox - this.px
    const wy = ray.oy - this.py
    const wz = ray.oz - this.pz
    // Into the solid's own frame: the transposed rotation.
    const lx = m[0]! * wx + m[3]! * wy + m[6]! * wz
    const ly = m[1]! * wx + m[4]! * wy + m[7]! * wz
    const lz = m[2]! * wx + m[5]! * wy + m[8]! * wz
    const ux = m[0]! * dx + m[3]! * dy + m[6]! * dz
    const uy = m[1]! * dx + m[4]! * dy + m[7]! * dz
    const uz = m[2]! * dx + m[5]! * dy + m[8]! * dz
    let near = -Infinity
    let far = Infinity
    let axis = 0
    if (s.shape === 'box') {
      for (let k = 0; k < 2; k++) {
        const o = k === 0 ? lx : ly
        const u = k === 0 ? ux : uy
        const h = k === 0 ? s.hx : s.hy
        if (u > -1e-12 && u < 1e-12) {
          if (o < -h || o > h) return false
          continue
        }
        const a = (-h - o) / u
        const b = (h - o) / u
        const enter = a < b ? a : b
        const leave = a < b ? b : a
        if (enter > near) { near = enter; axis = k }
        if (leave < far) far = leave
      }
    } else {
      const a = ux * ux + uy * uy
      const c = lx * lx + ly * ly - s.radius * s.radius
      if (a < 1e-12) {
        if (c > 0) return false
      } else {
        const b = lx * ux + ly * uy
        const root = b * b - a * c
        if (root < 0) return false
        const q = Math.sqrt(root)
        near = (-b - q) / a
        far = (-b + q) / a
        axis = 3
      }
    }
    if (uz > -1e-12 && uz < 1e-12) {
      if (lz < -s.hz || lz > s.hz) return false
    } else {
      const a = (-s.hz - lz) / uz
      const b = (s.hz - lz) / uz
      const enter = a < b ? a : b
      const leave = a < b ? b : a
      if (enter > near) { near = enter; axis = 2 }
      if (leave < far) far = leave
    }
    if (near > far || near < 0 || near > ray.reach) return false
    let ax = 0
    let ay = 0
    let az = 0
    if (axis === 0) ax = ux > 0 ? -1 : 1
    else if (axis === 1) ay = uy > 0 ? -1 : 1
    else if (axis === 2) az = uz > 0 ? -1 : 1
    else {
      const r = (s as { radius: number }).radius
      ax = (lx + near * ux) / r
      ay = (ly + near * uy) / r
    }
    ray.distance = near
    ray.nx = m[0]! * ax + m[1]! * ay + m[2]! * az
    ray.ny = m[3]! * ax + m[4]! * ay + m[5]! * az
    ray.nz = m[6]! * ax + m[7]! * ay + m[8]! * az
    ray.solid = this
    return true
  }

  /** The same for a ball. */
  private castBall(ray: Ray, radius: number): boolean {
    const { dx, dy, dz } = ray
    const wx = ray.ox - this.px
    const wy = ray.oy - this.py
    const wz = ray.oz - this.pz
    const along = wx * dx + wy * dy + wz * dz
    const root = along * along - (wx * wx + wy * wy + wz * wz - radius * radius)
    if (root < 0) return false
    const near = -along - Math.sqrt(root)
    if (near < 0 || near > ray.reach) return false
    ray.distance = near
    ray.nx = (wx + near * dx) / radius
    ray.ny = (wy + near * dy) / radius
    ray.nz = (wz + near * dz) / radius
    ray.solid = this
    return true
  }

  /** A point of the world in the solid's own frame, into OWN: the transposed rotation. */
  private toOwn(x: number, y: number, z: number): void {
    const m = this.matrix
    const wx = x - this.px
    const wy = y - this.py
    const wz = z - this.pz
    OWN.x = m[0]! * wx + m[3]! * wy + m[6]! * wz
    OWN.y = m[1]! * wx + m[4]! * wy + m[7]! * wz
    OWN.z = m[2]! * wx + m[5]! * wy + m[8]! * wz
  }

  /** The square of how far the solid is from (x, y, z), metres; 0 inside. */
  away2(x: number, y: number, z: number): number {
    this.toOwn(x, y, z)
    const { x: lx, y: ly, z: lz } = OWN
    const s = this.shape
    if (s.shape === 'ball') {
      const off = Math.max(0, Math.sqrt(lx * lx + ly * ly + lz * lz) - s.radius)
      return off * off
    }
    const dz = Math.max(0, lz - s.hz, -s.hz - lz)
    if (s.shape === 'box') {
      const dx = Math.max(0, lx - s.hx, -s.hx - lx)
      const dy = Math.max(0, ly - s.hy, -s.hy - ly)
      return dx * dx + dy * dy + dz * dz
    }
    const off = Math.max(0, Math.sqrt(lx * lx + ly * ly) - s.radius)
    return off * off + dz * dz
  }

  /** The point of the solid nearest to (x, y, z), in the world, written into `into`. Inside, the point itself. */
  nearest(x: number, y: number, z: number, into: MutableVector = { x: 0, y: 0, z: 0 }): Vector {
    this.toOwn(x, y, z)
    const m = this.matrix
    let { x: lx, y: ly, z: lz } = OWN
    const s = this.shape
    if (s.shape === 'box') {
      lx = Math.max(-s.hx, Math.min(s.hx, lx))
      ly = Math.max(-s.hy, Math.min(s.hy, ly))
    } else if (s.shape === 'ball') {
      const r = Math.sqrt(lx * lx + ly * ly + lz * lz)
      if (r > s.radius) { lx *= s.radius / r; ly *= s.radius / r; lz *= s.radius / r }
    } else {
      const r = Math.sqrt(lx * lx + ly * ly)
      if (r > s.radius) { lx *= s.radius / r; ly *= s.radius / r }
    }
    lz = Math.max(-s.hz, Math.min(s.hz, lz))
    into.x = this.px + m[0]! * lx + m[1]! * ly + m[2]! * lz
    into.y = this.py + m[3]! * lx + m[4]! * ly + m[5]! * lz
    into.z = this.pz + m[6]! * lx + m[7]! * ly + m[8]! * lz
    return into
  }
}

/** Solids that one look may meet, filled anew by each. The list is never shortened, so that it keeps its room: the first `count` are meant. */
export class Nearby {
  readonly solids: Solid[] = []
  count = 0

  add(solid: Solid): void { this.solids[this.count++] = solid }
}

/** Everything sensors can meet, and the ground that wheels stand on. */
export class Scene {
  /** What stands about: walls, pieces. */
  readonly solids: Solid[] = []
  /** Decks, from above: what wheels roll on. */
  readonly ground: Solid[] = []

  /** The first of `among` (all solids when left out; the first so many of them) that a ray meets within its reach; false when none, and the ray knows nothing new. */
  cast(ray: Ray, among: readonly Solid[] = this.solids, count = among.length): boolean {
    const { ox, oy, oz, dx, dy, dz, reach } = ray
    let found = false
    for (let i = 0; i < count; i++) {
      const solid = among[i]!
      // The ray misses the bounding sphere: nothing to work out.
      const cx = solid.px - ox
      const cy = solid.py - oy
      const cz = solid.pz - oz
      const along = cx * dx + cy * dy + cz * dz
      if (along < -solid.bound || along > ray.reach + solid.bound) continue
      if (cx * cx + cy * cy + cz * cz - along * along > solid.bound * solid.bound) continue
      if (!solid.cast(ray)) continue
      // What else it meets is nearer.
      ray.reach = ray.distance
      found = true
    }
    ray.reach = reach
    return found
  }
}
