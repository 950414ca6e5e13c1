import type { SoundField } from '../arena'
import type { Controller } from '../controller'
import { WHEEL_MODE } from '../devices'
import { yawQuaternion, type BodyState } from '../geometry'
import { driveOf, type Robot, type RobotFacts } from '../robot'
import { findUnit, formatQuantity } from '../units'
import type { BuiltWorld } from './build'

/** A hand's interference: an event on the tape, so that a run with hands in it replays. */
export type Poke =
  | { readonly poke: 'dial', readonly name: string, readonly value: number }
  | { readonly poke: 'put', readonly what: string, readonly x: number, readonly y: number, readonly heading: number | null }
  | { readonly poke: 'push', readonly right: number, readonly forward: number }
  /** A clap at a place: loud for a fifth of a second. */
  | { readonly poke: 'clap', readonly x: number, readonly y: number }
  /** Drives by hand while no program runs: metres a second, radians a second to the right. */
  | { readonly poke: 'drive', readonly speed: number, readonly right: number }

/** Loudness of a clap, and how long it lasts, seconds. */
const CLAP = 1
const CLAP_TIME = 0.2

/** What hands reach. */
export interface Reach {
  readonly world: BuiltWorld
  readonly robot: Robot
  readonly facts: RobotFacts
  readonly body: BodyState
  readonly sound: SoundField
  readonly controller: Controller
  readonly time: number
}

/** What a poke came to: what the tape says, about what, and the piece that was moved; null when nothing came of it. */
export interface Poked { readonly text: string, readonly about: string, readonly moved: string | null }

/** A value in SI units as people read it; a plain number where there is no unit. */
function inItsUnit(value: number, name: string | null): string {
  const unit = name === null ? undefined : findUnit(name)
  return unit === undefined ? String(value) : formatQuantity(value, unit)
}
const cm = (metres: number): string => inItsUnit(metres, 'cm')
const deg = (radians: number): string => inItsUnit(radians, 'deg')

/** Does what a hand does. Numbers that are none do nothing. */
export function applyPoke(poke: Poke, { world, robot, facts, body, sound, controller, time }: Reach): Poked | null {
  switch (poke.poke) {
    case 'dial':
      return controller.setDial(poke.name, poke.value) ? { text: `${poke.name} = ${inItsUnit(poke.value, controller.program?.dials.find(d => d.name === poke.name)?.unit ?? null)}`, about: poke.name, moved: null } : null
    case 'put': {
      const piece = world.pieces.find(p => p.name === poke.what)
      const isRobot = poke.what === 'robot'
      const id = isRobot ? world.robot : piece?.body ?? null
      if (id === null || !Number.isFinite(poke.x) || !Number.isFinite(poke.y)) return null
      const now = world.physics.readPose(id)
      const rotation = poke.heading === null ? now.rotation : yawQuaternion(-poke.heading)
      world.physics.put(id, { position: { x: poke.x, y: poke.y, z: isRobot ? robot.height : piece!.solid.shape.hz }, rotation })
      return { text: `put at ${cm(poke.x)}, ${cm(poke.y)}${poke.heading === null ? '' : `, heading ${deg(poke.heading)}`}`, about: poke.what, moved: poke.what }
    }
    case 'push': {
      const m = body.matrix
      world.physics.strike(world.robot, { x: m[0]! * poke.forward * robot.mass, y: m[3]! * poke.forward * robot.mass, z: 0 }, { x: 0, y: 0, z: -poke.right * robot.inertia.z })
      return { text: `pushed ${inItsUnit(poke.forward, 'cm/s')} forward, ${inItsUnit(poke.right, 'deg/s')} to the right`, about: 'robot', moved: 'robot' }
    }
    case 'clap':
      if (!Number.isFinite(poke.x) || !Number.isFinite(poke.y)) return null
      sound.add({ x: poke.x, y: poke.y, loudness: CLAP, until: time + CLAP_TIME })
      return { text: `clap at ${cm(poke.x)}, ${cm(poke.y)}`, about: 'clap', moved: null }
    case 'drive': {
      const wheels = driveOf(facts)
      if (controller.program !== null || wheels === null || !Number.isFinite(poke.speed) || !Number.isFinite(poke.right)) return null
      const bend = poke.right * wheels.track / 2
      controller.commands.set(poke.speed === 0 && poke.right === 0 ? [WHEEL_MODE.brake, 0, 0] : [WHEEL_MODE.speed, poke.speed + bend, poke.speed - bend], 0)
      return { text: `driven ${inItsUnit(poke.speed, 'cm/s')}, ${inItsUnit(poke.right, 'deg/s')} to the right`, about: 'robot', moved: null }
    }
  }
}
