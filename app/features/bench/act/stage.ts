import * as THREE from 'three'
import { figuresOf, pieceFigure, type Arena, type Figures, type PaintFigure, type SolidFigure } from '~~/core/arena'
import type { Opened } from '~/run/protocol'
import type { RobotFacts } from '~~/core/robot'
import type { TapeLayout } from '~~/core/tape'
import { placesOf } from './hands-shown'
import type { Beside, Picture, RobotLooks } from './picture'
import { Eye } from './stage-eye'
import { StageHands } from './stage-hands'
import { Meshes, geometryOf } from './stage-meshes'
import { Solids, type Placed } from './stage-solids'
import { StageRobot } from './stage-robot'
import type { Frame } from './plan-view'
import { deviceColor } from '~/shown/readings'
import { HarbourLight, hasGraphicsCard } from './light'

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
/** How much of the ground is shown below its top, metres. */
const DEPTH = 0.12

/** The arena in three dimensions. The picture's fineness adapts to how long frames really take. */
export class Stage implements Picture {
  private readonly renderer: THREE.WebGLRenderer
  private readonly scene = new THREE.Scene()
  private readonly meshes: Meshes
  private readonly robot: StageRobot
  private readonly eye: Eye
  private readonly beams: BeamShape[] = []
  private readonly solids: Solids
  private readonly pieces: Placed[] = []
  private readonly parts: THREE.Object3D[] = []
  private readonly visitors: { readonly placed: Placed, readonly yaw: number }[] = []
  private readonly trail: THREE.Points
  private readonly light: HarbourLight
  private readonly hands = new StageHands()
  private looks: RobotLooks | null = null
  private readonly trailPlaces = new Float32Array(TRAIL_POINTS * 3)
  private arena: Arena | null = null
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

