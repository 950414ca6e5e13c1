import { PALM, type Poke } from '~~/core/simulation'
import type { Tape, TapeLayout } from '~~/core/tape'
import { yawAt } from '~/shown/poses'
import type { RobotLooks } from './picture'

/** The nearest that a hand is held, metres. */
export const NEAREST = 0.01

/** Hands as they are at an instant, as the tape tells it. */
export interface HandsShown {
  /** Metres from a device to the hand before it; 0 for a hand that covers it. */
  readonly before: ReadonlyMap<string, number>
  /** So many times the light of the arena. */
  readonly light: number
}

/** Of a tape, the pokes that stay until they are taken back, as far as they were looked through. */
interface Known { seen: number, readonly pokes: { readonly tick: number, readonly poke: Poke }[] }
const known = new WeakMap<Tape, Known>()

/** Hands at a tick of a tape. */
export function handsOn(tape: Tape, tick: number): HandsShown {
  let mine = known.get(tape)
  if (mine === undefined) known.set(tape, mine = { seen: 0, pokes: [] })
  for (; mine.seen < tape.events.length; mine.seen++) {
    const { tick, poke } = tape.events[mine.seen]!
    const what = (poke as Poke | undefined)?.poke
    if (what === 'hand' || what === 'cover' || what === 'dim') mine.pokes.push({ tick, poke: poke as Poke })
  }
  const before = new Map<string, number>()
  const covered = new Set<string>()
  let light = 1
  for (const { tick: then, poke } of mine.pokes) {
    if (then > tick) break
    if (poke.poke === 'dim') light = poke.to
    else if (poke.poke === 'cover') covered[poke.on ? 'add' : 'delete'](poke.device)
    else if (poke.poke !== 'hand') continue
    else if (poke.distance === null) before.delete(poke.device)
    else before.set(poke.device, poke.distance)
  }
  for (const device of covered) before.set(device, 0)
  return { before, light }
}

/** Where a hand is held, metres: its middle, the eye before which it is, and which way that looks (of length 1; 0, 0 on the plan where it looks straight down or up). */
export interface HandPlace { readonly device: string, readonly x: number, readonly y: number, readonly z: number, readonly from: readonly [number, number, number], readonly along: readonly [number, number, number] }

const UNSEEN: readonly HandPlace[] = []

/** Where hands are in a row of the tape; those before what neither shows a beam nor sits on the chassis are left out. */
export function placesOf({ before }: HandsShown, row: Float64Array, layout: TapeLayout, looks: RobotLooks): readonly HandPlace[] {
  if (before.size === 0) return UNSEEN
  const places: HandPlace[] = []
  for (const [device, distance] of before) {
    const eye = eyeOf(device, row, layout, looks)
    if (eye === null) continue
    const far = distance + PALM.hx
    places.push({ device, ...eye, x: eye.from[0] + far * eye.along[0], y: eye.from[1] + far * eye.along[1], z: eye.from[2] + far * eye.along[2] })
  }
  return places
}

function eyeOf(device: string, row: Float64Array, layout: TapeLayout, looks: RobotLooks): Pick<HandPlace, 'from' | 'along'> | null {
  const beam = layout.beamDevices.indexOf(device)
  if (beam !== -1) {
    const at = layout.beams + 7 * beam
    const [ox, oy, oz, ex, ey, ez] = row.subarray(at, at + 6) as unknown as readonly [number, number, number, number, number, number]
    const long = Math.hypot(ex - ox, ey - oy, ez - oz)
    if (long > 0) return { from: [ox, oy, oz], along: [(ex - ox) / long, (ey - oy) / long, (ez - oz) / long] }
  }
  const look = looks.devices.find(d => d.name === device)
  if (look?.onChassis !== true) return null
  const [x, y] = [row[layout.body]!, row[layout.body + 1]!]
  const yaw = yawAt(row, layout.body + 3)
  const [c, s] = [Math.cos(yaw), Math.sin(yaw)]
  const level = Math.cos(look.pitch)
  return {
    from: [x + look.forward * c - look.left * s, y + look.forward * s + look.left * c, look.up],
    along: [level * Math.cos(yaw + look.yaw), level * Math.sin(yaw + look.yaw), Math.sin(look.pitch)],
  }
}

/** How far a place of the plan is along the way that a hand is held, metres: as near as a hand comes, at least. */
export function alongHand({ from, along }: HandPlace, x: number, y: number): number | null {
  const level = Math.hypot(along[0], along[1])
  if (level < 0.2) return null
  return Math.max(NEAREST, ((x - from[0]) * along[0] + (y - from[1]) * along[1]) / (level * level) - PALM.hx)
}
