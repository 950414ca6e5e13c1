import { figuresOf, isOn, solidShape, type Arena, type Figures, type PlacedPiece } from '~~/core/arena'
import type { SolidShape } from '~~/core/geometry'
import { PALM, ROBOT } from '~~/core/simulation'
import type { RobotFacts } from '~~/core/robot'
import type { TapeLayout } from '~~/core/tape'
import { deviceColor } from '~/shown/readings'
import { Glass } from '~/shown/screen'
import type { Opened } from '~/run/protocol'
import { alongHand, placesOf, type HandPlace } from './hands-shown'
import { HAND, type Beside, type Pick, type Picture, type RobotLooks } from './picture'
import { drawGround, drawWaves } from './plan-ground'
import { PlanRuler, type Measured } from './plan-ruler'
import { toWorld, type Anchor, type Frame, type PlanView, type Point } from './plan-view'
import { yawAt } from '~/shown/poses'
import { shadowOf } from '~/shown/shadow'

/** Places of the trail that are drawn, and every how many ticks one is taken. */
const TRAIL_POINTS = 700
const TRAIL_STRIDE = 6
/** Free room around the arena, metres. */
const MARGIN = 0.14

/** What is lower than this is not picked up, metres. */
const OUT_OF_REACH = -0.5

/**
 * The arena from above, drawn flat: an exact plan at every size, sharp and quick also where
 * there is no graphics card. What does not move is drawn once and kept.
 */
export class Plan implements Picture {
  private readonly ctx: CanvasRenderingContext2D
  private readonly still = document.createElement('canvas')
  private stillValid = false
  private arena: Arena | null = null
  private figures: Figures | null = null
  private layout: TapeLayout | null = null
  private facts: RobotFacts | null = null
  private looks: RobotLooks | null = null
  /** The row drawn last. */
  private row: Float64Array | null = null
  /** Hands before sensors, as they were drawn last. */
  private hands: readonly HandPlace[] = []
  private parts: Opened['parts'] = []
  private fixed: PlacedPiece[] = []
  private loose: PlacedPiece[] = []
  private width = 1
  private height = 1
  private zoomed = 1
  private ratio = 1
  private frame: Frame = 'arena'
  /** How far somebody moved the middle of the picture, metres, and turned it, radians. */
  private moved: Point = { x: 0, y: 0 }
  private turned = 0
  private readonly ruler = new PlanRuler()
  private readonly glasses = new Map<string, Glass>()

  constructor(private readonly canvas: HTMLCanvasElement, private readonly color: (name: string) => string) {
    // Kept in ordinary memory: quick everywhere, and much quicker where there is no graphics card.
    const ctx = canvas.getContext('2d', { willReadFrequently: true })
    if (ctx === null) throw new Error('no canvas')
    this.ctx = ctx
  }

  build({ arena, placed, layout, facts, parts }: Opened, looks: RobotLooks): void {
    this.arena = arena
    this.figures = figuresOf(arena)
    this.parts = parts
    this.layout = layout
    this.facts = facts
    this.looks = looks
    this.glasses.clear()
    for (const d of facts.devices) if (d.kind === 'display') this.glasses.set(d.name, new Glass(d, facts.pictures))
    this.fixed = placed.pieces.filter(p => p.fixed)
    this.loose = layout.pieceNames.map(name => placed.pieces.find(p => p.name === name)!)
    this.stillValid = false
  }

  resize(width: number, height: number): void {
    if (width < 2 || height < 2) return
    this.ratio = globalThis.devicePixelRatio || 1
    this.width = width
    this.height = height
    this.canvas.width = this.still.width = Math.round(width * this.ratio)
    this.canvas.height = this.still.height = Math.round(height * this.ratio)
    this.stillValid = false
  }

  /** What lies under (px, py) stays there. */
  zoom(factor: number, px: number, py: number): void {
    const before = this.worldAt(px, py)
    this.zoomed = Math.min(3, Math.max(0.08, this.zoomed * factor))
    const after = this.worldAt(px, py)
    if (this.frame === 'arena') this.moved = { x: this.moved.x + before.x - after.x, y: this.moved.y + before.y - after.y }
    this.stillValid = false
  }

