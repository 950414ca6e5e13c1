import * as THREE from 'three'
import { turned, type Arena, type PlacedPiece } from '~~/core/arena'
import { yawOf } from '~~/core/geometry'
import type { Opened } from '~/run/protocol'
import type { RobotFacts } from '~~/core/robot'
import type { TapeLayout } from '~~/core/tape'
import { placesOf } from './hands-shown'
import type { Beside, Picture, RobotLooks } from './picture'
import { StageHands } from './stage-hands'
import type { Frame } from './plan-view'
import { deviceColor } from '~/shown/readings'
import { HarbourLight, hasGraphicsCard } from './light'
import { Glass } from '~/shown/screen'

interface BeamShape { readonly group: THREE.Group, readonly fan: THREE.Mesh, readonly dot: THREE.Mesh }

/** How long a trail is kept, ticks, and every how many one point is. */
const TRAIL_POINTS = 900
const TRAIL_STRIDE = 5
/** Frames slower than this make the picture coarser, faster ones finer, milliseconds. */
const SLOW_FRAME = 42
const FAST_FRAME = 22
const COARSEST = 0.4
/** Rest after which a still picture is drawn finely, milliseconds. */
const SETTLE = 300
/** From where one looks at first, radians. */
const FIRST_EYE = { around: -0.75, up: 0.72 }

/** The arena in three dimensions. The picture's fineness adapts to how long frames really take. */
export class Stage implements Picture {
  private readonly renderer: THREE.WebGLRenderer
  private readonly scene = new THREE.Scene()
  private readonly camera = new THREE.PerspectiveCamera(38, 1, 0.05, 60)
  private readonly robot = new THREE.Group()
  private readonly wheels: THREE.Object3D[] = []
  private readonly glasses: { readonly name: string, readonly glass: Glass, readonly texture: THREE.Texture }[] = []
  private readonly pads = new Map<string, THREE.MeshLambertMaterial>()
  private readonly beams: BeamShape[] = []
  private readonly pieces: THREE.Object3D[] = []
  private readonly parts: THREE.Object3D[] = []
  private readonly visitors: THREE.Object3D[] = []
  private readonly trail: THREE.Points
  /** Shadows and soft light, where a graphics card draws them. */
  private readonly rich: boolean
  private readonly light: HarbourLight
  private readonly hands = new StageHands()
  private looks: RobotLooks | null = null
  private readonly trailPlaces = new Float32Array(TRAIL_POINTS * 3)
  private readonly disposables: { dispose(): void }[] = []
  private arena: Arena | null = null
  /** Where the robot starts, metres. */
  private placed: { readonly x: number, readonly y: number } | null = null
  private layout: TapeLayout | null = null
  private facts: RobotFacts | null = null
  private fineness = 1
  private settling: ReturnType<typeof setTimeout> | null = null
  /** Whether the picture shown is the fine one of a moment of rest. */
  private settled = false
  private lastFrame = 0
  private frameTime = 30
  private width = 1
  private height = 1
  /** Angle and height from which perspective looks, radians; how far somebody moved what it looks at, metres. */
  private readonly orbit = { ...FIRST_EYE, zoom: 1, x: 0, y: 0 }
  private standing: Frame = 'arena'

