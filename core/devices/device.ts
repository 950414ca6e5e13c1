import type { ObjectSchema } from 'yup'
import type { Ground, LightField, SoundField } from '../arena'
import type { Rgb } from '../colors'
import type { ReadBy, Reads } from '../document'
import type { BodyState, Pose, Scene, Solid, SolidShape, Vector } from '../geometry'
import type { RandomStream } from '../random'
import type { Kind, KindName } from '../units'
import type { Rasteriser } from '../vision'
import type { Connection } from './connection'
import type { KeptKind, StepForm } from './form'

/** What a reading is worth: a quantity, a truth or a colour. */
export type ReadingType =
  | { readonly type: 'quantity', readonly kind: Kind, readonly share: boolean }
  | { readonly type: 'truth' }
  | { readonly type: 'color' }

/** One reading that a device gives to programs. */
export interface ReadingSpec {
  readonly name: string
  readonly type: ReadingType
  /** Smallest and largest value in SI units; null where a program may expect anything. */
  readonly range: readonly [number, number] | null
  /** Whether it may say "no echo" (Infinity inside). */
  readonly mayMiss: boolean
  /** Whether `reset` sets it to zero. */
  readonly resettable: boolean
  /** For the steps' own use; programs cannot read it. */
  readonly hidden: boolean
  /** A few words for completion and the Sense rail. */
  readonly summary: string
  /** What it is of, where a device reads the same of many: `orange`, `tag 3`. null for a plain reading. */
  readonly of: string | null
  /** Kinds of the values that it is worked out from (`computed`); empty for a plain reading. */
  readonly takes: readonly KindName[]
}

export type RealismName = 'ideal' | 'typical' | 'rough'
export const REALISMS: readonly RealismName[] = ['ideal', 'typical', 'rough']
/** What a run may be asked for besides: the robot as it was measured. */
export type RunRealism = RealismName | 'measured'
export const RUN_REALISMS: readonly RunRealism[] = [...REALISMS, 'measured']

/** How a device's own numbers depend on the realism setting. */
export type ByRealism<T> = Readonly<Record<RealismName, T>>

/** What a device may look at when it takes a look. */
export interface Surroundings {
  readonly scene: Scene
  /** The solids that it can see: all but the part of the robot that it sits on. */
  readonly solids: readonly Solid[]
  /** Paint underfoot, light and sound. */
  readonly ground: Ground
  readonly light: LightField
  readonly sound: SoundField
  /** Draws what a lens sees. */
  readonly rasteriser: Rasteriser
  /** What the device sits on: the chassis, or the moving part of a joint. */
  readonly body: BodyState
  /** The robot's chassis. */
  readonly chassis: BodyState
  /** What the robot's actuators are told. */
  readonly commands: Float64Array
  /** Seconds since the run began. */
  readonly time: number
  /** Newtons with which something presses on a device's pad; 0 when nothing does. */
  pressOn(device: string): number
}

/** Where a device sits: metres in the body's frame; `yaw` radians counter-clockwise, `pitch` radians upwards. */
export interface Mount {
  readonly forward: number
  readonly left: number
  readonly up: number
  readonly yaw: number
  readonly pitch: number
}

/** A device at work in one run. */
export interface DeviceModel {
  /** Takes a look: writes one value per reading, in the order of the readings. */
  look(around: Surroundings, into: Float64Array): void
  /** Is given, once, what it moves: place and speed as they came of the last step. */
  ride?(motion: Motion): void
  /** One physics step of a device that acts. */
  act?(work: Work): void
  /** One physics step of a device that carries the robot: after all that acts, so that what else pushes the robot is known. */
  carry?(work: Work): void
  /** How far (rad) the left and the right wheel of what carries the robot have turned. */
  readonly spins?: Float64Array
  /** What shows on the arena: for a ranging device the line to what it met. null when there is nothing. */
  readonly beam: Float64Array | null
  /** The last picture of a device that takes some: rows from the top, red, green, blue and a spare byte each. */
  readonly picture?: { readonly width: number, readonly height: number, readonly pixels: Uint8ClampedArray, readonly marks: readonly PictureMark[] }
  snapshot(): unknown
  restore(state: unknown): void
}

/** What was recognised on a picture: a frame in pixels and what it is. */
export interface PictureMark { readonly label: string, readonly x: number, readonly y: number, readonly width: number, readonly height: number }

