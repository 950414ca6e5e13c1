import type { Robot, Wiring } from '../robot'
import type { Board } from './board'
import { connectionOf, hex } from './check'
import { fittedOn, type Fitted } from './fitted'

/** One wire between a device and a pin, or what a pair of wires of a bus is for it. */
export interface Wire {
  readonly line: string
  readonly pin: string
  /** What it has besides: a divider (the first resistor from the line to the pin, the second from the pin to ground), an address; empty for a plain wire. */
  readonly note: string
}

/** What hangs on a port with all its wires, as somebody builds it. */
export interface WiredPort {
  readonly fitted: Fitted
  /** How it is connected, and what such a part is like; null where it is not, or cannot be. */
  readonly by: { readonly name: string, readonly says: string } | null
  readonly wires: readonly Wire[]
  /** Whether the board feeds it, and whether the battery does; neither for what lives on its pins. */
  readonly fed: { readonly board: boolean, readonly battery: boolean }
}

/** Every port of a robot with its wires to a board; pins that are not given are a dash. */
export function wiredPorts(robot: Robot, board: Board, wiring: Wiring): readonly WiredPort[] {
  return fittedOn(robot).map((fitted): WiredPort => {
    const connection = connectionOf(fitted, wiring)
    const wired = wiring.ports[fitted.port]
    if (connection === undefined || wired === undefined) return { fitted, by: null, wires: [], fed: { board: false, battery: false } }
    const bus = board.buses.find(b => b.name === wired.bus)
    const { divider, address } = wired
    return {
      fitted, by: { name: connection.name, says: connection.says },
      wires: [
        ...connection.addresses === undefined ? [] : [
          { line: 'data', pin: bus?.sda ?? '–', note: address === undefined ? '' : `address ${hex(address)}` },
          { line: 'clock', pin: bus?.scl ?? '–', note: '' },
        ],
        ...connection.lines.map(({ name, volts }) => ({ line: name, pin: wired.pins[name] ?? '–', note: volts === undefined || divider === undefined ? '' : `divider ${divider[0]} kΩ, ${divider[1]} kΩ` })),
      ],
      fed: { board: connection.feeds > 0, battery: connection.battery === true },
    }
  })
}
