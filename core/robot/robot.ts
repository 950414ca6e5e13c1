import { array, mixed, object, type ObjectSchema } from 'yup'
import { COLORS, type Rgb } from '../colors'
import { DEVICE_KINDS, PORT_KINDS, USUAL_MAKE, WHEELS, wheelPair, type DeviceKind, type DriveSettings, type Gesture, type Mount, type PortKind, type RobotBuild, type TaughtColor } from '../devices'
import { dotsOf, LARGEST_PICTURE, type RobotPicture } from './pictures'
import { readWav } from './wav'
import { measuredProblems, measuredSchema, type Measured } from './measured'
import { wiringSchema, type Wiring } from './wiring'
import { framesOf, placeFrames, within } from './frames'
import { documentText, nameText, plainNumber, quantity, readDocument, readPart, text, type Problem, type Read } from '../document'

export const ROBOT_VERSION = 1
const DEG = Math.PI / 180

const size = (min: number, max: number) => quantity('length', { min, max }).required()
const share = () => quantity('number', { min: 0, max: 1 }).required()
const offset = () => quantity('length', { min: -1, max: 1 })

const mountSchema = object({
  // The joint that carries it; left out, the chassis.
  on: nameText(),
  forward: offset().default(0),
  right: offset().default(0),
  // From the floor on the chassis, from the axis on a joint's link: read below.
  up: quantity('length', { min: -1, max: 1 }),
  facing: quantity('angle', { min: -180 * DEG, max: 180 * DEG }).default(0),
  tilt: quantity('angle', { min: -90 * DEG, max: 90 * DEG }).default(0),
}).noUnknown().strict(false)

const deviceSchema = object({
  name: nameText().required(),
  kind: text().oneOf(DEVICE_KINDS.map(k => k.kind), `allowed is one of ${DEVICE_KINDS.map(k => k.kind).join(', ')}`).required(),
  // Left out for what has no wire.
  port: text().default(''),
  mount: mountSchema,
  // What may stand here depends on the kind: read below.
  settings: mixed(),
}).noUnknown()

export const chassisSchema = object({
  length: size(0.03, 1), width: size(0.03, 1), height: size(0.01, 1),
  clearance: size(0.002, 0.2), mass: quantity('mass', { min: 0.02, max: 50 }).required(),
}).noUnknown()

export const robotSchema = object({
  mindpath: text().oneOf(['robot'], 'expected "robot": this is another kind of document').required(),
  version: plainNumber().oneOf([ROBOT_VERSION], `allowed is ${ROBOT_VERSION}`).required(),
  name: nameText().required(),
  about: documentText(),
  chassis: chassisSchema,
  drive: (wheelPair.schema as ObjectSchema<DriveSettings>).default(undefined),
  controller: object({
    tick: quantity('time', { min: 0.01, max: 0.1 }).default(0.02),
    // Whether devices are asked one after another, or all at once.
    looks: text().oneOf(['at once', 'in turn'], 'allowed is at once or in turn').default('at once'),
    ports: object().required(),
  }).noUnknown().required(),
  devices: array(deviceSchema).max(40).required(),
  colors: array(object({ name: nameText().required(), red: share(), green: share(), blue: share() }).noUnknown()).max(12).default([]),
  gestures: array(object({
    name: nameText().required(),
    poses: array(object({ after: quantity('time', { min: 0, max: 60 }).required(), joints: object().required() }).noUnknown()).min(1, 'a gesture needs a pose').max(60).required(),
  }).noUnknown()).max(40).default([]),
  clips: array(object({ name: nameText().required(), wav: text().required() }).noUnknown()).max(8).default([]),
  // How it is connected to a board; left out while nobody has thought of that.
  wiring: wiringSchema.default(undefined),
  // How this one errs, where that was measured.
  measured: measuredSchema.default(undefined),
  pictures: array(object({
    name: nameText().required(), size: array(plainNumber().integer('expected whole numbers').min(1).max(LARGEST_PICTURE).required()).length(2, 'expected dots across and down').required(), dots: text().required(),
  }).noUnknown()).max(16).default([]),
}).noUnknown().required()

/** A robot document as people write it. */
export type RobotDocument = object

export interface RobotDevice {
  readonly name: string
  readonly kind: DeviceKind
  readonly port: string
  /** The joint whose link carries it; null for the chassis. */
  readonly on: string | null
  readonly mount: Mount
  readonly parameters: object
}

