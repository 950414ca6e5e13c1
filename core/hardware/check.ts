import type { Connection } from '../devices'
import type { PortWiring, Robot, Wiring } from '../robot'
import { kindName, readQuantity } from '../units'
import type { Board } from './board'
import { busClaims, claimsOf, divided, pinsFor, whyNot, wordOf, type Claim } from './claims'
import { fittedOn, type Fitted } from './fitted'

/** What is to be said about a wiring: where in it, what stands there, and what is allowed or what follows. */
export interface WiringProblem {
  /** `error`: it cannot be built so; `note`: it can, and something is lost or still to be given. */
  readonly severity: 'error' | 'note'
  /** The port that it is about; null for all of it. */
  readonly port: string | null
  readonly path: string
  readonly value: string
  readonly message: string
}

/** Of a board's supply: above this share of it an input counts as high, and by so many volts more it is damaged. */
const HIGH = 0.6
const TOO_MUCH = 0.3

/** How a voltage is too much or too little for a board's pin; null where it is neither. */
export function unfitVoltage({ volts: board }: Board, volts: number): string | null {
  if (volts > board + TOO_MUCH) return `${volts.toFixed(1)} V would damage a pin that takes ${board} V`
  return volts < HIGH * board ? `${volts.toFixed(1)} V is too little to be told from nothing: ${(HIGH * board).toFixed(1)} V or more is` : null
}

/** Whether a line of a way to connect something gives more or less than a board's pin takes: two resistors bring it down. */
export const needsDivider = (board: Board, { lines }: Connection): boolean => lines.some(l => l.volts !== undefined && unfitVoltage(board, l.volts) !== null)

/** All that is to be said about how a robot is connected to a board, port by port. */
export function checkWiring(robot: Robot, board: Board, wiring: Wiring): readonly WiringProblem[] {
  const found: WiringProblem[] = []
  const fitted = fittedOn(robot)
  const say = (severity: WiringProblem['severity'], port: string | null, path: string, value: string, message: string): void => { found.push({ severity, port, path: `wiring.${path}`, value, message }) }
  for (const port of Object.keys(wiring.ports)) {
    if (!fitted.some(f => f.port === port)) say('error', port, `ports.${port}`, port, `nothing is on a port of this name; there is something on ${fitted.map(f => f.port).join(', ')}`)
  }
  const used = busesOf(fitted, wiring)
  const claims: Claim[] = used.flatMap(bus => busClaims(board, bus))
  const onBus = new Map<string, string>()
  let [feeds, flows] = [0, 0]
  for (const of of fitted) {
    const { port, name } = of
    const wired = wiring.ports[port]
    if (of.connections.length === 0) { say('note', port, `ports.${port}`, name, `no board here can have a ${of.title}: the robot is without it`); continue }
    if (wired === undefined) {
      const lacks = lacking(board, of)
      if (lacks === null) say('error', port, `ports.${port}`, 'nothing', `${name} is not connected${noPlace(board, fitted, wiring, of)}`)
      else say('note', port, `ports.${port}`, 'nothing', `this board cannot have ${name}: ${lacks}; the robot is without it`)
      continue
    }
    const connection = connectionOf(of, wiring)
    if (connection === undefined) { say('error', port, `ports.${port}.by`, wired.by, `a ${of.title} is connected by ${of.connections.map(c => c.name).join(', ')}`); continue }
    for (const line of Object.keys(wired.pins)) if (!connection.lines.some(l => l.name === line)) say('error', port, `ports.${port}.pins.${line}`, wired.pins[line]!, `by ${connection.name}, ${name} has no line ${line}; it has ${connection.lines.map(l => l.name).join(', ') || 'none'}`)
    for (const line of connection.lines) {
      const at = `ports.${port}.pins.${line.name}`
      const pin = wired.pins[line.name]
      if (pin === undefined) { say('error', port, at, 'nothing', `${line.name} of ${name} is on no pin`); continue }
      if (!board.pins.some(p => p.name === pin)) { say('error', port, at, pin, `the board has no such pin; it has ${board.pins.map(p => p.name).join(', ')}`); continue }
      if (line.draws !== undefined && line.draws / 1000 > board.current.pin) say('error', port, at, pin, `${line.draws} mA are more than a pin may give, ${1000 * board.current.pin} mA`)
      flows += line.draws ?? 0
      const unfit = line.volts === undefined ? null : unfitVoltage(board, wired.divider === undefined ? line.volts : divided(line.volts, wired.divider))
      if (unfit !== null) say('error', port, wired.divider === undefined ? at : `ports.${port}.divider`, wired.divider?.join(' and ') ?? pin, `${line.name} gives ${line.volts} V${wired.divider === undefined ? '' : ', and with the divider'}: ${unfit}${wired.divider === undefined ? '; two resistors, a divider, bring it down' : ''}`)
    }
    for (const claim of claimsOf(board, name, connection, wired)) {
      const why = whyNot(board, claim, claims)
      if (why !== null) say('error', port, `ports.${port}.pins.${claim.line.name}`, claim.pin.name, why)
      claims.push(claim)
    }
    if (connection.addresses !== undefined) for (const [path, value, message] of busProblems(board, name, connection.addresses, wired, onBus)) say('error', port, `ports.${port}.${path}`, value, message)
    const beside = wokenBeside(of, fitted, wiring)
    if (beside !== null) say('error', port, `ports.${port}.address`, hex(connection.wakes!), `${name} begins at this address, where ${beside} stays: both would take the address that it is given; give ${beside} a shut line as well`)
    for (const [i, point] of (wired.curve ?? []).entries()) {
      const read = of.reads === null ? null : readQuantity(point.reads, of.reads)
      if (read?.ok !== true) say('error', port, `ports.${port}.curve[${i}].reads`, point.reads, of.reads === null ? `${name} measures nothing: it has no curve` : `expected a ${kindName(of.reads)}: ${read?.ok === false ? read.reason : ''}`)
    }
    if (connection.lines.some(l => l.needs === 'analogue') && wired.curve === undefined) say('note', port, `ports.${port}.curve`, 'nothing', `what a voltage of ${name} means is not given: two points or more of its curve, volts and what it reads there`)
    if (of.ends && connection.lines.some(l => l.name === 'encoder a') && wired.counts === undefined) say('note', port, `ports.${port}.counts`, 'nothing', `how many edges the encoder of ${name} counts from one end to the other is not given: turn it by hand from end to end and count; until then nothing moves it`)
    if (connection.loses !== undefined) say('note', port, `ports.${port}.by`, connection.name, connection.loses)
    feeds += connection.feeds
  }
  if (feeds / 1000 > board.current.supply) say('error', null, 'ports', `${feeds} mA`, `all together take more than the board feeds, ${1000 * board.current.supply} mA: feed some of them from the battery`)
  if (flows / 1000 > board.current.pins) say('error', null, 'ports', `${flows} mA`, `all together draw more through pins than the chip may give, ${1000 * board.current.pins} mA`)
  return found
}