/** A piece that can be moved, as actuators meet it. */
export interface LooseThing { readonly name: string, readonly solid: Solid, readonly mass: number }

/** What an actuator may do to the world within one physics step. SI units. */
export interface Work {
  /** What it is told: its channels begin at `channel`. */
  readonly commands: Float64Array
  readonly channel: number
  readonly dt: number
  /** What the device sits on. */
  readonly body: BodyState
  readonly scene: Scene
  readonly loose: readonly LooseThing[]
  /** What turning (or sliding) the device's own link takes: moment of inertia (or mass), and what gravity does to it (N m or N, in its positive sense). */
  load(): { readonly inertia: number, readonly gravity: number }
  /**
   * At which speed link, jaws or roller would go on within this step, between two ends: what is in their way slows or stops
   * them. `inertia` (kg m² or kg) is what changing their speed takes; Infinity for what nothing slows.
   */
  go(speed: number, inertia: number, from: number, to: number): void
  /** Takes hold of a thing where it is; it is lost when more than `strength` newtons are needed. */
  hold(thing: LooseThing, strength: number): void
  release(): void
  /** What the device holds; null when it holds nothing. */
  held(): LooseThing | null
  /** Newtons on a thing at a place, in the world, during this step; the robot feels the same the other way. */
  pull(thing: LooseThing, at: Vector, x: number, y: number, z: number): void
  /** What else pushes the robot's body within this step: impulse (N s) and turning impulse (N m s) about its centre. */
  readonly pushes: Float64Array
  /** Pushes the robot's body: impulse and turning impulse. */
  push(impulse: Vector, turning: Vector): void
  /** Tells that the device was asked for more than its motors can do. */
  clip(): void
}

/** Place and speed of a device's own link, jaws or roller: radians or metres, and a second. */
export interface Motion { readonly at: number, readonly speed: number }

/** What is true of a device's readings at a moment, SI, where they stand in `into`; what is not written cannot be told. `began`: which way the robot faced when the run began, radians, counter-clockwise. */
export type Truth = (around: Surroundings, began: number, into: Float64Array) => void

/** One solid part of a device, in the frame of its mount. */
export interface DevicePart {
  readonly shape: SolidShape
  readonly pose: Pose
  readonly friction: number
  /** Whether contact forces on it are measured. */
  readonly pad: boolean
  /** Whether it rides on the device's link instead of its mount. */
  readonly onLink: boolean
  /** How far to the left of its mount it goes for each metre that the device's jaws open; left out, it does not. */
  readonly opens?: number
  /** For a roller, which turns about its own upright axis: newtons with which it rubs on what is within `reach` metres of it. */
  readonly rubs?: { readonly force: number, readonly reach: number }
}

/** The moving part of a joint: how it moves, and what moves. SI units. */
export interface LinkSpec {
  readonly motion: 'turning' | 'sliding'
  /** Turning: upright turns right, across raises, along rolls right. Sliding: up, forward, right. */
  readonly axis: 'upright' | 'across' | 'along' | 'up' | 'forward' | 'right'
  /** Where it stands when a run begins. */
  readonly start: number
  readonly mass: number
  /** Centre of mass in the link's frame. */
  readonly center: readonly [number, number, number]
  /** Moment of inertia about its own centre, a mean of the axes. */
  readonly inertia: number
}

/** What a device that acts is told. */
export interface ActuatorSpec {
  readonly channels: number
  /** Any lane may set it; else it belongs to one. */
  readonly shared: boolean
  /** What it was told stays when its rule ends. */
  readonly stays: boolean | readonly boolean[]
  /** What it is told before anybody does. */
  readonly initial: readonly number[]
}

export interface DeviceSetting<P> {
  readonly name: string
  readonly parameters: P
  readonly mount: Mount
  readonly realism: RealismName
  readonly noise: RandomStream
  /** Colours that the robot was taught, beyond the common ones. */
  readonly taught: readonly TaughtColor[]
  /** First command channel of what acts; -1 for what does not. */
  readonly channel: number
  /** Seconds per tick of the controller. */
  readonly tick: number
  readonly build: RobotBuild
}

