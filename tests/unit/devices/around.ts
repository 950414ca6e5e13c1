import { groundOf, lightOf, readArena, soundOf, type Arena } from '../../../core/arena'
import { DEVICE_KINDS, USUAL_MAKE, type DeviceModel, type Mount, type RealismName, type Surroundings } from '../../../core/devices'
import { Scene, Solid, resting, yawQuaternion, type BodyState, type Quaternion } from '../../../core/geometry'
import { RandomStream } from '../../../core/random'
import { Rasteriser } from '../../../core/vision'

/** What one device needs around it in a test: an arena, a body, solids. */

export const DEG = Math.PI / 180

/** An arena from a few fields of its document; 4 m by 3 m of grey deck unless told otherwise. */
export function arenaWith(fields: object = {}): Arena {
  const read = readArena({ mindpath: 'arena', version: 1, name: 'test', size: ['4 m', '3 m'], start: { at: ['1 m', '1 m'] }, ...fields })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.value
}

export function bodyAt(x: number, y: number, z: number, rotation: Quaternion = yawQuaternion(0)): BodyState {
  return resting({ position: { x, y, z }, rotation })
}

export interface Setup {
  readonly arena?: Arena
  readonly solids?: readonly Solid[]
  readonly body?: BodyState
  readonly time?: number
  readonly press?: number
}

export function surroundings({ arena = arenaWith(), solids = [], body = bodyAt(0, 0, 0), time = 0, press = 0 }: Setup = {}): Surroundings {
  const scene = new Scene()
  scene.solids.push(...solids)
  for (const d of arena.decks) {
    scene.ground.push(new Solid('deck', { shape: 'box', hx: d.size[0] / 2, hy: d.size[1] / 2, hz: 0.15 }, { friction: 1, echo: 'smooth', paint: [0.4, 0.4, 0.4], steel: false, tag: null, part: null }, { x: d.at[0], y: d.at[1], z: -0.15 }, yawQuaternion(0)))
  }
  return {
    scene, solids: scene.solids, ground: groundOf(arena), light: lightOf(arena), sound: soundOf(arena), rasteriser: new Rasteriser(arena),
    body, chassis: body, commands: new Float64Array(8), time, pressOn: () => press,
  }
}

/** A device of a kind with settings as a robot document writes them. */
export function make(kind: string, options: { readonly settings?: object, readonly mount?: Partial<Mount>, readonly realism?: RealismName, readonly seed?: number } = {}): DeviceModel {
  const found = DEVICE_KINDS.find(k => k.kind === kind)!
  return found.create({
    name: 'd', parameters: found.schema.validateSync(options.settings ?? {}), mount: { forward: 0, left: 0, up: 0, yaw: 0, pitch: 0, ...options.mount },
    realism: options.realism ?? 'ideal', noise: RandomStream.named(options.seed ?? 1, 'noise/d'), taught: [], channel: 0, tick: 0.02, build: { height: 0.1, mass: 1, inertia: { x: 0.01, y: 0.01, z: 0.01 }, balance: [0, 0], make: USUAL_MAKE },
  })
}

/** One look: the readings by their names (`sees(orange)` for what is of something). */
export function look(kind: string, setup: Setup, options: Parameters<typeof make>[1] = {}): Readonly<Record<string, number>> {
  const found = DEVICE_KINDS.find(k => k.kind === kind)!
  const parameters = found.schema.validateSync(options.settings ?? {})
  const names = found.readings(parameters).map(r => r.of === null ? r.name : `${r.name}(${r.of})`)
  const into = new Float64Array(names.length)
  make(kind, options).look(surroundings(setup), into)
  return Object.fromEntries(names.map((n, i) => [n, into[i]!]))
}