  /** Moves the picture by page pixels. */
  pan(dx: number, dy: number): void {
    if (this.frame !== 'arena') return
    const [from, to] = [this.worldAt(0, 0), this.worldAt(dx, dy)]
    this.moved = { x: this.moved.x + from.x - to.x, y: this.moved.y + from.y - to.y }
    this.stillValid = false
  }

  turnEye(around: number): void {
    this.turned += around
    this.stillValid = false
  }

  setFrame(frame: Frame): void {
    this.frame = frame
    this.rest()
  }

  /** As it was at first: all of the arena, north upwards. */
  rest(): void {
    this.moved = { x: 0, y: 0 }
    this.turned = 0
    // With the robot one wants to see what is near it.
    this.zoomed = this.frame === 'arena' ? 1 : 0.55
    this.stillValid = false
  }

  dispose(): void { this.stillValid = false }

  /** Page pixels per metre. */
  private get scale(): number {
    const size = this.arena?.size ?? [2, 2]
    return Math.min(this.width / (size[0] + 2 * MARGIN), this.height / (size[1] + 2 * MARGIN)) / this.zoomed
  }

  private get view(): PlanView {
    const [w, h] = this.arena?.size ?? [2, 2]
    const { frame, row, layout, scale } = this
    if (frame === 'arena' || row === null || layout === null) return { x: w / 2 + this.moved.x, y: h / 2 + this.moved.y, scale, turn: this.turned }
    const b = layout.body
    return { x: row[b]!, y: row[b + 1]!, scale, turn: this.turned + (frame === 'robot' ? Math.PI / 2 - yawAt(row, b + 3) : 0) }
  }

  private worldAt(px: number, py: number): Point { return toWorld(this.view, this.width, this.height, { x: px, y: py }) }

  /** Metres from here on: x east, y north. */
  private inMetres(ctx: CanvasRenderingContext2D): void {
    const { x, y, scale, turn } = this.view
    const [c, s] = [scale * this.ratio * Math.cos(turn), scale * this.ratio * Math.sin(turn)]
    ctx.setTransform(c, -s, -s, -c, this.canvas.width / 2 - c * x + s * y, this.canvas.height / 2 + s * x + c * y)
  }

  private drawStill(): void {
    const { arena, figures } = this
    const ctx = this.still.getContext('2d', { willReadFrequently: true })
    if (arena === null || figures === null || ctx === null) return
    const { color } = this
    ctx.setTransform(this.ratio, 0, 0, this.ratio, 0, 0)
    ctx.fillStyle = color(arena.surround === 'water' ? 'water' : 'ground')
    ctx.fillRect(0, 0, this.width, this.height)
    if (arena.surround === 'water') drawWaves(ctx, color('wave'), this.width, this.height)
    this.inMetres(ctx)
    drawGround(ctx, figures, color, 1 / this.scale)
    for (const piece of this.fixed) this.piece(ctx, piece, piece.at[0], piece.at[1], -piece.turn)
    this.stillValid = true
  }

  /** Lamps as rings, filled while they are on. */
  private lamps(time: number, light: number): void {
    const { ctx, color, figures } = this
    for (const lamp of figures?.lights ?? []) {
      ctx.beginPath()
      ctx.arc(lamp.at[0], lamp.at[1], 0.03, 0, 2 * Math.PI)
      ctx.fillStyle = color('paint-yellow')
      ctx.globalAlpha = isOn(lamp.on, time) ? 0.15 + 0.85 * Math.min(1, light) : 0.15
      ctx.fill()
      ctx.globalAlpha = 1
      ctx.strokeStyle = color('ink')
      ctx.lineWidth = 1.2 / this.scale
      ctx.stroke()
    }
  }

  private piece(ctx: CanvasRenderingContext2D, piece: PlacedPiece, x: number, y: number, yaw: number): void {
    const { body } = piece
    ctx.save()
    ctx.translate(x, y)
    ctx.rotate(yaw)
    ctx.fillStyle = this.color(`paint-${piece.color}`)
    ctx.strokeStyle = this.color('ink')
    ctx.lineWidth = 1.2 / this.scale
    ctx.beginPath()
    if (body.shape !== 'box') ctx.arc(0, 0, body.diameter / 2, 0, 2 * Math.PI)
    else ctx.rect(-body.length / 2, -body.width / 2, body.length, body.width)
    ctx.fill()
    ctx.globalAlpha = 0.6
    ctx.stroke()
    if (body.shape === 'cylinder') {
      ctx.beginPath()
      ctx.arc(0, 0, body.diameter * 0.32, 0, 2 * Math.PI)
      ctx.globalAlpha = 0.25
      ctx.strokeStyle = this.color('paint-white')
      ctx.stroke()
    }
    ctx.restore()
  }