/** A robot that can exist. SI units; the body's frame has its origin at the chassis' centre. */
export interface Robot extends RobotBuild {
  readonly name: string
  readonly about: string
  readonly chassis: { readonly length: number, readonly width: number, readonly height: number, readonly clearance: number, readonly mass: number }
  /** null for a robot that stands where it is, on a post. */
  readonly drive: DriveSettings | null
  /** Whether nothing carries it: it stands where it is. */
  readonly fixed: boolean
  /** Seconds. */
  readonly tick: number
  readonly ports: ReadonlyMap<string, readonly PortKind[]>
  /** What is mounted on it somewhere, as the document lists it. */
  readonly devices: readonly RobotDevice[]
  /** All that it senses and acts with: its wheels first, then what is mounted. */
  readonly fitted: readonly RobotDevice[]
  /** Devices are asked one after another. */
  readonly looksInTurn: boolean
  /** Colours beyond the common ones. */
  readonly taught: readonly TaughtColor[]
  readonly gestures: ReadonlyMap<string, Gesture>
  readonly clips: readonly { readonly name: string, readonly length: number, readonly wav: string }[]
  readonly pictures: readonly RobotPicture[]
  /** How it is connected to a board; null where that is not said. */
  readonly wiring: Wiring | null
  /** How this one errs; null where it was not measured. */
  readonly measured: Measured | null
}

type RawMount = { on?: string, forward: number, right: number, up?: number, facing: number, tilt: number }
type Raw = {
  name: string, about?: string
  chassis: Robot['chassis']
  drive?: DriveSettings
  controller: { tick: number, looks: string, ports: Record<string, unknown> }
  devices: { name: string, kind: string, port: string, mount: RawMount, settings: object }[]
  colors: { name: string, red: number, green: number, blue: number }[]
  gestures: { name: string, poses: { after: number, joints: Record<string, unknown> }[] }[]
  clips: { name: string, wav: string }[]
  pictures: { name: string, size: number[], dots: string }[]
  wiring?: Wiring
  measured?: Measured
}

/** Reads a robot document: a robot that can exist, or everything that is wrong with it. */
export function readRobot(value: unknown): Read<Robot> {
  const read = readDocument<Raw>(robotSchema, value)
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
  raw.drive?.ports.forEach((port, i) => take(port, i === 0 ? 'the left wheel' : 'the right wheel', 'motor', `drive.ports[${i}]`))
  const settings: object[] = []
  const names = new Set([WHEELS, 'robot', 'mode', 'run'])
  raw.devices.forEach((device, i) => {
    if (names.has(device.name)) problems.push({ path: `devices[${i}].name`, value: JSON.stringify(device.name), message: 'this name is taken; each device has its own' })
    names.add(device.name)
    const kind = DEVICE_KINDS.find(k => k.kind === device.kind)!
    if (kind.port !== null) take(device.port, device.name, kind.port, `devices[${i}].port`)
    else if (device.port !== '') problems.push({ path: `devices[${i}].port`, value: JSON.stringify(device.port), message: `a ${kind.title} has no wire: it takes no port` })
    const parameters = readPart<object>(kind.schema.noUnknown(), device.settings, `devices[${i}].settings`, problems)
    const wrong = parameters === null ? null : kind.problem?.(parameters) ?? null
    if (wrong !== null) problems.push({ ...wrong, path: `devices[${i}].settings.${wrong.path}` })
    settings.push(parameters ?? {})
  })
  checkMounts(raw, problems)
  if (raw.drive !== undefined) {
    const wrong = wheelPair.problem!(raw.drive)
    if (wrong !== null) problems.push({ ...wrong, path: `drive.${wrong.path}` })
    const { clearance } = raw.chassis
    if (clearance >= raw.drive.radius * 2) problems.push({ path: 'chassis.clearance', value: `${clearance} m`, message: `the chassis would ride above its wheels; allowed is less than ${raw.drive.radius * 2} m` })
  }
  const taught = readColors(raw, problems)
  const clips = readClips(raw, problems)
  const pictures = readPictures(raw, problems)
  if (problems.length > 0) return { ok: false, problems }
  const devices = raw.devices.map((d, i) => ({ ...d, settings: settings[i]! }))
  const gestures = readGestures(raw, problems)
  if (problems.length > 0) return { ok: false, problems }
  const robot: Robot = { ...build({ ...raw, devices }, ports), taught, gestures, clips, pictures, wiring: raw.wiring ?? null, measured: raw.measured ?? null }
  const wrong = robot.measured === null ? [] : measuredProblems(robot, robot.measured)
  return wrong.length > 0 ? { ok: false, problems: wrong } : { ok: true, value: robot }
}