/** What a device may have to know of the robot that it is part of. SI units. */
export interface RobotBuild {
  /** Of the chassis' centre above the floor. */
  readonly height: number
  readonly mass: number
  /** Moments of inertia about the centre. */
  readonly inertia: Vector
  /** Where the weight acts when a run begins: forward and left of the chassis' centre. */
  readonly balance: readonly [number, number]
  /** How this one was made, which no document says. */
  readonly make: RobotMake
}

/** How one robot differs from another of the same kind, besides what realism and seed draw. */
export interface RobotMake {
  /** How far its sensors deviate: so many times what realism says. What they lose or mistake altogether stays. */
  readonly noise: number
  /** By what share the left motor is stronger than the right one, and the left wheel larger. */
  readonly motors: number
  readonly wheels: number
  /** By what share its wheels are larger, and farther apart, than its document says and its program believes. */
  readonly radius: number
  readonly track: number
  /** By device: how its first reading errs (or that of its kind's `errs`), as was measured of this one. */
  readonly errs: Readonly<Record<string, SensorError>>
}

/**
 * How a sensor errs, SI: what it reads too much, how far that varies (deviation), how often a look is lost (share), how long a look takes to be known beyond what its
 * kind takes (seconds), and so many times what is true it reads (1 where nothing is said).
 */
export interface SensorError { readonly bias: number, readonly noise: number, readonly dropout: number, readonly latency: number, readonly scale?: number }

/** How a kind of device errs that does so by itself: by which reading it is told, whether looks are lost, and whether it reads more or less than is true by a share. */
export interface OwnErrors { readonly by: string, readonly loses: boolean, readonly scales: boolean }

/** As realism and seed have it. */
export const USUAL_MAKE: RobotMake = { noise: 1, motors: 0, wheels: 0, radius: 0, track: 0, errs: {} }

/**
 * A kind of device: one file says all there is to know. The robot document's validation,
 * the language, the checker, the completion and the Sense rail read it from here.
 */
export interface DeviceKind<P extends object = object> {
  readonly kind: string
  /** As a person says it: "time-of-flight sensor". */
  readonly title: string
  /** Which ports take it; null for what has no wire. */
  readonly port: PortKind | null
  readonly schema: ObjectSchema<P>
  readings(parameters: P): readonly ReadingSpec[]
  /** Seconds between looks, seconds from a look to its reading. */
  timing(parameters: P, realism: RealismName): { readonly period: number, readonly latency: number }
  /** Whether devices of this kind must take turns, as sonars share the air. */
  readonly takesTurns: boolean
  /** What a hand can do to it: hold itself before an eye that looks along the mount, and cover it; press a switch. Left out where nothing. */
  readonly hand?: 'eye' | 'switch'
  /**
   * How what is true is told beside its readings, where that is asked: `look` as an ideal one reads that looks for the first time (what has
   * an eye is so without a word); else by this, for what sums up what it measures. Left out where it cannot be told.
   */
  readonly truth?: 'look' | Truth
  /** Readings that sum up how the robot itself turns or goes, each by its name: their truth is told from its way. */
  readonly sums?: Readonly<Record<string, 'turned' | 'forward'>>
  /** Where it is not its first reading alone that errs: how it does so by itself, as `RobotMake.errs` says. Of a camera `by` is a reading of whatever it recognises. */
  readonly errs?: OwnErrors
  create(setting: DeviceSetting<P>): DeviceModel
  /** How it may be connected to a board, the usual way first; empty for what no board of ours can have, left out for what has no wire. */
  readonly connections?: readonly Connection[]
  /** Solid parts that meet other things. */
  parts?(parameters: P): readonly DevicePart[]
  /** The moving part that other devices may be mounted on. */
  link?(parameters: P): LinkSpec
  /** How far its jaws are apart when a run begins, metres; for what has some. */
  jaws?(parameters: P): number
  actuator?(parameters: P): ActuatorSpec
  /** What is wrong with the parameters taken together; null when nothing is. */
  problem?(parameters: P): { readonly path: string, readonly value: string, readonly message: string } | null
  /** Readings worked out from values in brackets: `beacon.distance(1 m, 2 m)`. */
  readonly computed?: Readonly<Record<string, (readings: Float64Array, first: number, given: readonly number[]) => number>>
}

/** A kind of device by its schema, which says what its parameters are. The list of kinds knows them as devices of any parameters. */
export function defineDevice<S extends Reads<unknown>>(kind: Omit<DeviceKind<ParametersOf<S>>, 'schema'> & { readonly schema: S }): DeviceKind {
  return kind as unknown as DeviceKind
}