  /** A piece that leans or lies, as its shadow falls straight down. */
  private fallen(piece: PlacedPiece, row: Float64Array, at: number): void {
    const { ctx } = this
    this.outline(shadowOf(solidShape(piece.body), row, at))
    ctx.fillStyle = this.color(`paint-${piece.color}`)
    ctx.fill()
    ctx.strokeStyle = this.color('ink')
    ctx.lineWidth = 1.2 / this.scale
    ctx.stroke()
  }
  private outline(corners: readonly (readonly [number, number])[]): void {
    const { ctx } = this
    ctx.beginPath()
    corners.forEach(([x, y], i) => { if (i === 0) ctx.moveTo(x, y); else ctx.lineTo(x, y) })
    ctx.closePath()
  }

  alongHand(device: string, px: number, py: number): number | null {
    const hand = this.hands.find(h => h.device === device)
    const { x, y } = this.worldAt(px, py)
    return hand === undefined ? null : alongHand(hand, x, y)
  }

  pick(px: number, py: number): Pick | null {
    const { arena, layout, looks, row } = this
    if (arena === null || layout === null || looks === null || row === null) return null
    const { x, y } = this.worldAt(px, py)
    const away = (at: number): number => Math.hypot(row[at]! - x, row[at + 1]! - y)
    const hand = this.hands.find(h => Math.hypot(h.x - x, h.y - y) < PALM.hy)
    if (hand !== undefined) return { what: HAND + hand.device, x, y }
    // What no feeder has put out yet waits far below; what lies on the harbour's bed is out of reach as well.
    const piece = this.loose.findIndex((p, i) => row[layout.pieces + 7 * i + 2]! > OUT_OF_REACH && away(layout.pieces + 7 * i) < (p.body.shape === 'box' ? Math.max(p.body.length, p.body.width) / 2 : p.body.diameter / 2) + 0.01)
    if (piece !== -1) return { what: layout.pieceNames[piece]!, x, y }
    return { what: away(layout.body) < Math.max(looks.length, looks.width) / 2 ? ROBOT : null, x, y }
  }

  draw(row: Float64Array, tick: number, { rowOf, screenOf, hands }: Beside): void {
    const { ctx, layout, facts, looks } = this
    if (layout === null || facts === null || looks === null) return
    this.row = row
    if (!this.stillValid || this.frame !== 'arena') this.drawStill()
    ctx.setTransform(1, 0, 0, 1, 0, 0)
    ctx.drawImage(this.still, 0, 0)
    this.inMetres(ctx)
    this.trail(tick, rowOf, layout.body)
    this.loose.forEach((piece, i) => {
      const p = layout.pieces + 7 * i
      const z = row[p + 2]!
      // What a feeder still keeps is nowhere yet.
      if (z < -5) return
      ctx.globalAlpha = z < -0.05 ? 0.35 : 1
      if (lies(row, p + 3) && piece.body.shape !== 'ball') this.fallen(piece, row, p)
      else this.piece(ctx, piece, row[p]!, row[p + 1]!, yawAt(row, p + 3))
    })
    ctx.globalAlpha = 1
    this.lamps(tick * layout.dt, hands.light)
    layout.visitorNames.forEach((name, i) => {
      const visitor = this.figures?.walking.find(v => v.id === name)
      if (visitor === undefined) return
      ctx.fillStyle = this.color(visitor.tint)
      ctx.beginPath()
      const { shape } = visitor
      ctx.arc(row[layout.visitors + 3 * i]!, row[layout.visitors + 3 * i + 1]!, shape.shape === 'box' ? Math.min(shape.hx, shape.hy) : shape.radius, 0, 2 * Math.PI)
      ctx.fill()
      ctx.strokeStyle = this.color('ink')
      ctx.lineWidth = 1.5 / this.scale
      ctx.stroke()
    })
    layout.beamDevices.forEach((name, i) => this.beam(row, layout.beams + 7 * i, name))
    for (const [name, glass] of this.glasses) glass.show(screenOf(name), this.color('bar'), this.color('on-bar'))
    this.robot(row, layout, facts, looks)
    this.parts.forEach((part, i) => this.part(part.shape, row, layout.parts + 7 * i, part.device))
    this.hands = placesOf(hands, row, layout, looks)
    for (const hand of this.hands) this.hand(hand)
    this.ruler.draw(ctx, this.anchors(), this.color('ink'), 1 / this.scale)
  }

