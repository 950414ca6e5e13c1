import { array, mixed, object } from 'yup'
import { DEVICE_KINDS, PORT_KINDS, type DeviceKind, type Mount, type PortKind } from '../devices'
import type { DriveSettings } from '../devices/drive'
import type { WheelSettings } from '../devices/wheels'
import { documentText, nameText, plainNumber, quantity, readDocument, readPart, text, type Problem, type Read } from '../document'

export const ROBOT_VERSION = 1
const DEG = Math.PI / 180

const size = (min: number, max: number) => quantity('length', { min, max }).required()
const offset = () => quantity('length', { min: -1, max: 1 })

const mountSchema = object({
  forward: offset().default(0),
  right: offset().default(0),
  up: quantity('length', { min: 0, max: 1 }).default(0.05),
  facing: quantity('angle', { min: -180 * DEG, max: 180 * DEG }).default(0),
  tilt: quantity('angle', { min: -90 * DEG, max: 90 * DEG }).default(0),
}).noUnknown().strict(false)

const deviceSchema = object({
  name: nameText().required(),
  kind: text().oneOf(DEVICE_KINDS.map(k => k.kind), `allowed is one of ${DEVICE_KINDS.map(k => k.kind).join(', ')}`).required(),
  port: text().required(),
  mount: mountSchema,
  // What may stand here depends on the kind: read below.
  settings: mixed(),
}).noUnknown()

const robotSchema = object({
  mindpath: text().oneOf(['robot'], 'expected "robot": this is another kind of document').required(),
  version: plainNumber().oneOf([ROBOT_VERSION], `allowed is ${ROBOT_VERSION}`).required(),
  name: nameText().required(),
  about: documentText(),
  chassis: object({
    length: size(0.03, 1), width: size(0.03, 1), height: size(0.01, 1),
    clearance: size(0.002, 0.2), mass: quantity('mass', { min: 0.02, max: 50 }).required(),
  }).noUnknown(),
  drive: object({
    radius: size(0.005, 0.3), width: size(0.002, 0.1), track: size(0.03, 1), forward: offset().default(0),
    'top speed': quantity('speed', { min: 0.02, max: 5 }).required(),
    'cruise speed': quantity('speed', { min: 0.01, max: 5 }).required(),
    'turning speed': quantity('turning speed', { min: 5 * DEG, max: 1440 * DEG }).required(),
    acceleration: quantity('acceleration', { min: 0.05, max: 20 }).default(0.8),
    'stall torque': quantity('torque', { min: 0.001, max: 50 }).required(),
    'dead zone': quantity('number', { min: 0, max: 0.5 }).default(0.05),
    grip: plainNumber().min(0.05).max(2).default(0.9),
    'encoder ticks': plainNumber().integer().min(4).max(10000).default(720),
    ports: array(text().required()).length(2, 'expected two ports, left and right').required(),
    castors: array(object({ forward: offset().required(), right: offset().default(0) }).noUnknown()).min(1, 'expected at least one castor: two wheels alone fall over').max(4).required(),
  }).noUnknown().required(),
  controller: object({
    tick: quantity('time', { min: 0.01, max: 0.1 }).default(0.02),
    ports: object().required(),
  }).noUnknown().required(),
  devices: array(deviceSchema).max(40).required(),
}).noUnknown().required()

/** A robot document as people write it. */
export type RobotDocument = object

export interface RobotDevice {
  readonly name: string
  readonly kind: DeviceKind
  readonly port: string
  readonly mount: Mount
  readonly parameters: object
}

/** A robot that can exist. SI units; the body's frame has its origin at the chassis' centre. */
export interface Robot {
  readonly name: string
  readonly about: string
  readonly chassis: { readonly length: number, readonly width: number, readonly height: number, readonly clearance: number, readonly mass: number }
  readonly drive: DriveSettings & { readonly wheelWidth: number }
  readonly wheels: WheelSettings
  readonly drivePorts: readonly [string, string]
  /** Seconds. */
  readonly tick: number
  readonly ports: ReadonlyMap<string, readonly PortKind[]>
  readonly devices: readonly RobotDevice[]
}

type Raw = {
  name: string, about?: string
  chassis: Robot['chassis']
  drive: {
    radius: number, width: number, track: number, forward: number, acceleration: number, grip: number
    'top speed': number, 'cruise speed': number, 'turning speed': number, 'stall torque': number, 'dead zone': number, 'encoder ticks': number
    ports: string[], castors: { forward: number, right: number }[]
  }
  controller: { tick: number, ports: Record<string, unknown> }
  devices: { name: string, kind: string, port: string, mount: { forward: number, right: number, up: number, facing: number, tilt: number }, settings: object }[]
}

