import { lazy, object, type ObjectSchema } from 'yup'
import { USUAL_MAKE, type RobotMake, type SensorError } from '../devices'
import { plainNumber, quantity, text, type Problem } from '../document'
import { readQuantity } from '../units'
import type { Robot } from './robot'

/** What was measured of one real robot, as its document writes it: its own realism (`docs/measuring.md`). */
export interface Measured {
  readonly wheels?: { readonly radius?: number, readonly track?: number, readonly difference: number, readonly motors: number, readonly 'dead zone'?: number, readonly grip?: number }
  readonly sensors: Readonly<Record<string, { readonly noise: string, readonly bias: string, readonly dropout: number, readonly latency: number, readonly scale: number }>>
}

const sensorSchema = object({
  // In the unit of the device's first reading, or of the one that it errs by.
  noise: text().max(20).default('0'), bias: text().max(20).default('0'),
  dropout: plainNumber().min(0).max(1).default(0), latency: quantity('time', { min: 0, max: 2 }).default(0), scale: plainNumber().min(0.5).max(2).default(1),
}).noUnknown()

export const measuredSchema = object({
  wheels: object({
    radius: quantity('length', { min: 0.004, max: 0.4 }), track: quantity('length', { min: 0.02, max: 1.2 }),
    // By what share the left wheel is larger than the right one.
    'difference': plainNumber().min(-0.2).max(0.2).default(0),
    // By what share the left motor is stronger than the right one.
    'motors': plainNumber().min(-0.5).max(0.5).default(0),
    'dead zone': quantity('number', { min: 0, max: 0.5 }),
    // So many times what they carry.
    'grip': plainNumber().min(0.05).max(2),
  }).noUnknown().default(undefined),
  // Any name may stand here; whether the robot has it is looked at where it is known.
  sensors: lazy((value: unknown) => object(Object.fromEntries(Object.keys(typeof value === 'object' && value !== null ? value : {}).map(name => [name, sensorSchema]))).default({})),
}).noUnknown() as unknown as ObjectSchema<Measured & object>

/** A value in the unit of the reading by which a device errs; a bare 0 is none of it. */
function inUnit(robot: Robot, device: string, value: string): { readonly ok: true, readonly value: number } | { readonly ok: false, readonly message: string } {
  const found = robot.devices.find(d => d.name === device)
  const readings = found?.kind.readings(found.parameters)
  const first = readings?.find(r => r.name === found?.kind.errs?.by) ?? readings?.[0]
  if (found === undefined || first === undefined) return { ok: false, message: `the robot has no such device; it has ${robot.devices.map(d => d.name).join(', ')}` }
  if (first.type.type !== 'quantity' || first.resettable) return { ok: false, message: `of a ${found.kind.title} that is not measured` }
  if (value === '0') return { ok: true, value: 0 }
  const read = readQuantity(value, first.type.kind)
  return read.ok ? read : { ok: false, message: read.reason }
}

/** What is wrong with what was measured, as it names devices and units. */
export function measuredProblems(robot: Robot, { sensors }: Measured): readonly Problem[] {
  return Object.entries(sensors).flatMap(([name, values]) => {
    const wrong = (['noise', 'bias'] as const).flatMap((what): Problem[] => {
      const read = inUnit(robot, name, values[what])
      return read.ok ? [] : [{ path: `measured.sensors.${name}.${what}`, value: values[what], message: read.message }]
    })
    const kind = robot.devices.find(d => d.name === name)?.kind
    if (kind?.errs?.loses === false && values.dropout > 0) wrong.push({ path: `measured.sensors.${name}.dropout`, value: String(values.dropout), message: `allowed is 0: a ${kind.title} loses no look` })
    if (kind !== undefined && kind.errs?.scales !== true && values.scale !== 1) wrong.push({ path: `measured.sensors.${name}.scale`, value: String(values.scale), message: `allowed is 1: by how much a ${kind.title} reads more than is true is its bias` })
    return wrong
  })
}

/** The robot as it was measured, to be run without any other error; null where it was not. */
export function measuredRobot(robot: Robot): Robot | null {
  const { measured, drive } = robot
  if (measured === null) return null
  const { wheels, sensors } = measured
  const number = (device: string, value: string): number => { const read = inUnit(robot, device, value); return read.ok ? read.value : 0 }
  const errs = Object.fromEntries(Object.entries(sensors).map(([name, s]): [string, SensorError] => [name, { noise: number(name, s.noise), bias: number(name, s.bias), dropout: s.dropout, latency: s.latency, scale: s.scale }]))
  const share = (is: number | undefined, believed: number | undefined): number => is === undefined || believed === undefined ? 0 : is / believed - 1
  const make: RobotMake = { ...USUAL_MAKE, radius: share(wheels?.radius, drive?.radius), track: share(wheels?.track, drive?.track), wheels: wheels?.difference ?? 0, motors: wheels?.motors ?? 0, errs }
  return { ...withDrive(robot, { ...wheels?.['dead zone'] === undefined ? {} : { 'dead zone': wheels['dead zone'] }, ...wheels?.grip === undefined ? {} : { grip: wheels.grip } }), make }
}

/** A robot whose drive is another in these; one without wheels stays as it is. */
export function withDrive(robot: Robot, settings: Partial<NonNullable<Robot['drive']>>): Robot {
  const { drive } = robot
  if (drive === null) return robot
  const changed = { ...drive, ...settings }
  return { ...robot, drive: changed, fitted: robot.fitted.map(d => d.parameters === drive ? { ...d, parameters: changed } : d) }
}
