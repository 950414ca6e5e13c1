import { object, type ObjectSchema } from 'yup'
import type { SoundField } from '../arena'
import type { Controller } from '../controller'
import { WHEEL_MODE, handOn } from '../devices'
import { plainNumber, readDocument, text, truth, type Problem, type Read, type ReadBy, type Reads } from '../document'
import { Ray, yawOf, yawQuaternion, type BodyState, type Pose } from '../geometry'
import { cos, sin } from '../maths'
import { LAST_SEED } from '../random'
import { driveOf, type Robot, type RobotFacts } from '../robot'
import { findUnit, formatQuantity } from '../units'
import type { BuiltWorld } from './build'
import type { Hands } from './hands'
import type { Limbs } from './limbs'

/** Loudness of a clap, and how long it lasts, seconds. */
const CLAP = 1
const CLAP_TIME = 0.2
/** How strong a knock on the robot's body is as its own microphone hears it: by so much a metre a second, at most 1. */
const KNOCK_HEARD = 1.6
/** The name under which pokes mean the robot. */
export const ROBOT = 'robot'
/** From so far above all that stands a hand looks for where to put a piece down, metres. */
const ABOVE = 20

/** What hands reach. */
export interface Reach {
  readonly world: BuiltWorld
  readonly robot: Robot
  readonly facts: RobotFacts
  readonly body: BodyState
  readonly limbs: Limbs
  readonly hands: Hands
  readonly sound: SoundField
  readonly controller: Controller
  readonly time: number
  /** Has all noise, and what programs draw, begin anew. */
  drawAnew(seed: number): void
}

/** What a poke came to: what the tape says, about what, and the piece (or the robot) that was moved; null when nothing came of it. */
export interface Poked { readonly text: string, readonly about: string, readonly moved: string | null }

/** A value in SI units as people read it; a plain number where there is no unit. */
function inItsUnit(value: number, name: string | null): string {
  const unit = name === null ? undefined : findUnit(name)
  return unit === undefined ? String(value) : formatQuantity(value, unit)
}
const cm = (metres: number): string => inItsUnit(metres, 'cm')
const deg = (radians: number): string => inItsUnit(radians, 'deg')

const metres = () => plainNumber().min(-1000).max(1000).required()
const radians = () => plainNumber().min(-1000).max(1000).required()
const perSecond = () => plainNumber().min(-100).max(100).required()
const name = () => text().max(80).required()

interface PokeKind<P> {
  readonly schema: Reads<P>
  /** Does it; null where there is nothing that it could be done to. */
  readonly act: (poke: P, reach: Reach) => Poked | null
}
const kind = <P extends object>(schema: Reads<P>, act: (poke: P, reach: Reach) => Poked | null): PokeKind<P> => ({ schema, act })

