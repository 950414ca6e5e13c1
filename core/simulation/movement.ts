import type { Arena, Belt, Visitor } from '../arena'
import { motorShare, type DeviceModel } from '../devices'
import { somePose, yawQuaternion, type MutableVector } from '../geometry'
import { cos, sin } from '../maths'
import type { BodyId } from '../physics'
import type { BuiltWorld } from './build'

interface Feed { readonly piece: string, readonly body: BodyId, readonly at: number, readonly x: number, readonly y: number, readonly z: number, readonly turn: number }

/** What moves in an arena by a plan of its own: visitors, belts, and what feeders put on them. */
export class Movement {
  private readonly feeds: readonly Feed[]
  private readonly motors: readonly (DeviceModel | null)[]
  private fed = 0
  /** For when visitors were placed last, seconds: the sum of steps that it was, to the bit. */
  private placedFor = 0
  /** Where what is being moved is, upright, and how fast it goes. */
  private readonly there = somePose()
  private readonly along: MutableVector = { x: 0, y: 0, z: 0 }

  constructor(private readonly arena: Arena, private readonly world: BuiltWorld, motorOf: (name: string) => DeviceModel | null) {
    this.motors = arena.belts.map(b => b.motor === null ? null : motorOf(b.motor))
    this.feeds = world.pieces.flatMap((p): Feed[] => p.placed.fed === null || p.placed.fed <= 0 || p.body === null ? [] : [{
      piece: p.name, body: p.body, at: p.placed.fed, x: p.placed.at[0], y: p.placed.at[1], z: p.placed.up + p.solid.shape.hz, turn: p.placed.turn,
    }]).sort((a, b) => a.at - b.at)
  }

  /** Sets all on their way for the step that begins at `time`; calls with each piece that a feeder puts out. */
  step(time: number, dt: number, feeds: (piece: string) => void): void {
    const { physics } = this.world
    for (let next = this.feeds[this.fed]; next !== undefined && time >= next.at - 1e-9; next = this.feeds[this.fed]) {
      physics.setPresent(next.body, true)
      physics.put(next.body, { position: { x: next.x, y: next.y, z: next.z }, rotation: yawQuaternion(-next.turn) })
      this.fed++
      feeds(next.piece)
    }
    const { belts, visitors } = this.arena
    for (let i = 0; i < belts.length; i++) this.runBelt(belts[i]!, i)
    this.placedFor = time + dt
    for (let i = 0; i < visitors.length; i++) {
      this.place(visitors[i]!, i)
      physics.moveTo(this.world.visitors[i]!.body, this.there)
    }
  }

  private runBelt(belt: Belt, i: number): void {
    const model = this.motors[i] ?? null
    const speed = belt.motor === null ? belt.speed : model === null ? 0 : belt.speed * (motorShare(model) ?? 0)
    const { body, solid } = this.world.belts[i]!
    const { there: { position }, along } = this
    position.x = solid.px
    position.y = solid.py
    position.z = solid.pz
    along.x = speed * cos(belt.turn)
    along.y = -speed * sin(belt.turn)
    along.z = 0
    this.world.physics.runBelt(body, position, along)
  }

  /** Puts a visitor's solid where he is, `there`. */
  private place(visitor: Visitor, i: number): void {
    const { position, rotation } = this.there
    visitorAt(visitor, this.placedFor, position)
    position.z = visitor.height / 2
    this.world.visitors[i]!.solid.place(position, rotation)
  }

  snapshot(): unknown { return { fed: this.fed, placedFor: this.placedFor } }

  /** Back to a state; visitors stand where they were then. */
  restore(state: unknown): void {
    const { fed, placedFor } = state as { fed: number, placedFor: number }
    this.fed = fed
    this.placedFor = placedFor
    this.arena.visitors.forEach((visitor, i) => this.place(visitor, i))
  }
}

/** Metres of one stretch of a visitor's path. */
function stretch(path: Visitor['path'], i: number): number {
  const dx = path[i + 1]![0] - path[i]![0]
  const dy = path[i + 1]![1] - path[i]![1]
  return Math.sqrt(dx * dx + dy * dy)
}

/** Where a visitor is on the plan at a time (seconds), written into `into`. */
export function visitorAt(visitor: Visitor, time: number, into: MutableVector = { x: 0, y: 0, z: 0 }): Readonly<MutableVector> {
  const { path } = visitor
  let all = 0
  for (let i = 0; i + 1 < path.length; i++) all += stretch(path, i)
  let way = Math.max(0, time - visitor.begins) * visitor.speed
  if (visitor.returns && all > 0) {
    way %= 2 * all
    if (way > all) way = 2 * all - way
  }
  for (let i = 0; i + 1 < path.length; i++) {
    const long = stretch(path, i)
    if (way <= long && long > 0) {
      const share = way / long
      into.x = path[i]![0] + share * (path[i + 1]![0] - path[i]![0])
      into.y = path[i]![1] + share * (path[i + 1]![1] - path[i]![1])
      return into
    }
    way -= long
  }
  const last = path[path.length - 1]!
  into.x = last[0]
  into.y = last[1]
  return into
}
