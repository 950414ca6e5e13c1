import { WHEELS, type Connection } from '../devices'
import type { Robot } from '../robot'
import type { Kind } from '../units'

/** What hangs on a port of a robot, and how it may be connected to a board. */
export interface Fitted {
  readonly port: string
  /** As a person knows it: the device's name, or which wheel it is. */
  readonly name: string
  readonly title: string
  /** The usual way first; empty where no board can have it. */
  readonly connections: readonly Connection[]
  /** What its first reading is measured in; null for what is not measured. */
  readonly reads: Kind | null
  /** Whether it is moved between two ends. */
  readonly ends: boolean
}

/** All of a robot that has a wire: the motors of its wheels first, then what is mounted, as the document lists it. */
export function fittedOn({ drive, fitted }: Robot): readonly Fitted[] {
  return fitted.flatMap(({ name, kind, port, parameters }): Fitted[] => {
    const [first] = kind.readings(parameters)
    const of = { title: kind.title, connections: kind.connections ?? [], reads: first?.type.type === 'quantity' ? first.type.kind : null, ends: kind.link !== undefined || kind.jaws !== undefined }
    if (name === WHEELS && drive !== null) return drive.ports.map((at, i) => ({ ...of, port: at, name: i === 0 ? 'left wheel' : 'right wheel', title: 'motor of a wheel' }))
    return kind.port === null ? [] : [{ ...of, port, name }]
  })
}
