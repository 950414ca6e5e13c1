import { WHEELS } from '../devices'
import type { Problem, Read } from '../document'
import type { RobotFacts } from '../robot'
import { kindOf, readQuantity, type KindName } from '../units'
import { erringReading } from './sensors'
import type { EndPose } from './wheels'

/** What people say of a run: where it ended, and what was true in it. */

const refused = (value: string, message: string): { readonly ok: false, readonly problems: readonly Problem[] } => ({ ok: false, problems: [{ path: '', value, message }] })

/** Where a robot stood at the end, as in `3 cm, -5 cm, 4 deg`: forward and right of where it began and, if that was measured, turned to the right. */
export function readEnd(said: string): Read<EndPose> {
  const [forward = '', right = '', heading, ...more] = said.split(',')
  const expected = 'expected forward, right and, if it was measured, how far it is turned, such as 3 cm, -5 cm, 4 deg'
  if (more.length > 0) return refused(said, expected)
  const numbers: number[] = []
  for (const [text, kind] of [[forward, 'length'], [right, 'length'], ...heading === undefined ? [] : [[heading, 'angle'] as const]] as readonly (readonly [string, KindName])[]) {
    const found = readQuantity(text, kindOf(kind))
    if (!found.ok) return refused(said, `${found.reason}; ${expected}`)
    numbers.push(found.value)
  }
  return { ok: true, value: { forward: numbers[0]!, right: numbers[1]!, heading: numbers[2] ?? null } }
}

/** What is true of devices, as in `sonar 50 cm, rear 20 cm`: by their names, SI. */
export function readTruths(said: string, facts: RobotFacts): Read<Readonly<Record<string, number>>> {
  const truths: Record<string, number> = {}
  for (const part of said.split(',').map(p => p.trim()).filter(p => p !== '')) {
    const [name = '', ...rest] = part.split(/\s+/)
    const device = facts.devices.find(d => d.name === name && d.name !== WHEELS)
    const type = device?.readings[erringReading(device)]?.type
    if (type?.type !== 'quantity') return refused(part, `expected a device and a value, such as sonar 50 cm; the robot has ${facts.devices.map(d => d.name).filter(n => n !== WHEELS).join(', ')}`)
    const read = readQuantity(rest.join(' '), type.kind)
    if (!read.ok) return refused(part, read.reason)
    truths[name] = read.value
  }
  return { ok: true, value: truths }
}
