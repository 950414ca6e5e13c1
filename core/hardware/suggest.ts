import type { Connection } from '../devices'
import type { PortWiring, Robot, Wiring } from '../robot'
import type { Board, Pin } from './board'
import { DIVIDER, busClaims, whyNot, type Claim } from './claims'
import { unfitVoltage } from './check'
import { fittedOn, type Fitted } from './fitted'

/** A way to connect a robot to a board, and what found no room on it. */
export interface Suggestion {
  readonly wiring: Wiring
  /** What is left out, by name. */
  readonly leftOut: readonly string[]
}

/** So many steps are tried before something is left out. */
const STEPS = 20_000

/** What was chosen so far; each step adds to it and takes it back. */
interface Chosen {
  readonly claims: Claim[]
  readonly ports: Record<string, PortWiring>
  /** `BUS ADDRESS` of each part. */
  readonly addresses: Set<string>
}

/**
 * Connects all of a robot that a board can have: each in the usual way where that is possible, pins that can do much kept for
 * what needs it. Backtracks; where all does not fit, what is hardest to place is left out, and the rest tried anew.
 */
export function suggestWiring(robot: Robot, board: Board): Suggestion {
  let open = ordered(board, fittedOn(robot).filter(f => f.connections.length > 0))
  const leftOut: string[] = []
  for (;;) {
    const tried = tryAll(board, open)
    if (tried.ports !== null) return { wiring: { board: board.name, ports: inOrder(robot, tried.ports) }, leftOut }
    leftOut.push(open[tried.deepest]!.name)
    open = open.filter((_, i) => i !== tried.deepest)
  }
}

const inOrder = (robot: Robot, ports: Readonly<Record<string, PortWiring>>): Readonly<Record<string, PortWiring>> =>
  Object.fromEntries(fittedOn(robot).flatMap(({ port }) => ports[port] === undefined ? [] : [[port, ports[port]]]))

/** What has the fewest pins to choose from comes first; a bus, whose pins cannot be chosen, before all. */
function ordered(board: Board, fitted: readonly Fitted[]): readonly Fitted[] {
  const choice = ({ connections: [usual] }: Fitted): number => usual!.addresses !== undefined ? 0 : Math.min(...usual!.lines.map(line => board.pins.filter(p => p.reserved === null && p.can.includes(line.needs)).length))
  return fitted.map(of => ({ of, rank: choice(of) })).sort((a, b) => a.rank - b.rank).map(x => x.of)
}

/** The wiring of all of them; else how far it came at most. */
function tryAll(board: Board, fitted: readonly Fitted[]): { readonly ports: Readonly<Record<string, PortWiring>>, readonly deepest: number } | { readonly ports: null, readonly deepest: number } {
  const chosen: Chosen = { claims: [], ports: {}, addresses: new Set() }
  let [steps, deepest] = [0, 0]
  // Of pins that are alike one need be tried; those that can do least come first.
  const pins = [...board.pins].filter(p => p.reserved === null).sort((a, b) => a.can.length - b.can.length)

  function place(i: number): boolean {
    deepest = Math.max(deepest, i)
    return i === fitted.length || fitted[i]!.connections.some(connection => connect(i, connection))
  }
  function connect(i: number, connection: Connection): boolean {
    if (connection.addresses === undefined) return lines(i, connection, 0, {}, {})
    for (const bus of board.buses) {
      const address = connection.addresses.find(a => !chosen.addresses.has(`${bus.name} ${a}`))
      const taken = chosen.claims.some(c => c.user === `the bus ${bus.name}`) ? [] : busClaims(board, bus.name)
      if (address === undefined || taken.some(claim => chosen.claims.some(c => c.pin.name === claim.pin.name))) continue
      chosen.addresses.add(`${bus.name} ${address}`)
      chosen.claims.push(...taken)
      if (lines(i, connection, 0, {}, { bus: bus.name, address })) return true
      chosen.claims.length -= taken.length
      chosen.addresses.delete(`${bus.name} ${address}`)
    }
    return false
  }
  function lines(i: number, connection: Connection, k: number, at: Readonly<Record<string, string>>, more: Partial<PortWiring>): boolean {
    const { port, name } = fitted[i]!
    const line = connection.lines[k]
    if (line === undefined) {
      chosen.ports[port] = { by: connection.name, pins: at, ...more, ...connection.lines.some(l => l.volts !== undefined && unfitVoltage(board, l.volts) !== null) ? { divider: DIVIDER } : {} }
      return place(i + 1)
    }
    const tried = new Set<string>()
    for (const pin of pins) {
      if (tried.has(likeness(pin))) continue
      if (++steps > STEPS) return false
      const claim: Claim = { user: name, line, pin }
      if (whyNot(board, claim, chosen.claims) !== null) continue
      tried.add(likeness(pin))
      chosen.claims.push(claim)
      if (lines(i, connection, k + 1, { ...at, [line.name]: pin.name }, more)) return true
      chosen.claims.pop()
    }
    return false
  }
  return place(0) ? { ports: chosen.ports, deepest } : { ports: null, deepest }
}

const likeness = ({ can, timer, channel }: Pin): string => `${can.join()} ${timer} ${channel}`