/** All that a hand can do in a run. SI units; headings from east to the right. */
const POKES = {
  /** Turns a dial of the program. */
  dial: kind(object({ name: name(), value: plainNumber().required() }), ({ name, value }, { controller }) =>
    controller.setDial(name, value) ? { text: `${name} = ${inItsUnit(value, controller.program?.dials.find(d => d.name === name)?.unit ?? null)}`, about: name, moved: null } : null),

  /** Puts the robot or a piece down somewhere, turned as it is or to a heading. */
  put: kind(object({ what: name(), x: metres(), y: metres(), heading: radians().nullable().defined() }), ({ what, x, y, heading }, reach) => {
    const { world, hands, robot } = reach
    const body = bodyOf(what, reach)
    if (body === null) return null
    const rotation = heading === null ? world.physics.readPose(body).rotation : yawQuaternion(-heading)
    const pose: Pose = { position: { x, y, z: what === ROBOT ? robot.height : restAt(what, x, y, reach) }, rotation }
    if (hands.isAway(what)) hands.giveBack(what, body, pose)
    else pick(what, reach, () => world.physics.put(body, pose))
    return { text: `put at ${cm(x)}, ${cm(y)}${heading === null ? '' : `, heading ${deg(heading)}`}`, about: what, moved: what }
  }),

  /** Carries the robot by exact measures: so far forward from where it stands, then turned to the right. Its wheels do not turn. */
  carry: kind(object({ forward: metres(), right: radians() }), ({ forward, right }, { world, robot, body }) => {
    if (robot.fixed) return null
    const { position, rotation } = body.pose
    const yaw = yawOf(rotation)
    world.physics.put(world.robot, {
      position: { x: position.x + forward * cos(yaw), y: position.y + forward * sin(yaw), z: position.z }, rotation: yawQuaternion(yaw - right),
    })
    return { text: [forward === 0 ? '' : `carried ${cm(forward)} forward`, right === 0 ? '' : `turned ${deg(right)} to the right`].filter(t => t !== '').join(', ') || 'carried nowhere', about: ROBOT, moved: ROBOT }
  }),

  /** Gives the robot a speed. */
  push: kind(object({ forward: perSecond(), right: perSecond() }), ({ forward, right }, { world, robot, body }) => {
    const m = body.matrix
    world.physics.strike(world.robot, { x: m[0]! * forward * robot.mass, y: m[3]! * forward * robot.mass, z: 0 }, { x: 0, y: 0, z: -right * robot.inertia.z })
    return { text: `pushed ${inItsUnit(forward, 'cm/s')} forward, ${inItsUnit(right, 'deg/s')} to the right`, about: ROBOT, moved: ROBOT }
  }),

  /** Knocks against the upper rim of a piece or against the robot: as much as gives it this speed towards a heading. */
  knock: kind(object({ what: name(), speed: perSecond(), heading: radians() }), ({ what, speed, heading }, reach) => {
    const { world, robot, body, sound, time, hands } = reach
    const id = bodyOf(what, reach)
    if (id === null || hands.isAway(what)) return null
    const piece = world.pieces.find(p => p.name === what)
    const blow = (piece?.mass ?? robot.mass) * speed
    const { x, y, z } = piece === undefined ? body.pose.position : { x: piece.solid.px, y: piece.solid.py, z: piece.solid.pz + piece.solid.shape.hz }
    world.physics.strikeAt(id, { x: blow * cos(heading), y: -blow * sin(heading), z: 0 }, { x, y, z })
    if (piece === undefined) sound.knock(Math.min(1, KNOCK_HEARD * Math.abs(speed)), time)
    return { text: `knocked, ${inItsUnit(speed, 'cm/s')} towards ${deg(heading)}`, about: what, moved: what }
  }),

  /** Takes a piece out of the arena, also out of the robot's grip. */
  take: kind(object({ what: name() }), ({ what }, reach) => {
    const body = what === ROBOT ? null : bodyOf(what, reach)
    if (body === null || reach.hands.isAway(what)) return null
    pick(what, reach, () => reach.hands.take(what, body))
    return { text: 'taken away', about: what, moved: what }
  }),

  /** Puts a piece back to where it was taken from. */
  return: kind(object({ what: name() }), ({ what }, reach) => {
    const body = what === ROBOT ? null : bodyOf(what, reach)
    if (body === null || !reach.hands.isAway(what)) return null
    reach.hands.giveBack(what, body)
    return { text: 'put back', about: what, moved: what }
  }),

  /** Holds a hand before whatever looks, so far from it, wherever it goes; null takes the hand away. */
  hand: kind(object({ device: name(), distance: plainNumber().min(0.005).max(10).nullable().defined() }), ({ device, distance }, { hands }) => {
    if (!hands.hasEye(device)) return null
    hands.hold(device, distance)
    return { text: distance === null ? 'hand away' : `hand ${cm(distance)} before it`, about: device, moved: null }
  }),

  /** Covers the eye of whatever looks, or uncovers it. */
  cover: kind(object({ device: name(), on: truth().required() }), ({ device, on }, { hands }) => {
    if (!hands.hasEye(device)) return null
    hands.cover(device, on)
    return { text: on ? 'covered' : 'uncovered', about: device, moved: null }
  }),

  /** Presses a switch, or lets it go. */
  press: kind(object({ device: name(), on: truth().required() }), ({ device, on }, { hands, facts }) => {
    if (handOn(facts.devices.find(d => d.name === device)?.kind ?? '') !== 'switch') return null
    if (on) hands.pressing.add(device)
    else hands.pressing.delete(device)
    return { text: on ? 'pressed by a finger' : 'let go', about: device, moved: null }
  }),

  /** A clap at a place: loud for a fifth of a second. */
  clap: kind(object({ x: metres(), y: metres() }), ({ x, y }, { sound, time }) => {
    sound.add({ x, y, loudness: CLAP, until: time + CLAP_TIME })
    return { text: `clap at ${cm(x)}, ${cm(y)}`, about: 'clap', moved: null }
  }),

  /** All light from now on: so many times what the arena says. */
  dim: kind(object({ to: plainNumber().min(0).max(4).required() }), ({ to }, { hands }) => {
    hands.light = to
    return { text: to === 1 ? 'light as the arena has it' : `light at ${inItsUnit(to, '%')} of the arena’s`, about: 'light', moved: null }
  }),

  /** Other luck from here on: sensors' noise and what the program draws come as another seed says. What was laid out or built stays. */
  draw: kind(object({ seed: plainNumber().integer().min(0).max(LAST_SEED).required() }), ({ seed }, { drawAnew }) => {
    drawAnew(seed)
    return { text: `other noise, ${seed}`, about: 'noise', moved: null }
  }),

  /** Drives by hand while no program runs: metres a second, radians a second to the right. */
  drive: kind(object({ speed: perSecond(), right: perSecond() }), ({ speed, right }, { controller, facts }) => {
    const wheels = driveOf(facts)
    if (controller.program !== null || wheels === null) return null
    const bend = right * wheels.track / 2
    controller.commands.set(speed === 0 && right === 0 ? [WHEEL_MODE.brake, 0, 0] : [WHEEL_MODE.speed, speed + bend, speed - bend], 0)
    return { text: `driven ${inItsUnit(speed, 'cm/s')}, ${inItsUnit(right, 'deg/s')} to the right`, about: ROBOT, moved: null }
  }),

  /** Tells one channel of a device, while no program runs: as somebody at the end of a wire does. */
  tell: kind(object({ device: name(), channel: plainNumber().integer().min(0).max(7).required(), value: plainNumber().min(-1e6).max(1e6).required() }), ({ device, channel, value }, { controller, facts }) => {
    const actuator = facts.actuators.find(a => a.name === device)
    if (controller.program !== null || actuator === undefined || channel >= actuator.channels) return null
    controller.commands[actuator.channel + channel] = value
    return { text: `told ${value} on ${channel}`, about: device, moved: null }
  }),

  /** Ends a run in which no program runs. */
  end: kind(object({ why: text().max(200).defined() }), ({ why }, { controller }) => {
    controller.end = { ended: 'finished', reason: why }
    return { text: why, about: 'end', moved: null }
  }),
}