  constructor(canvas: HTMLCanvasElement, private readonly color: (name: string) => string) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: false, powerPreference: 'low-power' })
    this.rich = hasGraphicsCard(this.renderer.getContext())
    this.light = new HarbourLight(this.scene, this.renderer, this.rich)
    const geometry = new THREE.BufferGeometry()
    geometry.setAttribute('position', new THREE.BufferAttribute(this.trailPlaces, 3))
    geometry.setDrawRange(0, 0)
    this.trail = new THREE.Points(geometry, new THREE.PointsMaterial({ color: color('signal'), size: 3, sizeAttenuation: false, transparent: true, opacity: 0.55 }))
    this.trail.frustumCulled = false
    this.camera.up.set(0, 0, 1)
  }

  build({ arena, placed, layout, facts, parts }: Opened, looks: RobotLooks): void {
    this.clear()
    // Another run in the same place is seen from where one stands.
    const elsewhere = this.arena === null || this.arena.name !== arena.name || this.arena.size.join() !== arena.size.join()
    this.arena = arena
    this.placed = placed.start
    this.layout = layout
    this.facts = facts
    this.looks = looks
    this.scene.background = new THREE.Color(this.color(arena.surround === 'water' ? 'water' : 'ground'))
    this.buildGround(arena)
    for (const piece of placed.pieces) {
      const mesh = this.pieceMesh(piece)
      mesh.position.set(piece.at[0], piece.at[1], piece.up + piece.body.height / 2)
      mesh.rotation.z = -piece.turn
      this.scene.add(mesh)
      if (!piece.fixed) this.pieces.push(mesh)
    }
    this.buildFurniture(arena)
    this.buildRobot(looks, facts)
    for (const part of parts) {
      const { shape } = part
      const geometry = shape.shape === 'box' ? new THREE.BoxGeometry(shape.hx * 2, shape.hy * 2, shape.hz * 2) : new THREE.CylinderGeometry(shape.radius, shape.radius, shape.hz * 2, 24).rotateX(Math.PI / 2)
      const mesh = this.mesh(geometry, this.lambert(part.device === null ? 'hull' : deviceColor(facts, part.device)))
      this.parts.push(mesh)
      this.scene.add(mesh)
    }
    this.buildBeams(layout, looks, facts)
    this.scene.add(this.trail, this.hands.group)
    this.light.over(arena.size)
    if (elsewhere) this.rest()
    else this.frame()
  }

  private clear(): void {
    this.scene.children.filter(c => !(c instanceof THREE.Light)).forEach(c => this.scene.remove(c))
    this.robot.clear()
    for (const d of this.disposables.splice(0)) d.dispose()
    this.wheels.length = 0
    this.pieces.length = 0
    this.parts.length = 0
    this.visitors.length = 0
    this.beams.length = 0
    this.pads.clear()
    this.glasses.length = 0
    this.trail.geometry.setDrawRange(0, 0)
  }

  private mesh(geometry: THREE.BufferGeometry, material: THREE.Material): THREE.Mesh {
    this.disposables.push(geometry, material)
    return new THREE.Mesh(geometry, material)
  }

  private lambert(color: string): THREE.MeshLambertMaterial {
    return new THREE.MeshLambertMaterial({ color: this.color(color) })
  }

  private buildGround(arena: Arena): void {
    for (const deck of arena.decks) {
      const slab = this.mesh(new THREE.BoxGeometry(deck.size[0], deck.size[1], 0.12), this.lambert('deck'))
      slab.position.set(deck.at[0], deck.at[1], -0.06)
      slab.rotation.z = -deck.turn
      this.scene.add(slab)
      // Seams between planks, so that distance can be judged: one every 20 cm.
      const places: number[] = []
      for (let y = 0.2; y < deck.size[1]; y += 0.2) places.push(-deck.size[0] / 2, y - deck.size[1] / 2, 0.062, deck.size[0] / 2, y - deck.size[1] / 2, 0.062)
      const seams = new THREE.BufferGeometry()
      seams.setAttribute('position', new THREE.Float32BufferAttribute(places, 3))
      const material = new THREE.LineBasicMaterial({ color: this.color('plank') })
      this.disposables.push(seams, material)
      slab.add(new THREE.LineSegments(seams, material))
    }
    arena.patches.forEach((patch, i) => {
      const shape = patch.shape === 'disc' ? new THREE.CircleGeometry(patch.size[0] / 2, 40) : new THREE.PlaneGeometry(patch.size[0], patch.size[1])
      const mesh = this.mesh(shape, new THREE.MeshLambertMaterial({ color: this.color(`paint-${patch.color}`) }))
      mesh.position.set(patch.at[0], patch.at[1], 0.003 + i * 0.0006)
      mesh.rotation.z = -patch.turn
      this.scene.add(mesh)
    })
    for (const wall of arena.walls) {
      const dx = wall.to[0] - wall.from[0]
      const dy = wall.to[1] - wall.from[1]
      const mesh = this.mesh(new THREE.BoxGeometry(Math.hypot(dx, dy), wall.thickness, wall.height), this.lambert('wall'))
      mesh.position.set((wall.from[0] + wall.to[0]) / 2, (wall.from[1] + wall.to[1]) / 2, wall.height / 2)
      mesh.rotation.z = Math.atan2(dy, dx)
      this.scene.add(mesh)
    }
  }

  /** Lines, crates, belts, lamps and visitors. */
  private buildFurniture(arena: Arena): void {
    const box = (x: number, y: number, z: number, size: readonly [number, number, number], yaw: number, color: string): THREE.Mesh => {
      const mesh = this.mesh(new THREE.BoxGeometry(...size), this.lambert(color))
      mesh.position.set(x, y, z)
      mesh.rotation.z = yaw
      this.scene.add(mesh)
      return mesh
    }
    for (const line of arena.lines) {
      for (let i = 1; i < line.points.length; i++) {
        const [ax, ay] = line.points[i - 1]!
        const [bx, by] = line.points[i]!
        box((ax + bx) / 2, (ay + by) / 2, 0.004, [Math.hypot(bx - ax, by - ay) + line.width, line.width, 0.002], Math.atan2(by - ay, bx - ax), `paint-${line.color}`)
      }
    }
    for (const crate of arena.crates) {
      const [w, h] = crate.size
      const panel = (x: number, y: number, size: readonly [number, number, number], z: number): void => {
        const at = turned(x, y, crate.turn)
        box(crate.at[0] + at.x, crate.at[1] + at.y, z, size, -crate.turn, `paint-${crate.color}`)
      }
      panel(0, 0, [w, h, crate.wall], crate.wall / 2)
      panel((w - crate.wall) / 2, 0, [crate.wall, h, crate.height], crate.height / 2)
      panel((crate.wall - w) / 2, 0, [crate.wall, h, crate.height], crate.height / 2)
      panel(0, (h - crate.wall) / 2, [w, crate.wall, crate.height], crate.height / 2)
      panel(0, (crate.wall - h) / 2, [w, crate.wall, crate.height], crate.height / 2)
    }
    for (const belt of arena.belts) box(belt.at[0], belt.at[1], belt.height / 2, [belt.size[0], belt.size[1], belt.height], -belt.turn, 'paint-black')
    for (const lamp of arena.lamps) box(lamp.at[0], lamp.at[1], lamp.up, [0.04, 0.04, 0.04], 0, 'paint-yellow')
    for (const v of arena.visitors) {
      const mesh = this.mesh(new THREE.CylinderGeometry(v.diameter / 2, v.diameter / 2, v.height, 20).rotateX(Math.PI / 2), this.lambert(`paint-${v.color}`))
      this.visitors.push(mesh)
      this.scene.add(mesh)
    }
  }

  private pieceMesh(piece: PlacedPiece): THREE.Object3D {
    const { body } = piece
    const geometry = body.shape === 'box'
      ? new THREE.BoxGeometry(body.length, body.width, body.height)
      : body.shape === 'ball' ? new THREE.SphereGeometry(body.diameter / 2, 28, 18) : new THREE.CylinderGeometry(body.diameter / 2, body.diameter / 2, body.height, 28).rotateX(Math.PI / 2)
    const mesh = this.mesh(geometry, this.lambert(`paint-${piece.color}`))
    const edges = new THREE.EdgesGeometry(geometry, 30)
    const line = new THREE.LineBasicMaterial({ color: this.color('ink'), transparent: true, opacity: 0.55 })
    this.disposables.push(edges, line)
    mesh.add(new THREE.LineSegments(edges, line))
    return mesh
  }

  private buildRobot(looks: RobotLooks, facts: RobotFacts): void {
    const middle = looks.clearance + looks.height / 2
    const hullGeometry = new THREE.BoxGeometry(looks.length, looks.width, looks.height)
    const hull = this.mesh(hullGeometry, this.lambert('hull'))
    const edges = new THREE.EdgesGeometry(hullGeometry)
    const line = new THREE.LineBasicMaterial({ color: this.color('tyre') })
    this.disposables.push(edges, line)
    hull.add(new THREE.LineSegments(edges, line))
    this.robot.add(hull)
    // Which way is forward, on its back.
    const arrow = new THREE.Shape()
    arrow.moveTo(0.03, 0)
    arrow.lineTo(-0.02, 0.024)
    arrow.lineTo(-0.02, -0.024)
    const nose = this.mesh(new THREE.ShapeGeometry(arrow), new THREE.MeshBasicMaterial({ color: this.color('tyre') }))
    nose.position.set(-0.01, 0, looks.height / 2 + 0.001)
    this.robot.add(nose)
    const { wheel } = looks
    for (const side of wheel === null ? [] : [1, -1]) {
      if (wheel === null) break
      const rim = new THREE.Group()
      rim.add(this.mesh(new THREE.CylinderGeometry(wheel.radius, wheel.radius, wheel.width, 22), this.lambert('tyre')))
      const spoke = this.mesh(new THREE.BoxGeometry(wheel.radius * 1.5, wheel.width * 1.05, wheel.radius * 0.25), this.lambert('hull'))
      rim.add(spoke)
      rim.position.set(wheel.forward, side * wheel.track / 2, wheel.radius - middle)
      this.wheels.push(rim)
      this.robot.add(rim)
    }
    for (const device of looks.devices.filter(d => d.onChassis)) {
      if (device.glass !== null) this.buildGlass(device, device.glass, middle, facts)
      const material = this.lambert(deviceColor(facts, device.name))
      const size = device.pad === null ? [0.018, 0.026, 0.018] as const : [0.012, device.pad.width, device.pad.height] as const
      const part = this.mesh(new THREE.BoxGeometry(...size), material)
      part.position.set(device.forward, device.left, device.up - middle)
      part.rotation.z = device.yaw
      if (device.pad !== null) this.pads.set(device.name, material)
      this.robot.add(part)
    }
    this.scene.add(this.robot)
  }

  /** A display lies above its place and reads well for who stands behind the robot. */
  private buildGlass(device: RobotLooks['devices'][number], width: number, middle: number, facts: RobotFacts): void {
    const glass = new Glass(facts.devices.find(d => d.name === device.name)!, facts.pictures)
    const texture = new THREE.CanvasTexture(glass.canvas)
    texture.colorSpace = THREE.SRGBColorSpace
    this.disposables.push(texture)
    const plane = this.mesh(new THREE.PlaneGeometry(width, width * glass.canvas.height / glass.canvas.width), new THREE.MeshBasicMaterial({ map: texture, side: THREE.DoubleSide }))
    plane.position.set(device.forward, device.left, device.up - middle + 0.011)
    plane.rotation.z = device.yaw - Math.PI / 2
    this.robot.add(plane)
    this.glasses.push({ name: device.name, glass, texture })
  }

  private buildBeams(layout: TapeLayout, looks: RobotLooks, facts: RobotFacts): void {
    for (const name of layout.beamDevices) {
      const device = looks.devices.find(d => d.name === name)
      const cone = device?.cone ?? 0.04
      const color = this.color(deviceColor(facts, name))
      const fan = this.mesh(new THREE.CircleGeometry(1, 24, -cone / 2, cone), new THREE.MeshBasicMaterial({ color, transparent: true, opacity: 0.2, side: THREE.DoubleSide, depthWrite: false }))
      const dot = this.mesh(new THREE.SphereGeometry(0.018, 12, 8), new THREE.MeshBasicMaterial({ color }))
      const group = new THREE.Group()
      group.add(fan, dot)
      this.scene.add(group)
      this.beams.push({ group, fan, dot })
    }
  }

  draw(row: Float64Array, tick: number, { rowOf, screenOf, hands }: Beside): void {
    const { layout, facts, looks } = this
    if (layout === null || facts === null || looks === null) return
    for (const { name, glass, texture } of this.glasses) if (glass.show(screenOf(name), this.color('bar'), this.color('on-bar'))) texture.needsUpdate = true
    const b = layout.body
    this.robot.position.set(row[b]!, row[b + 1]!, row[b + 2]!)
    this.robot.quaternion.set(row[b + 3]!, row[b + 4]!, row[b + 5]!, row[b + 6]!)
    this.wheels.forEach((wheel, i) => { wheel.rotation.y = row[layout.wheels + i]! })
    this.pieces.forEach((piece, i) => {
      const p = layout.pieces + 7 * i
      piece.position.set(row[p]!, row[p + 1]!, row[p + 2]!)
      piece.quaternion.set(row[p + 3]!, row[p + 4]!, row[p + 5]!, row[p + 6]!)
    })
    this.parts.forEach((part, i) => {
      const p = layout.parts + 7 * i
      part.position.set(row[p]!, row[p + 1]!, row[p + 2]!)
      part.quaternion.set(row[p + 3]!, row[p + 4]!, row[p + 5]!, row[p + 6]!)
    })
    this.visitors.forEach((visitor, i) => visitor.position.set(row[layout.visitors + 3 * i]!, row[layout.visitors + 3 * i + 1]!, row[layout.visitors + 3 * i + 2]!))
    this.beams.forEach((beam, i) => {
      const at = layout.beams + 7 * i
      const dx = row[at + 3]! - row[at]!
      const dy = row[at + 4]! - row[at + 1]!
      const length = Math.hypot(dx, dy)
      const met = row[at + 6] === 1
      beam.group.position.set(row[at]!, row[at + 1]!, row[at + 2]!)
      beam.group.rotation.z = Math.atan2(dy, dx)
      beam.fan.scale.setScalar(Math.max(0.01, length));
      (beam.fan.material as THREE.MeshBasicMaterial).opacity = met ? 0.26 : 0.1
      beam.dot.position.set(length, 0, 0)
      beam.dot.visible = met
    })
    for (const [name, material] of this.pads) {
      const device = facts.devices.find(d => d.name === name)
      const pressed = device !== undefined && row[layout.readings + device.first] === 1
      material.emissive.set(pressed ? this.color('signal') : '#000000')
    }
    this.hands.show(placesOf(hands, row, layout, looks), this.color('paint-grey'))
    this.drawTrail(tick, rowOf, b)
    if (this.standing !== 'arena') this.frame()
    this.render()
  }

  private drawTrail(tick: number, pathOf: (tick: number) => Float64Array | null, body: number): void {
    let count = 0
    const first = Math.max(0, tick - TRAIL_POINTS * TRAIL_STRIDE)
    for (let t = first - first % TRAIL_STRIDE; t <= tick && count < TRAIL_POINTS; t += TRAIL_STRIDE) {
      const row = pathOf(t)
      if (row === null) continue
      this.trailPlaces[3 * count] = row[body]!
      this.trailPlaces[3 * count + 1] = row[body + 1]!
      this.trailPlaces[3 * count + 2] = 0.008
      count++
    }
    this.trail.geometry.setDrawRange(0, count)
    this.trail.geometry.getAttribute('position').needsUpdate = true
  }

  private render(): void {
    const start = performance.now()
    if (this.settled) { this.settled = false; this.applySize() }
    // The time between frames that follow one another tells what the machine can do.
    const between = start - this.lastFrame
    this.lastFrame = start
    if (between < 250) {
      this.frameTime += (between - this.frameTime) * 0.1
      if (this.frameTime > SLOW_FRAME && this.fineness > COARSEST) this.setFineness(this.fineness - 0.1)
      else if (this.frameTime < FAST_FRAME && this.fineness < 1) this.setFineness(this.fineness + 0.05)
    }
    this.renderer.render(this.scene, this.camera)
    this.settle()
  }

  /** Where nothing moves for a moment, the picture is drawn once more, as finely as the screen can. */
  private settle(): void {
    if (this.settling !== null) clearTimeout(this.settling)
    if (this.fineness === 1) return
    this.settling = setTimeout(() => {
      this.settling = null
      const { fineness } = this
      this.fineness = 1
      this.applySize()
      this.renderer.render(this.scene, this.camera)
      this.fineness = fineness
      this.settled = true
    }, SETTLE)
  }

  private setFineness(value: number): void {
    this.fineness = Math.min(1, Math.max(COARSEST, value))
    this.frameTime = 30
    this.applySize()
  }

  /** Hands reach in from above only. */
  pick(): null { return null }
  alongHand(): null { return null }

  resize(width: number, height: number): void {
    if (width < 2 || height < 2) return
    this.width = width
    this.height = height
    this.applySize()
    this.frame()
    this.renderer.render(this.scene, this.camera)
  }

  private applySize(): void {
    this.renderer.setPixelRatio(Math.min(globalThis.devicePixelRatio || 1, 1.5) * this.fineness)
    this.renderer.setSize(this.width, this.height, false)
  }

  turnEye(around: number, up: number): void {
    this.orbit.around += around
    this.orbit.up = Math.min(1.45, Math.max(0.12, this.orbit.up + up))
    this.frame()
  }

  setFrame(frame: Frame): void {
    this.standing = frame
    this.rest()
  }

  rest(): void {
    // With the robot the eye is near it, behind and above; so it is at first where shadows make near things worth seeing.
    const [wide, deep] = this.arena?.size ?? [0, 0]
    const start = this.placed
    if (this.standing !== 'arena') Object.assign(this.orbit, { around: this.standing === 'robot' ? 0 : FIRST_EYE.around, up: 0.5, zoom: 0.3, x: 0, y: 0 })
    else if (this.rich && start !== null) Object.assign(this.orbit, { ...FIRST_EYE, up: 0.55, zoom: 0.5, x: (start.x - wide / 2) * 0.6, y: (start.y - deep / 2) * 0.6 })
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

  measure(): void { /* Lengths are told from above, where they are true. */ }
  measured(): null { return null }

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
    const size = this.arena?.size ?? [2, 2]
    return (Math.max(size[0] / Math.max(this.width / this.height, 0.4), size[1]) * 1.75 + 0.5) * this.orbit.zoom
  }

  /** What the eye looks at: the middle of the arena or the robot, and from there as somebody moved it. */
  private middle(): { readonly x: number, readonly y: number } {
    const size = this.arena?.size ?? [2, 2]
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
  private frame(): void {
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

  dispose(): void {
    if (this.settling !== null) clearTimeout(this.settling)
    this.clear()
    this.hands.dispose()
    this.trail.geometry.dispose();
    (this.trail.material as THREE.Material).dispose()
    this.renderer.dispose()
  }
}