/** Reads a robot document: a robot that can exist, or everything that is wrong with it. */
export function readRobot(value: unknown): Read<Robot> {
  const read = readDocument<Raw>(robotSchema as never, value)
  if (!read.ok) return read
  const raw = read.value
  const problems: Problem[] = []
  const ports = readPorts(raw.controller.ports, problems)
  const taken = new Map<string, string>()
  const take = (port: string, user: string, wanted: PortKind, path: string): void => {
    const takes = ports.get(port)
    if (takes === undefined) {
      problems.push({ path, value: JSON.stringify(port), message: `the controller has no such port; it has ${[...ports.keys()].join(', ')}` })
    } else if (!takes.includes(wanted)) {
      const fitting = [...ports].filter(([, kinds]) => kinds.includes(wanted)).map(([name]) => name)
      problems.push({ path, value: JSON.stringify(port), message: `${port} takes ${takes.join(' or ')}, and ${user} needs ${wanted}${fitting.length === 0 ? '; no port does' : `: ${fitting.join(', ')}`}` })
    }
    const other = taken.get(port)
    if (other !== undefined) problems.push({ path, value: JSON.stringify(port), message: `${other} is on ${port} already; a port takes one` })
    taken.set(port, user)
  }
  raw.drive.ports.forEach((port, i) => take(port, i === 0 ? 'the left wheel' : 'the right wheel', 'motor', `drive.ports[${i}]`))
  const settings: object[] = []
  const names = new Set(['wheels', 'robot', 'mode', 'run'])
  raw.devices.forEach((device, i) => {
    if (names.has(device.name)) problems.push({ path: `devices[${i}].name`, value: JSON.stringify(device.name), message: 'this name is taken; each device has its own' })
    names.add(device.name)
    const kind = DEVICE_KINDS.find(k => k.kind === device.kind)!
    take(device.port, device.name, kind.port, `devices[${i}].port`)
    settings.push(readPart(kind.schema.noUnknown(), device.settings, `devices[${i}].settings`, problems) ?? {})
  })
  if (raw.drive['cruise speed'] > raw.drive['top speed']) {
    problems.push({ path: 'drive.cruise speed', value: `${raw.drive['cruise speed']} m/s`, message: `allowed is up to the top speed, ${raw.drive['top speed']} m/s` })
  }
  if (raw.chassis.clearance >= raw.drive.radius * 2) {
    problems.push({ path: 'chassis.clearance', value: `${raw.chassis.clearance} m`, message: `the chassis would ride above its wheels; allowed is less than ${raw.drive.radius * 2} m` })
  }
  if (problems.length > 0) return { ok: false, problems }
  return { ok: true, value: build({ ...raw, devices: raw.devices.map((d, i) => ({ ...d, settings: settings[i]! })) }, ports) }
}

function readPorts(value: Record<string, unknown>, problems: Problem[]): ReadonlyMap<string, readonly PortKind[]> {
  const ports = new Map<string, readonly PortKind[]>()
  for (const [name, takes] of Object.entries(value)) {
    const list = Array.isArray(takes) ? takes : [takes]
    if (list.every((k): k is PortKind => (PORT_KINDS as readonly unknown[]).includes(k))) ports.set(name, list)
    else problems.push({ path: `controller.ports.${name}`, value: JSON.stringify(takes), message: `allowed is ${PORT_KINDS.join(', ')}, or a list of them` })
  }
  return ports
}

function build(raw: Raw, ports: Robot['ports']): Robot {
  const { chassis, drive } = raw
  const height = chassis.clearance + chassis.height / 2
  const { mass } = chassis
  const square = (x: number) => x * x
  return {
    name: raw.name,
    about: raw.about ?? '',
    chassis,
    drive: {
      radius: drive.radius, track: drive.track, forward: drive.forward, height, mass,
      // A homogeneous box: m (b² + c²) / 12 about each axis.
      inertia: {
        x: mass * (square(chassis.width) + square(chassis.height)) / 12,
        y: mass * (square(chassis.length) + square(chassis.height)) / 12,
        z: mass * (square(chassis.length) + square(chassis.width)) / 12,
      },
      topSpeed: drive['top speed'], stallTorque: drive['stall torque'], deadZone: drive['dead zone'],
      acceleration: drive.acceleration, grip: drive.grip, ticks: drive['encoder ticks'],
      castors: drive.castors.map(c => [c.forward, -c.right] as const),
      wheelWidth: drive.width,
    },
    wheels: {
      track: drive.track, cruise: drive['cruise speed'], turning: drive['turning speed'],
      acceleration: drive.acceleration, topSpeed: drive['top speed'],
    },
    drivePorts: [drive.ports[0]!, drive.ports[1]!],
    tick: raw.controller.tick,
    ports,
    devices: raw.devices.map(d => ({
      name: d.name,
      kind: DEVICE_KINDS.find(k => k.kind === d.kind)!,
      port: d.port,
      mount: { forward: d.mount.forward, left: -d.mount.right, up: d.mount.up - height, yaw: -d.mount.facing, pitch: d.mount.tilt },
      parameters: d.settings,
    })),
  }
}