  constructor(canvas: HTMLCanvasElement, private readonly color: (name: string) => string) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: false, powerPreference: 'low-power' })
    // Shadows and soft light, where a graphics card draws them.
    const rich = hasGraphicsCard(this.renderer.getContext())
    this.light = new HarbourLight(this.scene, this.renderer, rich)
    const geometry = new THREE.BufferGeometry()
    geometry.setAttribute('position', new THREE.BufferAttribute(this.trailPlaces, 3))
    geometry.setDrawRange(0, 0)
    this.trail = new THREE.Points(geometry, new THREE.PointsMaterial({ color: color('signal'), size: 3, sizeAttenuation: false, transparent: true, opacity: 0.55 }))
    this.trail.frustumCulled = false
    this.meshes = new Meshes(color)
    this.solids = new Solids(this.meshes)
    this.robot = new StageRobot(this.meshes)
    this.eye = new Eye(this.robot.group, rich)
  }

  build({ arena, placed, layout, facts, parts }: Opened, looks: RobotLooks): void {
    this.clear()
    // Another run in the same place is seen from where one stands.
    const elsewhere = this.arena === null || this.arena.name !== arena.name || this.arena.size.join() !== arena.size.join()
    this.arena = arena
    this.layout = layout
    this.facts = facts
    this.looks = looks
    this.scene.background = new THREE.Color(this.color(arena.surround === 'water' ? 'water' : 'ground'))
    const figures = figuresOf(arena)
    for (const piece of placed.pieces) {
      const solid = this.solids.add(pieceFigure(piece), true)
      if (!piece.fixed) this.pieces.push(solid)
    }
    for (const solid of figures.fixed) this.solids.add(solid, false)
    for (const solid of figures.walking) this.visitors.push({ placed: this.solids.add(solid, false), yaw: solid.yaw })
    this.solids.made()
    this.scene.add(this.solids.group)
    this.buildFigures(figures)
    this.robot.build(looks, facts)
    this.scene.add(this.robot.group)
    for (const part of parts) {
      const { shape } = part
      const mesh = this.meshes.mesh(geometryOf(shape), this.meshes.lambert(part.device === null ? 'hull' : deviceColor(facts, part.device)))
      this.parts.push(mesh)
      this.scene.add(mesh)
    }
    this.buildBeams(layout, looks, facts)
    this.scene.add(this.trail, this.hands.group)
    this.light.over(arena.size)
    this.eye.over(arena.size, placed.start, elsewhere)
  }

  private clear(): void {
    this.scene.children.filter(c => !(c instanceof THREE.Light)).forEach(c => this.scene.remove(c))
    this.meshes.free()
    this.solids.clear()
    this.pieces.length = 0
    this.parts.length = 0
    this.visitors.length = 0
    this.beams.length = 0
    this.trail.geometry.setDrawRange(0, 0)
  }

  private buildFigures({ ground, paint, lights }: Figures): void {
    for (const deck of ground) {
      // As deep as it is, it would fill the picture.
      const hz = Math.min(deck.shape.hz, DEPTH / 2)
      const slab = this.stand({ ...deck, shape: { ...deck.shape, hz }, middle: deck.middle + deck.shape.hz - hz })
      if (deck.seams !== undefined && deck.shape.shape === 'box') slab.add(this.seams(deck.shape.hx, deck.shape.hy, hz, deck.seams))
    }
    // What is painted later lies a hair above.
    paint.forEach((figure, i) => { this.buildPaint(figure, 0.003 + i * 0.0004) })
    for (const lamp of lights) {
      const bulb = this.meshes.mesh(new THREE.BoxGeometry(0.04, 0.04, 0.04), this.meshes.lambert('paint-yellow'))
      bulb.position.set(lamp.at[0], lamp.at[1], lamp.up)
      this.scene.add(bulb)
    }
  }

  /** A deck where it lies. */
  private stand({ shape, at, middle, yaw, tint }: SolidFigure): THREE.Mesh {
    const mesh = this.meshes.mesh(geometryOf(shape), this.meshes.lambert(tint))
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
    return this.meshes.lines(lines, new THREE.LineBasicMaterial({ color: this.color('plank') }))
  }

  private buildPaint(figure: PaintFigure, up: number): void {
    const lay = (geometry: THREE.BufferGeometry, x: number, y: number, yaw: number): void => {
      const material = this.meshes.lambert(`paint-${figure.color}`)
      // It lies on the seams of planks, also where depth is told coarsely.
      Object.assign(material, { polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -8 })
      const mesh = this.meshes.mesh(geometry, material)
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

  private buildBeams(layout: TapeLayout, looks: RobotLooks, facts: RobotFacts): void {
    for (const name of layout.beamDevices) {
      const device = looks.devices.find(d => d.name === name)
      const cone = device?.cone ?? 0.04
      const color = this.color(deviceColor(facts, name))
      const fan = this.meshes.mesh(new THREE.CircleGeometry(1, 24, -cone / 2, cone), new THREE.MeshBasicMaterial({ color, transparent: true, opacity: 0.2, side: THREE.DoubleSide, forceSinglePass: true, depthWrite: false }))
      const dot = this.meshes.mesh(new THREE.SphereGeometry(0.018, 12, 8), new THREE.MeshBasicMaterial({ color }))
      const group = new THREE.Group()
      group.add(fan, dot)
      this.scene.add(group)
      this.beams.push({ group, fan, dot })
    }
  }

  draw(row: Float64Array, tick: number, { rowOf, screenOf, hands }: Beside): void {
    const { layout, facts, looks } = this
    if (layout === null || facts === null || looks === null) return
    this.robot.show(row, layout, facts, screenOf)
    this.pieces.forEach((piece, i) => {
      const p = layout.pieces + 7 * i
      piece.put(row[p]!, row[p + 1]!, row[p + 2]!, row[p + 3]!, row[p + 4]!, row[p + 5]!, row[p + 6]!)
    })
    this.parts.forEach((part, i) => {
      const p = layout.parts + 7 * i
      part.position.set(row[p]!, row[p + 1]!, row[p + 2]!)
      part.quaternion.set(row[p + 3]!, row[p + 4]!, row[p + 5]!, row[p + 6]!)
    })
    this.visitors.forEach(({ placed, yaw }, i) => {
      const v = layout.visitors + 3 * i
      placed.stand(row[v]!, row[v + 1]!, row[v + 2]!, yaw)
    })
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
    this.hands.show(placesOf(hands, row, layout, looks), this.color('paint-grey'))
    this.drawTrail(tick, rowOf, layout.body)
    if (this.eye.goesAlong) this.eye.frame()
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
    this.renderer.render(this.scene, this.eye.camera)
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
      this.renderer.render(this.scene, this.eye.camera)
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
    this.eye.resize(width, height)
    this.renderer.render(this.scene, this.eye.camera)
  }

  private applySize(): void {
    this.renderer.setPixelRatio(Math.min(globalThis.devicePixelRatio || 1, 1.5) * this.fineness)
    this.renderer.setSize(this.width, this.height, false)
  }

  turnEye(around: number, up: number): void { this.eye.turn(around, up) }
  setFrame(frame: Frame): void { this.eye.setFrame(frame) }
  rest(): void { this.eye.rest() }
  pan(dx: number, dy: number): void { this.eye.pan(dx, dy) }
  zoom(factor: number, x: number, y: number): void { this.eye.zoom(factor, x, y) }

  measure(): void { /* Lengths are told from above, where they are true. */ }
  measured(): null { return null }

  dispose(): void {
    if (this.settling !== null) clearTimeout(this.settling)
    this.clear()
    this.hands.dispose()
    this.trail.geometry.dispose();
    (this.trail.material as THREE.Material).dispose()
    this.renderer.dispose()
  }
}
