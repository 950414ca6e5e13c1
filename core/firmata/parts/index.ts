import { WHEELS } from '../../devices'
import { curveOf, fittedOn, type Board } from '../../hardware'
import { driveOf, type DeviceFacts, type PortWiring, type Robot, type RobotFacts, type Wiring } from '../../robot'
import type { FirmataHost } from '../host'
import { pinNumbers } from '../robot-pins'
import { Shaft, servoClaw, servoJoint, turning, wheelPair, type JointSettings } from './motors'
import type { Part, Reached } from './part'
import { Volts, colorChip, rateChip, switched, voltage } from './senses'
import { onePinLamp, threePinLamp, transistor } from './signs'

export type { Part } from './part'

/** Makes a device that is reached over a wire. */
export type MakePart = (host: FirmataHost, now: () => number) => Part

const reachedAt = (wired: PortWiring, host: FirmataHost, board: Board, tick: number): Reached => {
  const numbers = pinNumbers(board)
  return { host, tick, pin: line => numbers.get(wired.pins[line]!)!, called: line => wired.pins[line]! }
}

/** What is connected by a voltage, by its port: that can be measured before anybody says what it means. */
export const voltsOf = (board: Board, wiring: Wiring, host: FirmataHost): ReadonlyMap<string, Volts> =>
  new Map(Object.entries(wiring.ports).flatMap(([port, wired]) => wired.by === 'voltage' ? [[port, new Volts(reachedAt(wired, host, board, 0), board.volts)] as const] : []))

/** How a device of a robot is reached over a wire to a board that speaks Firmata; why not, where it cannot be. `wiring` can be built. Throws RangeError for a board whose pins have no numbers there. */
export function reachedBy(robot: Robot, facts: RobotFacts, board: Board, wiring: Wiring, d: DeviceFacts): MakePart | { readonly why: string } {
  const at = (wired: PortWiring, host: FirmataHost): Reached => reachedAt(wired, host, board, facts.tick)
  if (d.kind === WHEELS) {
    const drive = driveOf(facts)!
    const [left, right] = robot.drive!.ports.map(port => wiring.ports[port])
    if (left === undefined || right === undefined) return { why: 'a wheel is not connected' }
    const shaft = (wired: PortWiring, host: FirmataHost): Shaft => new Shaft(at(wired, host), wired.by, drive['top speed'] / drive.radius, drive.acceleration / drive.radius, drive['dead zone'])
    return host => wheelPair(shaft(left, host), shaft(right, host), drive)
  }
  const wired = wiring.ports[d.port]
  const fitted = fittedOn(robot).find(f => f.port === d.port)
  if (wired === undefined) return { why: (fitted?.connections.length ?? 0) === 0 ? 'no such board can have one' : 'it is not connected' }
  const p = d.parameters as JointSettings & Readonly<Record<'opening' | 'limit', number>>
  const by = (make: (of: Reached, now: () => number) => Part): MakePart => (host, now) => make(at(wired, host), now)
  switch (`${d.kind} by ${wired.by}`) {
    case 'bumper by switch': case 'touch by switch': case 'gate by switch': return by(switched)
    case 'sonar by voltage': case 'tof by voltage': case 'light by voltage': case 'sound by voltage': {
      const far = d.kind === 'sonar' || d.kind === 'tof'
      // A level is a share of the supply where nothing else is said; what a distance is worth has to be said.
      const curve = curveOf(wired, fitted!.reads) ?? (far ? null : [[0, 0] as const, [board.volts, 1] as const])
      return curve === null ? { why: 'what its voltage means is not given: a curve, in the wiring' } : by(of => voltage(of, curve, board.volts, far))
    }
    case 'gyro by bus': return by(of => rateChip(of, wired.address!, p.limit))
    case 'color by bus': return by(of => colorChip(of, wired.address!, robot))
    case 'joint by servo': case 'slide by servo': return by(of => servoJoint(of, p))
    case 'claw by servo': return by(of => servoClaw(of, p))
    case 'motor by pin and direction': case 'motor by two pins': case 'motor by no encoder': return by(of => turning(new Shaft(of, wired.by, p.speed, p.speed / 0.15, 0.05)))
    case 'lamp by three pins': return by(threePinLamp)
    case 'lamp by one pin': return by(onePinLamp)
    case 'magnet by transistor': return by(transistor)
    default: return { why: `a ${d.title} by ${wired.by} cannot be reached over a wire` }
  }
}
