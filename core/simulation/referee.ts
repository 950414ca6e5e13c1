import { GROUND, PART_OF, WALL, type Arena } from '../arena'
import type { GoalState, GoalWorld, Task } from '../task'
import type { PhysicalRig } from './physical-rig'

/** How strong a knock of the robot's body is: what the lightest counts, and by how much a metre a second adds. */
const KNOCK_LEAST = 0.12
const KNOCK_PER_SPEED = 1.6
/** A thing let go and touched again within this time is the same contact, seconds. */
const SAME_CONTACT = 0.25
/** The robot has fallen when its centre is this far below where it rides, metres. */
const FALLEN = 0.05
/** So long after a fall the run ends, seconds: the fall is seen. */
const FALL_TIME = 1

/** What a referee tells. */
export type Call = (type: 'contact' | 'fall' | 'goal' | 'held', text: string, about: string) => void

export interface RefereeSnapshot {
  readonly goals: readonly GoalState[]
  readonly fell: boolean
  readonly fallenFor: number
  readonly touching: readonly (readonly [string, number])[]
  readonly touched: readonly { readonly name: string, readonly kind: string }[]
  readonly lastTouch: readonly (readonly [string, number])[]
  readonly counts: { readonly contacts: number, readonly falls: number }
}

/** Counts contacts and falls, and says how the goals of a task stand. */
export class Referee {
  readonly goals: GoalState[]
  contacts = 0
  falls = 0
  private readonly kinds = new Map<string, string>()
  private readonly touching = new Map<string, number>()
  private readonly lastTouch = new Map<string, number>()
  private touched: { name: string, kind: string }[] = []
  private fell = false
  private fallenFor = 0
  private readonly world: { -readonly [K in keyof GoalWorld]: GoalWorld[K] }

  constructor(private readonly task: Task | null, arena: Arena, private readonly rig: PhysicalRig, private readonly height: number, private readonly call: Call) {
    for (const piece of rig.world.pieces) this.kinds.set(piece.name, piece.kind)
    for (const mover of [...rig.world.visitors, ...rig.world.belts]) this.kinds.set(mover.name, mover.kind)
    for (const crate of arena.crates) this.kinds.set(crate.name, 'crate')
    this.goals = task === null ? [] : task.goals.map(g => g.kind.begin(g.parameters))
    this.world = {
      time: 0, body: rig.body, hull: rig.hull, pieces: rig.world.pieces, touched: this.touched, visitors: rig.world.visitors, fell: false, finished: false, path: 0, light: 1,
      acts: device => rig.acts(device),
      onDeck: (x, y) => rig.onDeck(x, y), arena, holds: piece => rig.limbs.holding.has(piece), others: rig.world.scene.solids.filter(solid => solid.surface.part === null),
    }
  }

  /** The robot began or ended to touch something, by what the physics calls it. */
  contact(other: string, began: boolean, time: number): void {
    if (other.startsWith(GROUND) || other === 'robot') return
    const count = Math.max(0, (this.touching.get(other) ?? 0) + (began ? 1 : -1))
    this.touching.set(other, count)
    if (!began || count !== 1) {
      if (count === 0) this.lastTouch.set(other, time)
      return
    }
    if (time - (this.lastTouch.get(other) ?? -Infinity) < SAME_CONTACT) return
    const name = other.startsWith(WALL) ? 'wall' : other.split(PART_OF)[0]!
    this.contacts++
    this.touched.push({ name, kind: other.startsWith(WALL) ? 'wall' : this.kinds.get(name) ?? '' })
    const { x, y } = this.rig.body.velocity
    this.rig.sound.knock(Math.min(1, KNOCK_LEAST + KNOCK_PER_SPEED * Math.sqrt(x * x + y * y)), time)
    this.call('contact', `touched ${name}`, name)
  }

  /** Whether the robot fell, and for how long it has: true when that ends the run. After everything moved, once a tick. */
  fall(): boolean {
    const fallen = this.rig.body.pose.position.z < this.height - FALLEN
    if (fallen && !this.fell) {
      this.falls++
      this.call('fall', 'fell off the deck', 'robot')
    }
    this.fell = fallen
    if (fallen) this.fallenFor += this.rig.facts.tick
    return this.fallenFor > FALL_TIME && this.task?.fallsGoOn !== true
  }

  /** How the goals stand at a time (s), after everything moved. `over`: the run has ended, and what is open is lost. */
  judge(time: number, finished: boolean, over: boolean): void {
    // What is held when all is over was not put down anywhere: whoever counted on that is told.
    if (over) for (const { device, thing } of this.rig.limbs.holding.held) this.call('held', `still holds ${thing.name}`, device)
    const { task, world } = this
    if (task !== null) {
      world.time = time
      world.touched = this.touched
      world.fell = this.fell
      world.light = this.rig.lightNow
      world.finished = finished
      world.path = this.rig.path
      for (let i = 0; i < task.goals.length; i++) {
        const goal = task.goals[i]!
        const state = this.goals[i]!
        const before = state.status
        goal.kind.update(goal.parameters, state, world)
        if (state.status !== before) this.call('goal', state.status, goal.sentence)
      }
      if (over) for (const state of this.goals) settle(state, time)
    }
    if (this.touched.length > 0) this.touched = []
  }

  /** How nearly each goal is met or lost at this instant, in its own unit; null where that says nothing. */
  margins(): readonly (number | null)[] {
    return this.task?.goals.map((g, i) => g.kind.margin?.now(g.parameters, this.goals[i]!, this.world) ?? null) ?? []
  }

  snapshot(): RefereeSnapshot {
    return {
      goals: this.goals.map(g => ({ ...g, memo: [...g.memo] })), fell: this.fell, fallenFor: this.fallenFor, touching: [...this.touching],
      touched: this.touched.map(t => ({ ...t })), lastTouch: [...this.lastTouch], counts: { contacts: this.contacts, falls: this.falls },
    }
  }

  restore(state: RefereeSnapshot): void {
    state.goals.forEach((g, i) => Object.assign(this.goals[i]!, g, { memo: [...g.memo] }))
    this.fell = state.fell
    this.fallenFor = state.fallenFor
    this.contacts = state.counts.contacts
    this.falls = state.counts.falls
    this.touched = state.touched.map(t => ({ ...t }))
    this.touching.clear()
    for (const [name, count] of state.touching) this.touching.set(name, count)
    this.lastTouch.clear()
    for (const [name, time] of state.lastTouch) this.lastTouch.set(name, time)
  }
}

/** What is held to the end is met, what is open is lost. */
function settle(state: GoalState, time: number): void {
  if (state.status === 'held') { state.status = 'met'; state.at = time }
  else if (state.status === 'open') { state.status = 'failed'; state.at = null }
}
