import type { ObjectSchema } from 'yup'
import type { BodyState, Scene } from '../geometry'
import type { RandomStream } from '../random'
import type { Kind } from '../units'
import type { StepForm } from './form'
import type { WheelSettings } from './wheels'

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
}

export type RealismName = 'ideal' | 'typical' | 'rough'
export const REALISMS: readonly RealismName[] = ['ideal', 'typical', 'rough']

/** How a device's own numbers depend on the realism setting. */
export type ByRealism<T> = Readonly<Record<RealismName, T>>

/** What a device may look at when it takes a look. */
export interface Surroundings {
  readonly scene: Scene
  /** The robot's body; devices are mounted on it. */
  readonly body: BodyState
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
  /** What shows on the arena: for a ranging device the line to what it met. null when there is nothing. */
  readonly beam: Float64Array | null
  snapshot(): unknown
  restore(state: unknown): void
}

export interface DeviceSetting<P> {
  readonly name: string
  readonly parameters: P
  readonly mount: Mount
  readonly realism: RealismName
  readonly noise: RandomStream
}

/**
 * A kind of device: one file says all there is to know. The robot document's validation,
 * the language, the checker, the completion and the Sense rail read it from here.
 */
export interface DeviceKind<P extends object = object> {
  readonly kind: string
  /** As a person says it: "time-of-flight sensor". */
  readonly title: string
  /** Which ports take it. */
  readonly port: PortKind
  readonly schema: ObjectSchema<P>
  readings(parameters: P): readonly ReadingSpec[]
  /** Seconds between looks, seconds from a look to its reading. */
  timing(parameters: P, realism: RealismName): { readonly period: number, readonly latency: number }
  /** Whether devices of this kind must take turns, as sonars share the air. */
  readonly takesTurns: boolean
  create(setting: DeviceSetting<P>): DeviceModel
  /** Size of the pad that feels contact, for devices that have one. */
  pad?(parameters: P): { readonly width: number, readonly height: number }
}

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
}

export type NumberOf = (m: StepMachine) => number

/** A filled slot as a step's plan gets it. */
export interface PlannedSlot {
  /** The value's code; null for a word. */
  readonly value: NumberOf | null
  readonly kind: Kind | null
  readonly word: string | null
}

/**
 * What one written step does. `timed` steps end by themselves, `held` ones go on until
 * something else moves the actuator, `instant` ones take no time.
 */
export interface StepPlan {
  readonly timing: 'instant' | 'held' | 'timed'
  /** How many cells it needs. */
  readonly cells: number
  /** Takes the measures, once; false when there is nothing to do. */
  begin(m: StepMachine, at: number): boolean
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
  /** First command channel of an actuator. */
  channel(device: string): number
  /** Throws where the robot has no drive. */
  wheelSettings(): WheelSettings
}

/** How a device's step is written and what it does. */
export interface DeviceStep {
  readonly form: StepForm
  /** The kind of actuator that it moves or sets. */
  readonly actuator: string
  plan(slots: ReadonlyMap<string, PlannedSlot>, robot: StepRobot): StepPlan
}