  /** All that a ruler can be laid to, as it stands now: the robot, its devices, pieces and fixed things. */
  private anchors(): readonly Anchor[] {
    const { row, layout, looks } = this
    if (row === null || layout === null || looks === null) return []
    const b = layout.body
    const yaw = yawAt(row, b + 3)
    const [c, s] = [Math.cos(yaw), Math.sin(yaw)]
    const reach = ({ body }: PlacedPiece): number => body.shape !== 'box' ? body.diameter / 2 : Math.min(body.length, body.width) / 2
    return [
      { name: ROBOT, x: row[b]!, y: row[b + 1]!, reach: Math.min(looks.length, looks.width) / 2 },
      ...looks.devices.filter(d => d.onChassis).map(d => ({ name: d.name, x: row[b]! + d.forward * c - d.left * s, y: row[b + 1]! + d.forward * s + d.left * c, reach: 0 })),
      ...this.loose.map((p, i) => ({ name: layout.pieceNames[i]!, x: row[layout.pieces + 7 * i]!, y: row[layout.pieces + 7 * i + 1]!, reach: reach(p) })),
      ...this.fixed.map(p => ({ name: p.name, x: p.at[0], y: p.at[1], reach: reach(p) })),
    ]
  }

  measure(ends: readonly [Point, Point] | null): void {
    const at = ({ x, y }: Point): Point => this.worldAt(x, y)
    this.ruler.lay(ends === null ? null : [at(ends[0]), at(ends[1])], this.anchors(), 5 / this.scale)
  }

  measured(): Measured | null { return this.ruler.measured(this.anchors()) }

  /** A moving part of the robot, as its shadow falls straight down. */
  private part(shape: SolidShape, row: Float64Array, at: number, device: string | null): void {
    const { ctx } = this
    this.outline(shadowOf(shape, row, at))
    ctx.fillStyle = this.color('hull')
    ctx.fill()
    ctx.strokeStyle = device === null ? this.color('tyre') : this.color(deviceColor(this.facts!, device))
    ctx.lineWidth = 2 / this.scale
    ctx.stroke()
  }

  /** A hand before a sensor, as a palm from above. */
  private hand({ x, y, along }: HandPlace): void {
    const { ctx } = this
    const level = Math.hypot(along[0], along[1])
    ctx.save()
    ctx.translate(x, y)
    if (level > 0.2) ctx.rotate(Math.atan2(along[1], along[0]))
    // One that is held level is seen as wide as it is long.
    const thick = level > 0.2 ? PALM.hx : PALM.hy
    ctx.beginPath()
    ctx.roundRect(-thick, -PALM.hy, 2 * thick, 2 * PALM.hy, PALM.hx)
    ctx.fillStyle = this.color('paint-grey')
    ctx.fill()
    ctx.strokeStyle = this.color('ink')
    ctx.lineWidth = 1.6 / this.scale
    ctx.stroke()
    ctx.restore()
  }

  private trail(tick: number, pathOf: (tick: number) => Float64Array | null, body: number): void {
    const { ctx } = this
    const r = 1.6 / this.scale
    ctx.fillStyle = this.color('signal')
    ctx.globalAlpha = 0.5
    ctx.beginPath()
    const first = Math.max(0, tick - TRAIL_POINTS * TRAIL_STRIDE)
    let px = Infinity
    let py = Infinity
    for (let t = first - first % TRAIL_STRIDE; t <= tick; t += TRAIL_STRIDE) {
      const row = pathOf(t)
      if (row === null) continue
      const x = row[body]!
      const y = row[body + 1]!
      // Dots as far apart as a person can tell them, so that standing leaves one.
      if (Math.abs(x - px) + Math.abs(y - py) < 0.02) continue
      px = x
      py = y
      ctx.moveTo(x + r, y)
      ctx.arc(x, y, r, 0, 2 * Math.PI)
    }
    ctx.fill()
    ctx.globalAlpha = 1
  }

