import * as THREE from 'three'
import { figuresOf, pieceFigure, type Arena, type Figures, type PaintFigure, type PlacedPiece, type SolidFigure } from '~~/core/arena'
import { yawOf, type SolidShape } from '~~/core/geometry'
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

/** How much of the ground is shown below its top, metres. */
const DEPTH = 0.12

/** A solid about its own middle; cylinders stand. */
const geometryOf = (shape: SolidShape): THREE.BufferGeometry => shape.shape === 'box'
  ? new THREE.BoxGeometry(2 * shape.hx, 2 * shape.hy, 2 * shape.hz)
  : shape.shape === 'ball' ? new THREE.SphereGeometry(shape.radius, 28, 18) : new THREE.CylinderGeometry(shape.radius, shape.radius, 2 * shape.hz, 28).rotateX(Math.PI / 2)

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
    this.buildFigures(figuresOf(arena))
    for (const piece of placed.pieces) {
      const mesh = this.pieceMesh(piece)
      if (!piece.fixed) this.pieces.push(mesh)
    }
    this.buildRobot(looks, facts)
    for (const part of parts) {
      const { shape } = part
      const mesh = this.mesh(geometryOf(shape), this.lambert(part.device === null ? 'hull' : deviceColor(facts, part.device)))
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

  private buildFigures({ ground, paint, fixed, walking, lights }: Figures): void {
    for (const deck of ground) {
      // As deep as it is, it would fill the picture.
      const hz = Math.min(deck.shape.hz, DEPTH / 2)
      const slab = this.stand({ ...deck, shape: { ...deck.shape, hz }, middle: deck.middle + deck.shape.hz - hz })
      if (deck.seams !== undefined && deck.shape.shape === 'box') slab.add(this.seams(deck.shape.hx, deck.shape.hy, hz, deck.seams))
    }
    // What is painted later lies a hair above.
    paint.forEach((figure, i) => { this.buildPaint(figure, 0.003 + i * 0.0004) })
    for (const solid of fixed) this.stand(solid)
    for (const lamp of lights) {
      const bulb = this.mesh(new THREE.BoxGeometry(0.04, 0.04, 0.04), this.lambert('paint-yellow'))
      bulb.position.set(lamp.at[0], lamp.at[1], lamp.up)
      this.scene.add(bulb)
    }
    for (const solid of walking) this.visitors.push(this.stand(solid))
  }

  /** A solid where it stands. */
  private stand({ shape, at, middle, yaw, tint }: SolidFigure): THREE.Mesh {
    const mesh = this.mesh(geometryOf(shape), this.lambert(tint))
    mesh.position.set(at[0], at[1], middle)
    mesh.rotation.z = yaw
    this.scene.add(mesh)
    return mesh
  }

  /** Lines across the top of a deck, so that distance can be judged. */
  private seams(hx: number, hy: number, hz: number, every: number): THREE.LineSegments {
    const places: number[] = []
    for (let y = every - hy; y < hy; y += every) places.push(-hx, y, hz + 0.002, hx, y, hz + 0.002)
    const lines = new THREE.BufferGeometry()
    lines.setAttribute('position', new THREE.Float32BufferAttribute(places, 3))
    const material = new THREE.LineBasicMaterial({ color: this.color('plank') })
    this.disposables.push(lines, material)
    return new THREE.LineSegments(lines, material)
  }

  private buildPaint(figure: PaintFigure, up: number): void {
    const lay = (geometry: THREE.BufferGeometry, x: number, y: number, yaw: number): void => {
      const material = this.lambert(`paint-${figure.color}`)
      // It lies on the seams of planks, also where depth is told coarsely.
      Object.assign(material, { polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -8 })
      const mesh = this.mesh(geometry, material)
      mesh.position.set(x, y, up)
      mesh.rotation.z = yaw
      this.scene.add(mesh)
    }
    switch (figure.shape) {
      case 'box': lay(new THREE.PlaneGeometry(figure.size[0], figure.size[1]), figure.at[0], figure.at[1], -figure.turn); return
      case 'disc': lay(new THREE.CircleGeometry(figure.radius, 40), figure.at[0], figure.at[1], 0); return
      case 'way':
        for (let i = 1; i < figure.points.length; i++) {
          const [ax, ay] = figure.points[i - 1]!
          const [bx, by] = figure.points[i]!
          lay(new THREE.BoxGeometry(Math.hypot(bx - ax, by - ay) + figure.width, figure.width, 0.002), (ax + bx) / 2, (ay + by) / 2, Math.atan2(by - ay, bx - ax))
        }
    }
  }

  private pieceMesh(piece: PlacedPiece): THREE.Object3D {
    const mesh = this.stand(pieceFigure(piece))
    const edges = new THREE.EdgesGeometry(mesh.geometry, 30)
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