/** What a schema's documents are once they are read. */
export type ParametersOf<S extends Reads<unknown>> = Extract<ReadBy<S>, object>

/** Colour names that a device must know beyond the common ones. */
export interface TaughtColor { readonly name: string, readonly paint: Rgb }

export const PORT_KINDS = ['motor', 'digital', 'analogue', 'bus'] as const
export type PortKind = (typeof PORT_KINDS)[number]

/** What a step may use while it runs. All arrays are in SI units. */
export interface StepMachine {
  /** Readings as programs see them. */
  readonly readings: Float64Array
  /** The same before `reset` took anything off. */
  readonly raw: Float64Array
  /** What actuators are told, by channel. */
  readonly commands: Float64Array
  /** Numbers of running steps, each step at its own place. */
  readonly cells: Float64Array
  /** Seconds per tick. */
  readonly dt: number
  readonly tick: number
  /** The tick in which the latest look of each device was begun, at the index of its first reading. */
  readonly began: Float64Array
  /** What displays show, by their number, as `writeScreen` says it. */
  readonly texts: string[]
  /** Has programs read another value for the rest of this tick. */
  seem(reading: number, value: number): void
  /** Tells that an actuator was asked for more than it can do, and does what it can. */
  clip(actuator: string): void
}

export type NumberOf = (m: StepMachine) => number

/** A filled slot as a step's plan gets it. */
export interface PlannedSlot {
  /** The value's code; null for a word. */
  readonly value: NumberOf | null
  readonly kind: Kind | null
  readonly word: string | null
  /** The value as people read it, in slots that take text. */
  readonly text: ((m: StepMachine) => string) | null
}

/**
 * What one written step does. `timed` steps end by themselves, `held` ones go on until
 * something else moves the actuator, `instant` ones take no time, and a `setting` is applied
 * once and stays.
 */
export interface StepPlan {
  readonly timing: 'instant' | 'held' | 'timed' | 'setting'
  /** How many cells it needs. */
  readonly cells: number
  /** Takes the measures, once; false when there is nothing to do. Left out where there is nothing to take. */
  begin?(m: StepMachine, at: number): boolean
  /** Writes this tick's command. */
  apply(m: StepMachine, at: number): void
  /** Whether the measure is reached and all stands. Never asked of a held step. */
  done(m: StepMachine, at: number): boolean
}

/** What a step knows of the robot when it is planned. */
export interface StepRobot {
  /** Index of a reading in the arrays; throws where the robot has none. */
  readingIndex(device: string, reading: string): number
  hasDevice(kind: string): string | null
  /** Index of a device's first reading. */
  firstReading(device: string): number
  /** Kind of a device; null when there is no such device. */
  kindOf(device: string): string | null
  /** First command channel of an actuator. */
  channel(device: string): number
  /** Parameters of a device, as its own kind reads them. */
  parametersOf(device: string): object
  /** Names of what the robot keeps for programs. */
  kept(what: KeptKind): readonly string[]
  /** A series of joint poses that the robot keeps; null when it keeps none of that name. */
  gesture(name: string): Gesture | null
  /** Place of a clip among those that the robot keeps and its length in seconds; null when there is none. */
  clip(name: string): { readonly index: number, readonly length: number } | null
  /** Number of a display among all displays. */
  textIndex(device: string): number
}

/** Joint poses one after another; seconds and the joints' own units in SI. */
export interface Gesture { readonly poses: readonly { readonly after: number, readonly joints: Readonly<Record<string, number>> }[] }

/** How a device's step is written and what it does. */
export interface DeviceStep {
  readonly form: StepForm
  /** Kinds of device one of which the robot must have; empty when the step names its device itself. */
  readonly needs: readonly string[]
  /** The actuators that it moves or sets, by name. */
  moves(slots: ReadonlyMap<string, PlannedSlot>, robot: StepRobot): readonly string[]
  /** What is wrong with the slots taken together, as a sentence; null when nothing is. */
  problem?(slots: ReadonlyMap<string, PlannedSlot>, robot: StepRobot): string | null
  plan(slots: ReadonlyMap<string, PlannedSlot>, robot: StepRobot): StepPlan
}