/** Each mount names a joint, and no joint carries itself. */
function checkMounts(raw: Raw, problems: Problem[]): void {
  const joints = raw.devices.filter(d => DEVICE_KINDS.find(k => k.kind === d.kind)?.link !== undefined).map(d => d.name)
  raw.devices.forEach((device, i) => {
    const { on } = device.mount
    const path = `devices[${i}].mount.on`
    if (on !== undefined && !joints.includes(on)) {
      problems.push({ path, value: JSON.stringify(on), message: `expected the name of a joint that carries it, or nothing for the chassis; this robot has ${joints.join(', ') || 'no joint'}` })
      return
    }
    const seen = new Set([device.name])
    for (let at = on; at !== undefined; at = raw.devices.find(d => d.name === at)?.mount.on) {
      if (seen.has(at)) {
        problems.push({ path, value: JSON.stringify(on), message: `${device.name} would carry itself` })
        return
      }
      seen.add(at)
    }
    if (on === undefined && (device.mount.up ?? 0.05) < 0) problems.push({ path: `devices[${i}].mount.up`, value: `${device.mount.up} m`, message: 'on the chassis, up is the height above the floor; allowed is 0 or more' })
  })
}

/** Taught colours, and that cameras look for colours that there are. */
function readColors(raw: Raw, problems: Problem[]): TaughtColor[] {
  const known = new Set<string>(COLORS)
  raw.colors.forEach((c, i) => {
    if (known.has(c.name)) problems.push({ path: `colors[${i}].name`, value: JSON.stringify(c.name), message: 'this colour has a name already; choose another' })
    known.add(c.name)
  })
  raw.devices.forEach((d, i) => {
    const wanted = (d.settings as { colors?: unknown } | undefined)?.colors
    if (d.kind !== 'camera' || !Array.isArray(wanted)) return
    wanted.forEach((c: unknown, k) => {
      if (typeof c === 'string' && (!known.has(c) || c === 'none')) problems.push({ path: `devices[${i}].settings.colors[${k}]`, value: JSON.stringify(c), message: `allowed is one of ${[...known].filter(n => n !== 'none').join(', ')}` })
    })
  })
  return raw.colors.map(c => ({ name: c.name, paint: [c.red, c.green, c.blue] as Rgb }))
}

/** All clips of a robot together, bytes: what a save takes. */
export const LARGEST_CLIPS = 3_000_000

function readClips(raw: Raw, problems: Problem[]): Robot['clips'][number][] {
  const bytes = raw.clips.reduce((sum, c) => sum + c.wav.length * 3 / 4, 0)
  if (bytes > LARGEST_CLIPS) problems.push({ path: 'clips', value: `${(bytes / 1e6).toFixed(1)} MB`, message: `all clips together may be up to ${LARGEST_CLIPS / 1e6} MB` })
  return raw.clips.flatMap((clip, i) => {
    const read = readWav(clip.wav)
    if (read.ok) return [{ name: clip.name, length: read.seconds, wav: clip.wav }]
    problems.push({ path: `clips[${i}].wav`, value: `${clip.wav.slice(0, 24)}…`, message: read.message })
    return []
  })
}

function readPictures(raw: Raw, problems: Problem[]): RobotPicture[] {
  const names = new Set<string>()
  return raw.pictures.map(({ name, size: [width, height], dots }, i) => {
    if (names.has(name)) problems.push({ path: `pictures[${i}].name`, value: JSON.stringify(name), message: 'this name is taken; each picture has its own' })
    names.add(name)
    const picture: RobotPicture = { name, size: [width!, height!], dots }
    if (dotsOf(picture) === null) problems.push({ path: `pictures[${i}].dots`, value: `${dots.slice(0, 24)}…`, message: `expected ${height} rows of ${Math.ceil(width! / 8)} bytes as base64 text` })
    return picture
  })
}