type Pokes = typeof POKES
/** A hand's interference: an event on the tape, so that a run with hands in it replays. */
export type Poke = { [K in keyof Pokes]: { readonly poke: K } & Readonly<ReadBy<Pokes[K]['schema']>> }[keyof Pokes]
/** A poke and the tick before which it is done. */
export type TimedPoke = Poke & { readonly tick: number }

const known = Object.keys(POKES) as (keyof Pokes)[]
/** `kind` was handed a whole one. */
const schemaOf = (name: keyof Pokes): ObjectSchema<object> => POKES[name].schema as unknown as ObjectSchema<object>
/** The fields of each poke, by its name. */
export const POKE_FIELDS: Readonly<Record<string, readonly string[]>> = Object.fromEntries(known.map(name => [name, Object.keys(schemaOf(name).fields)]))

/** Reads a list of pokes as a record of a run has it, in the order in which they are done. */
export function readPokes(value: unknown): Read<readonly TimedPoke[]> {
  if (!Array.isArray(value)) return { ok: false, problems: [{ path: 'pokes', value: JSON.stringify(value) ?? 'nothing', message: 'expected a list of pokes' }] }
  const problems: Problem[] = []
  let before = 0
  const pokes = value.map((item: unknown, i): TimedPoke => {
    const { poke, ...rest } = (typeof item === 'object' && item !== null ? item : {}) as { readonly poke?: unknown }
    const path = `pokes[${i}]`
    const found = known.find(k => k === poke)
    if (found === undefined) {
      problems.push({ path: `${path}.poke`, value: JSON.stringify(poke) ?? 'nothing', message: `allowed is one of ${known.join(', ')}` })
      return item as TimedPoke
    }
    const read = readDocument<object & { readonly tick: number }>(schemaOf(found).shape({ tick: plainNumber().integer().min(before, `allowed is ${before} and later: pokes stand in the order of their ticks`).required() }).noUnknown().required(), rest)
    if (!read.ok) problems.push(...read.problems.map(p => ({ ...p, path: p.path === '' ? path : `${path}.${p.path}` })))
    else before = read.value.tick
    return { ...(read.ok ? read.value : {}), poke: found } as TimedPoke
  })
  return problems.length > 0 ? { ok: false, problems } : { ok: true, value: pokes }
}

/** Does what a hand does. What is out of bounds or no number does nothing. */
export function applyPoke(poke: Poke, reach: Reach): Poked | null {
  const { act } = POKES[poke.poke] as unknown as PokeKind<Poke>
  return readDocument(schemaOf(poke.poke), poke).ok ? act(poke, reach) : null
}

/** The body that moves when a hand takes hold of something; null for what stands fast, and for what there is not. */
function bodyOf(what: string, { world, robot }: Reach): number | null {
  if (what === ROBOT) return robot.fixed ? null : world.robot
  return world.pieces.find(p => p.name === what)?.body ?? null
}

/** Takes something in hand: out of the robot's grip, and what leans on it or lies on it feels that it goes. */
function pick(what: string, { world, limbs }: Reach, move: () => void): void {
  limbs.holding.lose(what)
  for (const piece of world.pieces) if (piece.body !== null) world.physics.wake(piece.body)
  move()
}

/** How high the middle of a piece is that is put down somewhere: on whatever is highest there. */
function restAt(piece: string, x: number, y: number, { world }: Reach): number {
  const { solid } = world.pieces.find(p => p.name === piece)!
  const below = [...world.scene.solids.filter(s => s !== solid && s.surface.part === null), ...world.scene.ground]
  const ray = new Ray().from(x, y, ABOVE).along(0, 0, -1)
  ray.reach = ABOVE
  const top = world.scene.cast(ray, below) ? ABOVE - ray.distance : 0
  return Math.max(0, top) + solid.shape.hz
}