  private beam(row: Float64Array, at: number, name: string): void {
    const { ctx } = this
    const cone = this.looks!.devices.find(d => d.name === name)?.cone ?? 0.05
    const ox = row[at]!
    const oy = row[at + 1]!
    const dx = row[at + 3]! - ox
    const dy = row[at + 4]! - oy
    const length = Math.hypot(dx, dy)
    const yaw = Math.atan2(dy, dx)
    const met = row[at + 6] === 1
    ctx.fillStyle = this.color(deviceColor(this.facts!, name))
    ctx.globalAlpha = met ? 0.22 : 0.09
    ctx.beginPath()
    ctx.moveTo(ox, oy)
    ctx.arc(ox, oy, length, yaw - cone / 2, yaw + cone / 2)
    ctx.closePath()
    ctx.fill()
    ctx.globalAlpha = 1
    if (!met) return
    ctx.strokeStyle = ctx.fillStyle
    ctx.lineWidth = 2 / this.scale
    ctx.beginPath()
    ctx.arc(ox, oy, length, yaw - cone / 2, yaw + cone / 2)
    ctx.stroke()
    ctx.beginPath()
    ctx.arc(row[at + 3]!, row[at + 4]!, 4 / this.scale, 0, 2 * Math.PI)
    ctx.fill()
  }

  private robot(row: Float64Array, layout: TapeLayout, facts: RobotFacts, looks: RobotLooks): void {
    const { ctx, color } = this
    const b = layout.body
    ctx.save()
    ctx.translate(row[b]!, row[b + 1]!)
    ctx.rotate(yawAt(row, b + 3))
    ctx.lineWidth = 2 / this.scale
    const { wheel } = looks
    ctx.fillStyle = color('tyre')
    for (const side of wheel === null ? [] : [1, -1]) {
      if (wheel === null) break
      ctx.beginPath()
      ctx.roundRect(wheel.forward - wheel.radius, side * wheel.track / 2 - wheel.width / 2, wheel.radius * 2, wheel.width, wheel.width / 3)
      ctx.fill()
    }
    ctx.fillStyle = color('hull')
    ctx.strokeStyle = color('tyre')
    ctx.beginPath()
    ctx.roundRect(-looks.length / 2, -looks.width / 2, looks.length, looks.width, 0.018)
    ctx.fill()
    ctx.stroke()
    ctx.fillStyle = color('tyre')
    ctx.beginPath()
    ctx.moveTo(0.026, 0)
    ctx.lineTo(-0.022, 0.024)
    ctx.lineTo(-0.022, -0.024)
    ctx.fill()
    for (const device of looks.devices.filter(d => d.onChassis)) {
      const known = facts.devices.find(d => d.name === device.name)
      ctx.save()
      ctx.translate(device.forward, device.left)
      ctx.rotate(device.yaw)
      ctx.fillStyle = color(deviceColor(facts, device.name))
      const glass = this.glasses.get(device.name)
      if (device.glass !== null && glass !== undefined) {
        // It lies on the robot's back and reads well for who stands behind it.
        const { width, height } = glass.canvas
        const dot = device.glass / width
        ctx.transform(0, -dot, -dot, 0, 0, 0)
        ctx.imageSmoothingEnabled = true
        ctx.drawImage(glass.canvas, -width / 2, -height / 2)
      } else if (device.pad !== null) {
        const pressed = known !== undefined && row[layout.readings + known.first] === 1
        if (pressed) ctx.fillStyle = color('signal')
        const thick = pressed ? 0.02 : 0.012
        ctx.fillRect(0, -device.pad.width / 2, thick, device.pad.width)
      } else {
        ctx.beginPath()
        ctx.arc(0, 0, 0.011, 0, 2 * Math.PI)
        ctx.fill()
      }
      ctx.restore()
    }
    ctx.restore()
  }
}

/** Whether what has this rotation does not stand upright: by more than 8 degrees. */
function lies(row: Float64Array, q: number): boolean {
  const [x, y] = [row[q]!, row[q + 1]!]
  return 1 - 2 * (x * x + y * y) < 0.99
}
