import { describeSettings, type SettingSpec, type Write } from '../devices'
import { wheelPair } from '../devices'
import { chassisSchema } from './robot'

const SAYS: Readonly<Record<string, string>> = {
  'chassis.length': 'From back to front.',
  'chassis.width': 'From side to side, without wheels.',
  'chassis.height': 'From its underside to its top.',
  'chassis.clearance': 'From the floor to its underside.',
  'chassis.mass': 'What it weighs, without arms.',
  'drive.radius': 'Of the two driven wheels.',
  'drive.width': 'Of a tyre.',
  'drive.track': 'Between the middles of the tyres.',
  'drive.forward': 'Where the axle sits, before the middle.',
  'drive.top speed': 'The fastest that the motors can.',
  'drive.cruise speed': 'For a drive that names no speed.',
  'drive.turning speed': 'For a turn that names no speed.',
  'drive.acceleration': 'How fast it speeds up and brakes.',
  'drive.stall torque': 'Where a motor stands still.',
  'drive.dead zone': 'The power below which nothing moves.',
  'drive.grip': 'Friction of the tyres; typical on wood 0.9.',
  'drive.encoder ticks': 'Ticks a turn of the wheel.',
}

/** What can be set by one value on a robot's chassis and on its drive. */
export function bodySettings(write: Write): { readonly chassis: readonly SettingSpec[], readonly drive: readonly SettingSpec[] } {
  const of = (part: 'chassis' | 'drive') => describeSettings(part === 'chassis' ? chassisSchema : wheelPair.schema, name => SAYS[`${part}.${name}`] ?? '', write)
  // Ports and castors are lists of their own.
  return { chassis: of('chassis'), drive: of('drive').filter(s => s.kind !== 'list') }
}
