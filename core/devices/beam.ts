import type { BodyState, Vector } from '../geometry'
import type { Mount } from './device'
import { cos, sin } from '../maths'

/** Where a mounted device is and which way it looks, in the world: origin o, forward f, left l, up u. */
export class Beam {
  ox = 0; oy = 0; oz = 0
  fx = 1; fy = 0; fz = 0
  lx = 0; ly = 1; lz = 0
  ux = 0; uy = 0; uz = 1
  private readonly forward: Vector
  private readonly left: Vector
  private readonly up: Vector

  constructor(private readonly mount: Mount) {
    const cy = cos(mount.yaw)
    const sy = sin(mount.yaw)
    const cp = cos(mount.pitch)
    const sp = sin(mount.pitch)
    this.forward = { x: cy * cp, y: sy * cp, z: sp }
    this.left = { x: -sy, y: cy, z: 0 }
    this.up = { x: -cy * sp, y: -sy * sp, z: cp }
  }

  place(body: BodyState): void {
    const m = body.matrix
    const { x, y, z } = body.pose.position
    const { forward: mf, left: ml, up: mu } = this.mount
    this.ox = x + m[0]! * mf + m[1]! * ml + m[2]! * mu
    this.oy = y + m[3]! * mf + m[4]! * ml + m[5]! * mu
    this.oz = z + m[6]! * mf + m[7]! * ml + m[8]! * mu
    const { forward: f, left: l, up: u } = this
    this.fx = m[0]! * f.x + m[1]! * f.y + m[2]! * f.z
    this.fy = m[3]! * f.x + m[4]! * f.y + m[5]! * f.z
    this.fz = m[6]! * f.x + m[7]! * f.y + m[8]! * f.z
    this.lx = m[0]! * l.x + m[1]! * l.y + m[2]! * l.z
    this.ly = m[3]! * l.x + m[4]! * l.y + m[5]! * l.z
    this.lz = m[6]! * l.x + m[7]! * l.y + m[8]! * l.z
    this.ux = m[0]! * u.x + m[1]! * u.y + m[2]! * u.z
    this.uy = m[3]! * u.x + m[4]! * u.y + m[5]! * u.z
    this.uz = m[6]! * u.x + m[7]! * u.y + m[8]! * u.z
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
