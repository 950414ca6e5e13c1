import type { ObjectSchema } from 'yup'
import type { DeviceKind } from './device'

/** One thing that can be set on a device: what it takes and what it does. */
export interface SettingSpec {
  readonly name: string
  /** As a person says what may stand there: "2 cm to 10 m". */
  readonly allowed: string
  /** The value that holds when nothing is written, as it would be written; null where there is none. */
  readonly usual: string | null
  readonly says: string
  /** The words of choice, where only some fit. */
  readonly choices: readonly string[] | null
  readonly kind: 'quantity' | 'number' | 'words' | 'list'
}

/** What each setting does. `kind.name` where a kind means something of its own by it. */
const SAYS: Readonly<Record<string, string>> = {
  'range': 'The farthest that it can tell.',
  'nearest': 'The nearest that it can tell; what is nearer reads as this.',
  'cone': 'How wide it looks, from one side to the other.',
  'period': 'Time between two looks.',
  'latency': 'Time from a look until the program knows.',
  'dropout': 'Share of looks that are lost beside those that realism loses.',
  'limit': 'The fastest turn that it can measure.',
  'force': 'How hard it can push.',
  'bumper.force': 'How hard the pad must be pressed.',
  'touch.force': 'How hard the pad must be pressed.',
  'claw.force': 'How hard the jaws press.',
  'magnet.force': 'How hard it holds at its face.',
  'width': 'How wide it is.',
  'height': 'How high it is.',
  'camera.width': 'Pixels across.',
  'camera.height': 'Pixels down.',
  'field of view': 'How wide the picture is, as an angle.',
  'colors': 'The colours that it looks for.',
  'tags': 'The square tags that it looks for, 0 to 15.',
  'spot': 'Diameter of the spot that it looks at.',
  'reach': 'How far its own light reaches.',
  'span': 'How far its mirror is.',
  'axis': 'Which way it moves.',
  'from': 'The lower end of its range.',
  'to': 'The upper end of its range.',
  'home': 'Where it goes when it is sent home.',
  'start': 'Where it stands when a run begins; home when left out.',
  'speed': 'How fast it moves at most.',
  'torque': 'How hard it can turn.',
  'stiffness': 'How tightly it holds its place: the frequency of its loop, Hz.',
  'length': 'How long the moving part is.',
  'mass': 'What the moving part weighs.',
  'opening': 'How far the jaws open.',
  'depth': 'How long the jaws are.',
  'falloff': 'The gap over which its force falls to a quarter.',
  'diameter': 'How wide its face is.',
  'ticks': 'Encoder ticks a turn.',
  'carries': 'What turns with it: a roller of rubber, a brush, or nothing.',
  'motor.axis': 'How a roller or brush lies: across, or upright.',
  'motor.diameter': 'How thick roller or brush are.',
  'motor.width': 'How long roller or brush are.',
  'columns': 'Small letters on a line, 6 dots wide each.',
  'lines': 'Lines of small letters, 8 dots high each.',
  'display.width': 'How wide its glass is.',
  'press': 'How hard roller or brush press on what they touch.',
  'plate.length': 'How thick it is, forward.',
  'bin.length': 'How long it is.',
  'wall': 'How thick its boards are.',
  'open': 'Which side is open: the top, or the front (then it has no floor).',
  'friction': 'How much things rub on it.',
  'volume': 'Loudness at half a metre.',
  'highest': 'The highest pitch, Hz.',
}

interface Described {
  readonly type: string
  readonly default?: unknown
  readonly meta?: { readonly quantity?: string, readonly min?: number, readonly max?: number }
  readonly oneOf?: readonly unknown[]
  readonly tests?: readonly { readonly name?: string, readonly params?: Readonly<Record<string, unknown>> }[]
}

/** Puts a value in SI units as people write it. */
export type Write = (quantity: string, value: number) => string

/** The settings of a kind, read from its own schema. */
export function settingsOf(kind: DeviceKind, write: Write): readonly SettingSpec[] {
  return describeSettings(kind.schema, name => SAYS[`${kind.kind}.${name}`] ?? SAYS[name] ?? '', write)
}

/** What can be set by a schema of quantities, numbers, words and lists. */
export function describeSettings(schema: ObjectSchema<object>, meaning: (name: string) => string, write: Write): readonly SettingSpec[] {
  const fields = schema.describe().fields as unknown as Readonly<Record<string, Described>>
  return Object.entries(fields).map(([name, field]) => {
    const says = meaning(name)
    const quantity = field.meta?.quantity
    if (quantity !== undefined) {
      const { min, max } = field.meta!
      const allowed = min !== undefined && max !== undefined ? `${write(quantity, min)} to ${write(quantity, max)}` : quantity
      return { name, allowed, says, usual: typeof field.default === 'number' ? write(quantity, field.default) : null, choices: null, kind: 'quantity' as const }
    }
    const bound = (test: string): unknown => field.tests?.find(t => t.name === test)?.params?.[test]
    if (field.type === 'number') return { name, allowed: `${String(bound('min'))} to ${String(bound('max'))}`, says, usual: field.default === undefined ? null : String(field.default), choices: null, kind: 'number' as const }
    if (field.type === 'array') return { name, allowed: 'a list', says, usual: JSON.stringify(field.default ?? []), choices: null, kind: 'list' as const }
    const choices = (field.oneOf ?? []).map(String)
    return { name, allowed: choices.join(', '), says, usual: field.default === undefined ? null : String(field.default), choices: choices.length > 0 ? choices : null, kind: 'words' as const }
  })
}
