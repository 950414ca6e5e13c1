import type { LightField } from '../arena'
import { REFLECTS } from '../colors'
import type { Surroundings } from '../devices'
import { Solid, type BodyState, type Pose, type Scene, type Surface, type Vector } from '../geometry'
import type { BodyId } from '../physics'
import { seatOf, within, type RobotDevice } from '../robot'
import { STORE, type BuiltWorld } from './build'

/** A hand held upright, its palm towards the sensor: half of its thickness, width and length, metres. */
export const PALM = { shape: 'box', hx: 0.012, hy: 0.05, hz: 0.09 } as const
/** A grey glove: no sensor takes it for one of the paints that things have, and it answers sound from every side. */
const GLOVE: Surface = { friction: 0.5, echo: 'rough', paint: REFLECTS.grey, steel: false, tag: null, part: null }
/** How far before an eye the hand is that covers it, metres: lenses draw from 4 mm on. */
const ON_THE_EYE = 0.005
/** Newtons of a finger: more than any switch takes. */
const PRESS = 60

/** Nothing comes through a hand. */
const DARK: LightField = { ambient: () => 0, at: () => 0 }

/** A device before which hands can be: whatever looks along its mount. */
interface Eye {
  readonly name: string
  readonly body: BodyState
  readonly seat: Pose
  readonly solid: Solid
  /** What it sees while nothing covers it. */
  readonly open: Surroundings
  /** What it sees of a hand on it. */
  readonly shut: Surroundings
  /** Metres from the eye to the hand; null while there is none. */
  distance: number | null
  covered: boolean
}

export interface HandsSnapshot {
  readonly before: readonly { readonly device: string, readonly distance: number | null, readonly covered: boolean }[]
  readonly pressing: readonly string[]
  readonly light: number
  readonly away: readonly { readonly piece: string, readonly pose: Pose }[]
}

/** Light that a hand on the switch makes weaker or stronger. */
export class Dimmer implements LightField {
  /** So many times what the arena says. */
  share = 1
  constructor(private readonly arena: LightField) {}
  ambient(time: number): number { return this.arena.ambient(time) * this.share }
  at(place: Vector, facing: Vector, time: number, scene: Scene): number { return this.arena.at(place, facing, time, scene) * this.share }
}

/** What hands hold, cover, press and keep for as long as they do: before sensors, on switches, at the lamps, and pieces that were taken away. */
export class Hands {
  /** Those that are pressed. */
  readonly pressing = new Set<string>()
  private readonly eyes: readonly Eye[]
  /** Pieces that were taken away, and where they stood. */
  private readonly away = new Map<string, Pose>()

  /**
   * `viewOf`: what a device sees. `see`: has it see something else from now on. Hands in sight are added to `scene` and to `views`,
   * the lists of what can be seen.
   */
  constructor(
    devices: readonly RobotDevice[], private readonly world: BuiltWorld, private readonly lamps: Dimmer, stateOf: (on: string | null) => BodyState,
    viewOf: (on: string | null) => Surroundings, private readonly see: (device: string, around: Surroundings) => void, private readonly views: () => readonly Solid[][],
  ) {
    this.eyes = devices.filter(d => d.kind.hand === 'eye').map((d): Eye => {
      const open = viewOf(d.on)
      const solid = new Solid(`hand:${d.name}`, PALM, GLOVE, { x: 0, y: 0, z: STORE }, { x: 0, y: 0, z: 0, w: 1 })
      const shut = Object.create(open, { solids: { value: [solid] }, light: { value: DARK } }) as Surroundings
      return { name: d.name, body: stateOf(d.on), seat: seatOf(d.mount), solid, open, shut, distance: null, covered: false }
    })
  }

  /** Whether a hand can be held before it. */
  hasEye(device: string): boolean { return this.eyes.some(e => e.name === device) }

  /** Newtons of a finger on a device's pad. */
  pressOn(device: string): number { return this.pressing.has(device) ? PRESS : 0 }

  /** Holds a hand before a device, at a distance in metres from it; null takes it away. */
  hold(device: string, distance: number | null): void { this.change(device, (eye) => { eye.distance = distance }) }

  /** Covers a device's eye, or not. */
  cover(device: string, covered: boolean): void { this.change(device, (eye) => { eye.covered = covered }) }

  get light(): number { return this.lamps.share }
  set light(share: number) { this.lamps.share = share }

  isAway(piece: string): boolean { return this.away.has(piece) }

  /** Takes a piece out of the arena. */
  take(piece: string, body: BodyId): void {
    const { physics } = this.world
    const pose = physics.readPose(body)
    this.away.set(piece, pose)
    physics.put(body, { position: { x: pose.position.x, y: pose.position.y, z: STORE }, rotation: pose.rotation })
    physics.setPresent(body, false)
  }

  /** Puts a piece that was taken back to where it stood, or at another pose. */
  giveBack(piece: string, body: BodyId, pose = this.away.get(piece)): void {
    if (pose === undefined) return
    this.away.delete(piece)
    this.world.physics.setPresent(body, true)
    this.world.physics.put(body, pose)
  }

  /** Hands go with what carries the sensor that they are held before. */
  place(): void {
    for (const eye of this.eyes) {
      if (eye.distance === null && !eye.covered) continue
      const { position, rotation } = within(within(eye.body.pose, eye.seat), { position: { x: (eye.covered ? ON_THE_EYE : eye.distance!) + PALM.hx, y: 0, z: 0 }, rotation: { x: 0, y: 0, z: 0, w: 1 } })
      eye.solid.place(position, rotation)
    }
  }

  private change(device: string, set: (eye: Eye) => void): void {
    const eye = this.eyes.find(e => e.name === device)
    if (eye === undefined) return
    set(eye)
    this.show()
  }

  /** Puts the hands that are there, in the order of the devices, into the lists of what can be seen. */
  private show(): void {
    const there = this.eyes.filter(e => e.distance !== null || e.covered).map(e => e.solid)
    for (const list of this.views()) {
      for (let i = list.length - 1; i >= 0; i--) if (this.eyes.some(e => e.solid === list[i])) list.splice(i, 1)
      list.push(...there)
    }
    for (const eye of this.eyes) this.see(eye.name, eye.covered ? eye.shut : eye.open)
    this.place()
  }

  snapshot(): HandsSnapshot {
    return {
      before: this.eyes.map(({ name, distance, covered }) => ({ device: name, distance, covered })), pressing: [...this.pressing],
      light: this.light, away: [...this.away].map(([piece, pose]) => ({ piece, pose })),
    }
  }

  restore(state: HandsSnapshot): void {
    for (const { device, distance, covered } of state.before) Object.assign(this.eyes.find(e => e.name === device)!, { distance, covered })
    this.pressing.clear()
    for (const device of state.pressing) this.pressing.add(device)
    this.light = state.light
    this.away.clear()
    for (const { piece, pose } of state.away) this.away.set(piece, pose)
    this.show()
  }
}