/** Gestures: poses in time, of joints that there are, within what they can reach. */
function readGestures(raw: Raw, problems: Problem[]): ReadonlyMap<string, Gesture> {
  const gestures = new Map<string, Gesture>()
  raw.gestures.forEach((gesture, i) => {
    if (gestures.has(gesture.name)) problems.push({ path: `gestures[${i}].name`, value: JSON.stringify(gesture.name), message: 'this name is taken; each gesture has its own' })
    const poses = gesture.poses.map((pose, k) => {
      const path = `gestures[${i}].poses[${k}]`
      if (k > 0 && pose.after < gesture.poses[k - 1]!.after) problems.push({ path: `${path}.after`, value: `${pose.after} s`, message: 'poses stand in the order of time; this one comes before the one above it' })
      const joints: Record<string, number> = {}
      for (const [name, to] of Object.entries(pose.joints)) {
        const device = raw.devices.find(d => d.name === name)
        if (device === undefined || (device.kind !== 'joint' && device.kind !== 'slide')) {
          problems.push({ path: `${path}.joints`, value: JSON.stringify(name), message: 'this robot has no joint of that name' })
          continue
        }
        const settings = readPart(DEVICE_KINDS.find(d => d.kind === device.kind)!.schema.noUnknown(), device.settings, '', []) as { from: number, to: number } | null
        if (settings === null) continue
        const field = quantity(device.kind === 'joint' ? 'angle' : 'length', { min: settings.from, max: settings.to }).required()
        const value = readPart(object({ [name]: field }), { [name]: to }, `${path}.joints`, problems) as Record<string, number> | null
        if (value !== null) joints[name] = value[name]!
      }
      return { after: pose.after, joints }
    })
    gestures.set(gesture.name, { poses })
  })
  return gestures
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

function build(raw: Raw, ports: Robot['ports']): Omit<Robot, 'taught' | 'gestures' | 'clips' | 'pictures' | 'wiring' | 'measured'> {
  const { chassis, drive } = raw
  const height = chassis.clearance + chassis.height / 2
  const square = (x: number) => x * x
  const devices = raw.devices.map((d): RobotDevice => ({
    name: d.name,
    kind: DEVICE_KINDS.find(k => k.kind === d.kind)!,
    port: d.port,
    on: d.mount.on ?? null,
    mount: {
      forward: d.mount.forward, left: -d.mount.right, yaw: -d.mount.facing, pitch: d.mount.tilt,
      up: d.mount.on === undefined ? (d.mount.up ?? 0.05) - height : d.mount.up ?? 0,
    },
    parameters: d.settings,
  }))
  // The arm counts as part of one rigid body, at the pose in which it begins.
  const links = linkMasses(devices)
  const mass = links.reduce((sum, l) => sum + l.mass, chassis.mass)
  // A homogeneous box: m (b² + c²) / 12 about each axis; links by Steiner's theorem.
  const about = (a: number, b: number, far: (l: LinkMass) => number): number =>
    chassis.mass * (square(a) + square(b)) / 12 + links.reduce((sum, l) => sum + l.inertia + l.mass * far(l), 0)
  const inertia = {
    x: about(chassis.width, chassis.height, l => square(l.y) + square(l.z)),
    y: about(chassis.length, chassis.height, l => square(l.x) + square(l.z)),
    z: about(chassis.length, chassis.width, l => square(l.x) + square(l.y)),
  }
  return {
    name: raw.name,
    about: raw.about ?? '',
    chassis, height, mass, inertia,
    make: USUAL_MAKE,
    balance: [links.reduce((s, l) => s + l.mass * l.x, 0) / mass, links.reduce((s, l) => s + l.mass * l.y, 0) / mass],
    drive: drive ?? null,
    fixed: drive === undefined,
    tick: raw.controller.tick,
    looksInTurn: raw.controller.looks === 'in turn',
    ports,
    devices,
    fitted: drive === undefined ? devices : [{ name: WHEELS, kind: wheelPair, port: drive.ports.join(' '), on: null, mount: AT_CENTRE, parameters: drive }, ...devices],
  }
}

/** Of what sits nowhere in particular. */
const AT_CENTRE: Mount = { forward: 0, left: 0, up: 0, yaw: 0, pitch: 0 }

interface LinkMass { readonly mass: number, readonly inertia: number, readonly x: number, readonly y: number, readonly z: number }

/** Mass and place of each joint's link in the chassis' frame. */
function linkMasses(devices: readonly RobotDevice[]): LinkMass[] {
  const frames = framesOf({ devices })
  const poses = placeFrames(frames, [])
  return frames.map(({ link }, i) => {
    const [x, y, z] = link.center
    const { position } = within(poses[i]!, { position: { x, y, z }, rotation: { x: 0, y: 0, z: 0, w: 1 } })
    return { mass: link.mass, inertia: link.inertia, ...position }
  })
}
