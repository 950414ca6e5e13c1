import type { Connection, Line } from '../devices'
import type { PortWiring, Robot, Wiring } from '../robot'
import type { Board, Pin } from './board'
import { DIVIDER, busClaims, claimsOf, pinsFor, whyNot, type Claim } from './claims'
import { busesOf, connectionOf, needsDivider, wokenBeside } from './check'
import { fittedOn, type Fitted } from './fitted'

/** A way to connect a robot to a board, and what found no room on it. */
export interface Suggestion {
  readonly wiring: Wiring
  /** What is left out, by name. */
  readonly leftOut: readonly string[]
}

/** How a robot is connected to a board: as its document says, where that is about this board (`own`), else as would do. */
export function wiringOn(robot: Robot, board: Board): Suggestion & { readonly own: boolean } {
  return robot.wiring?.board === board.name ? { wiring: robot.wiring, leftOut: [], own: true } : { ...suggestWiring(robot, board), own: false }
}

/**
 * How what is on a port is connected in another way, all else as it is: on the pins that would do where those are of that way, else on those that it has now and others that are free. A line for
 * which there is none is left for people to place.
 */
export function connectedBy(robot: Robot, board: Board, wiring: Wiring, { port, name: user, connections }: Fitted, by: string): PortWiring {
  const would = suggestWiring(robot, board).wiring.ports[port]
  if (would?.by === by) return would
  const connection = connections.find(c => c.name === by)!
  const { addresses, lines } = connection
  const now = wiring.ports[port]?.pins ?? {}
  const bus = board.buses[0]?.name
  const taken = Object.entries(wiring.ports).flatMap(([other, w]) => other !== port && w.bus === bus ? [w.address] : [])
  const others = fittedOn(robot).filter(f => f.port !== port)
  const buses = new Set([...busesOf(others, wiring), ...addresses === undefined || bus === undefined ? [] : [bus]])
  const claims = [...[...buses].flatMap(b => busClaims(board, b)), ...others.flatMap((f) => { const way = connectionOf(f, wiring); return way === undefined ? [] : claimsOf(board, f.name, way, wiring.ports[f.port]!) })]
  return {
    by, pins: pinsBeside(board, user, lines, claims, now) ?? Object.fromEntries(lines.flatMap(({ name }) => now[name] === undefined ? [] : [[name, now[name]]])),
    ...addresses === undefined ? {} : { bus, address: addresses.find(a => !taken.includes(a)) ?? addresses[0] },
    ...needsDivider(board, connection) ? { divider: DIVIDER } : {},
  }
}

/** Pins for all lines of a device beside what is taken: where it has one that will do, that; those that can do least before others, beside its first. null where there are none for all. */
function pinsBeside(board: Board, user: string, lines: readonly Line[], claims: readonly Claim[], now: Readonly<Record<string, string>>): Readonly<Record<string, string>> | null {
  const [line, ...more] = lines
  if (line === undefined) return {}
  const side = claims.find(c => c.user === user)?.pin.side
  const rank = (pin: Pin): number => pin.name === now[line.name] ? -1 : pin.can.length
  const tried = new Set<string>()
  for (const pin of pinsFor(board, line.needs).toSorted((a, b) => rank(a) - rank(b) || Number(b.side === side) - Number(a.side === side))) {
    const claim: Claim = { user, line, pin }
    if (tried.has(likeness(pin)) || whyNot(board, claim, claims) !== null) continue
    tried.add(likeness(pin))
    const others = pinsBeside(board, user, more, [...claims, claim], now)
    if (others !== null) return { [line.name]: pin.name, ...others }
  }
  return null
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
  const choice = ({ connections: [usual] }: Fitted): number => usual!.addresses !== undefined ? 0 : Math.min(...usual!.lines.map(line => pinsFor(board, line.needs).length))
  return fitted.map(of => ({ of, rank: choice(of) })).sort((a, b) => a.rank - b.rank).map(x => x.of)
}

/** The wiring of all of them; else how far it came at most. */
function tryAll(board: Board, fitted: readonly Fitted[]): { readonly ports: Readonly<Record<string, PortWiring>>, readonly deepest: number } | { readonly ports: null, readonly deepest: number } {
  const chosen: Chosen = { claims: [], ports: {}, addresses: new Set() }
  let [steps, deepest] = [0, 0]
  // Of pins that are alike one need be tried; those that can do least come first, and of these those beside the device's other pins.
  const least = board.pins.filter(p => p.reserved === null).sort((a, b) => a.can.length - b.can.length)
  const beside = (side: Pin['side']): readonly Pin[] => [...least].sort((a, b) => a.can.length - b.can.length || Number(b.side === side) - Number(a.side === side))
  const pins = { none: least, left: beside('left'), right: beside('right') }
  const sideOf = new Map(board.pins.map(p => [p.name, p.side]))

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
      chosen.ports[port] = { by: connection.name, pins: at, ...more, ...needsDivider(board, connection) ? { divider: DIVIDER } : {} }
      // What came before it may be of its kind, or the other way round.
      const placed = connection.addresses === undefined ? [] : fitted.slice(0, i + 1)
      return placed.every(f => wokenBeside(f, placed, { board: board.name, ports: chosen.ports }) === null) && place(i + 1)
    }
    const tried = new Set<string>()
    const [first] = Object.values(at)
    for (const pin of pins[first === undefined ? 'none' : sideOf.get(first)!]) {
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
