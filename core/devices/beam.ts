import type { BodyState } from '../geometry'
import type { Mount } from './device'
import { cos, sin } from '../maths'

/** Where a mounted device is and which way it looks, in the world: origin o, forward f, left l, up u. */
export class Beam {
  ox = 0; oy = 0; oz = 0
  fx = 1; fy = 0; fz = 0
  lx = 0; ly = 1; lz = 0
  ux = 0; uy = 0; uz = 1
  private readonly forward: readonly [number, number, number]
  private readonly left: readonly [number, number, number]
  private readonly up: readonly [number, number, number]

  constructor(private readonly mount: Mount) {
    const cy = cos(mount.yaw)
    const sy = sin(mount.yaw)
    const cp = cos(mount.pitch)
    const sp = sin(mount.pitch)
    this.forward = [cy * cp, sy * cp, sp]
    this.left = [-sy, cy, 0]
    this.up = [-cy * sp, -sy * sp, cp]
  }

  place(body: BodyState): void {
    const m = body.matrix
    const { x, y, z } = body.pose.position
    const { forward: mf, left: ml, up: mu } = this.mount
    this.ox = x + m[0]! * mf + m[1]! * ml + m[2]! * mu
    this.oy = y + m[3]! * mf + m[4]! * ml + m[5]! * mu
    this.oz = z + m[6]! * mf + m[7]! * ml + m[8]! * mu
    const [a, b, c] = this.forward
    this.fx = m[0]! * a + m[1]! * b + m[2]! * c
    this.fy = m[3]! * a + m[4]! * b + m[5]! * c
    this.fz = m[6]! * a + m[7]! * b + m[8]! * c
    const [d, e, f] = this.left
    this.lx = m[0]! * d + m[1]! * e + m[2]! * f
    this.ly = m[3]! * d + m[4]! * e + m[5]! * f
    this.lz = m[6]! * d + m[7]! * e + m[8]! * f
    const [g, h, i] = this.up
    this.ux = m[0]! * g + m[1]! * h + m[2]! * i
    this.uy = m[3]! * g + m[4]! * h + m[5]! * i
    this.uz = m[6]! * g + m[7]! * h + m[8]! * i
  }

  /** Origin, end, and whether something was met: seven numbers for the arena. */
  write(into: Float64Array, length: number, met: boolean): void {
    into[0] = this.ox
    into[1] = this.oy
    into[2] = this.oz
    into[3] = this.ox + this.fx * length
    into[4] = this.oy + this.fy * length
    into[5] = this.oz + this.fz * length
    into[6] = met ? 1 : 0
  }
}
