import * as THREE from 'three'
import { yawOf } from '~~/core/geometry'
import type { Frame } from './plan-view'

/** From where one looks at first, radians. */
const FIRST_EYE = { around: -0.75, up: 0.72 }

/**
 * From where the arena is looked at: about a place of it, from so far and so high. With the robot the place goes along, and in its own frame the eye turns with it.
 */
export class Eye {
  readonly camera = new THREE.PerspectiveCamera(38, 1, 0.05, 60)
  private width = 1
  private height = 1
  /** Metres. */
  private size: readonly [number, number] = [2, 2]
  private start: { readonly x: number, readonly y: number } | null = null
  /** Angle and height from which perspective looks, radians; how far somebody moved what it looks at, metres. */
  private readonly orbit = { ...FIRST_EYE, zoom: 1, x: 0, y: 0 }
  private standing: Frame = 'arena'

  /** `near`: whether it is near the robot at first, where shadows make near things worth seeing. */
  constructor(private readonly robot: THREE.Object3D, private readonly near: boolean) {
    this.camera.up.set(0, 0, 1)
  }

  /** Looks at an arena of so many metres, where the robot starts at a place; from where it looked before, where that is the same. */
  over(size: readonly [number, number], start: { readonly x: number, readonly y: number } | null, elsewhere: boolean): void {
    this.size = size
    this.start = start
    if (elsewhere) this.rest()
    else this.frame()
  }

  /** The picture's size, pixels. */
  resize(width: number, height: number): void {
    this.width = width
    this.height = height
    this.frame()
  }

  /** Whether it goes along with the robot. */
  get goesAlong(): boolean { return this.standing !== 'arena' }

  turn(around: number, up: number): void {
    this.orbit.around += around
    this.orbit.up = Math.min(1.45, Math.max(0.12, this.orbit.up + up))
    this.frame()
  }

  setFrame(frame: Frame): void {
    this.standing = frame
    this.rest()
  }

  rest(): void {
    // With the robot the eye is near it, behind and above.
    const { size: [wide, deep], start } = this
    if (this.standing !== 'arena') Object.assign(this.orbit, { around: this.standing === 'robot' ? 0 : FIRST_EYE.around, up: 0.5, zoom: 0.3, x: 0, y: 0 })
    else if (this.near && start !== null) Object.assign(this.orbit, { ...FIRST_EYE, up: 0.55, zoom: 0.5, x: (start.x - wide / 2) * 0.6, y: (start.y - deep / 2) * 0.6 })
    else Object.assign(this.orbit, { ...FIRST_EYE, zoom: 1, x: 0, y: 0 })
    this.frame()
  }

  pan(dx: number, dy: number): void {
    // What was under the pointer stays there, as far as that can be on a ground that is seen aslant.
    const metres = 2 * Math.tan(this.camera.fov * Math.PI / 360) * this.distance() / this.height
    const along = dy * metres / Math.max(0.3, Math.sin(this.orbit.up))
    const turn = this.orbit.around + this.yaw()
    this.orbit.x -= dx * metres * Math.cos(turn) + along * Math.sin(turn)
    this.orbit.y -= dx * metres * Math.sin(turn) - along * Math.cos(turn)
    this.frame()
  }

  zoom(factor: number, x: number, y: number): void {
    const zoom = Math.min(3, Math.max(0.12, this.orbit.zoom * factor))
    const by = zoom / this.orbit.zoom
    this.orbit.zoom = zoom
    // All distances shrink towards the place of the ground that is under the pointer: so it stays under it.
    const under = this.groundAt(x, y)
    if (under !== null) {
      const middle = this.middle()
      this.orbit.x += (under.x - middle.x) * (1 - by)
      this.orbit.y += (under.y - middle.y) * (1 - by)
    }
    this.frame()
  }

  /** The place of the ground at page pixels; null beside it, above the horizon. */
  private groundAt(x: number, y: number): { readonly x: number, readonly y: number } | null {
    const ray = new THREE.Raycaster()
    ray.setFromCamera(new THREE.Vector2(2 * x / this.width - 1, 1 - 2 * y / this.height), this.camera)
    return ray.ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 0, 1), 0), new THREE.Vector3())
  }

  /** How far the eye is from what it looks at, metres: at zoom 1 the whole arena is seen. */
  private distance(): number {
    const { size } = this
    return (Math.max(size[0] / Math.max(this.width / this.height, 0.4), size[1]) * 1.75 + 0.5) * this.orbit.zoom
  }

  /** What the eye looks at: the middle of the arena or the robot, and from there as somebody moved it. */
  private middle(): { readonly x: number, readonly y: number } {
    const { size } = this
    const { position } = this.robot
    const [x, y] = this.standing === 'arena' ? [size[0] / 2, size[1] / 2] : [position.x, position.y]
    return { x: x + this.orbit.x, y: y + this.orbit.y }
  }

  /** In the robot's own frame the eye turns with it: it looks where the robot looks. */
  private yaw(): number {
    const { quaternion: q } = this.robot
    return this.standing === 'robot' ? yawOf(q) - Math.PI / 2 : 0
  }

  /** Puts the camera where the eye is. */
  frame(): void {
    const aspect = this.width / this.height
    const distance = this.distance()
    const { up } = this.orbit
    const { x, y } = this.middle()
    const around = this.orbit.around + this.yaw()
    this.camera.aspect = aspect
    this.camera.position.set(x + Math.sin(around) * Math.cos(up) * distance, y - Math.cos(around) * Math.cos(up) * distance, Math.sin(up) * distance)
    this.camera.lookAt(x, y, 0.02)
    this.camera.updateProjectionMatrix()
  }
}