/** What hinders that what is connected is built so; what is left unconnected hinders nothing: the robot is without it. */
export const unbuildable = (robot: Robot, board: Board, wiring: Wiring): readonly WiringProblem[] =>
  checkWiring(robot, board, wiring).filter(p => p.severity === 'error' && (p.port === null || wiring.ports[p.port] !== undefined))

/** Why nothing that is connected already leaves a place for something, from `: ` on; nothing where there is one. */
function noPlace(board: Board, fitted: readonly Fitted[], wiring: Wiring, { name, connections }: Fitted): string {
  const others = fitted.flatMap((f) => { const connection = connectionOf(f, wiring); return connection === undefined ? [] : [{ f, connection }] })
  const addressed = others.filter(o => o.connection.addresses !== undefined).map(o => wiring.ports[o.f.port]!)
  const claims = [...new Set(addressed.map(w => w.bus ?? ''))].flatMap(bus => busClaims(board, bus)).concat(others.flatMap(o => claimsOf(board, o.f.name, o.connection, wiring.ports[o.f.port]!)))
  const reasons = connections.map(({ addresses, lines }) => {
    if (addresses !== undefined && board.buses.every(b => addresses.every(a => addressed.some(w => w.bus === b.name && w.address === a)))) {
      return `others have its address on ${board.buses.map(b => b.name).join(', ')} already (${addresses.map(hex).join(', ')})`
    }
    const line = lines.find(l => board.pins.every(pin => whyNot(board, { user: name, line: l, pin }, claims) !== null))
    return line === undefined ? null : `no pin is left that can be its ${line.name}: ${wordOf(line.needs)}`
  })
  return reasons.includes(null) ? '' : `: ${[...new Set(reasons)].join('; ')}`
}

/** How what is on a port is connected; undefined where it is not, or by nothing that it can be. */
export const connectionOf = ({ port, connections }: Fitted, { ports }: Wiring): Connection | undefined => connections.find(c => c.name === ports[port]?.by)

/** The buses that these are on. */
export const busesOf = (fitted: readonly Fitted[], wiring: Wiring): readonly string[] => [...new Set(fitted.flatMap(f => connectionOf(f, wiring)?.addresses === undefined ? [] : [wiring.ports[f.port]!.bus ?? '']))]

/** What a board lacks for every way in which something can be connected; null where there is one. */
function lacking(board: Board, { connections }: Fitted): string | null {
  const lacks = connections.map(({ lines, addresses }) => addresses !== undefined && board.buses.length === 0 ? 'it has no bus'
    : lines.filter(({ needs }) => pinsFor(board, needs).length === 0).map(({ needs }) => `no pin of it can do ${wordOf(needs)}`)[0])
  return lacks.includes(undefined) ? null : [...new Set(lacks)].join(', and ')
}

function busProblems(board: Board, name: string, addresses: readonly number[], { bus, address }: PortWiring, taken: Map<string, string>): readonly (readonly [path: string, value: string, message: string])[] {
  const buses = board.buses.map(b => b.name).join(', ') || 'none'
  if (bus === undefined || !board.buses.some(b => b.name === bus)) return [['bus', bus ?? 'nothing', `expected one of the board's buses: ${buses}`]]
  if (address === undefined || !addresses.includes(address)) return [['address', address === undefined ? 'nothing' : hex(address), `such a part has the address ${addresses.map(hex).join(', ')}`]]
  const key = `${bus} ${address}`
  const other = taken.get(key)
  taken.set(key, name)
  return other === undefined ? [] : [['address', hex(address), `${other} has this address on ${bus} already: both would answer at once`]]
}

/** Another of its kind that stays on the bus at the address at which one begins; null where there is none. */
export function wokenBeside(of: Fitted, fitted: readonly Fitted[], wiring: Wiring): string | null {
  const [wakes, bus] = [connectionOf(of, wiring)?.wakes, wiring.ports[of.port]?.bus]
  if (wakes === undefined) return null
  return fitted.find(other => other.title === of.title && other.port !== of.port && wiring.ports[other.port]?.bus === bus && wiring.ports[other.port]?.address === wakes)?.name ?? null
}

/** An address as datasheets write it. */
export const hex = (address: number): string => `0x${address.toString(16).padStart(2, '0')}`
