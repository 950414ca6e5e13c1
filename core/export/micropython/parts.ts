import { NAMING, WHEELS, namedPlaces, type DriveSettings } from '../../devices'
import { curveOf, fittedOn, type Board, type Fitted } from '../../hardware'
import { driveOf, type DeviceFacts, type PortWiring, type Robot, type RobotFacts, type Wiring } from '../../robot'
import { UNCOUNTED, countsOver, wayOf, type Missing, type Parts } from '../parts'
import type { WrittenProgram } from '../written'
import { driverLibrary } from './runtime'
import { float, quoted, tuple } from './values'

type Joint = { readonly from: number, readonly to: number, readonly home: number, readonly start?: number, readonly speed: number }

/**
 * The parts of a robot as a board with MicroPython reaches them: those that the program has to do with. `wiring` can be built.
 */
export function partsIn(robot: Robot, facts: RobotFacts, board: Board, wiring: Wiring, { devices: names }: WrittenProgram): Parts {
  const missing: Missing[] = []
  const fitted = fittedOn(robot)
  const buses = new Map<string, string>()
  const lines = facts.devices.flatMap((d): string | readonly string[] => {
    const device = names.get(d.name)
    if (device === undefined) return []
    const made = partOf(d, device, { robot, facts, board, wiring, fitted, buses })
    if (typeof made === 'string') return `    ${made},`
    missing.push({ device: d.name, why: made.why })
    return `    Nothing(${device}, [${d.readings.map(r => r.mayMiss === true ? 'INF' : '0.0').join(', ')}]),  # ${made.why}`
  })
  const made = ['parts = (', ...lines, ')'].join('\n')
  const drivers = driverLibrary().for(`${made} run`)
  const modules = ['framebuf', 'machine', 'neopixel', 'time'].filter(m => new RegExp(`\\b${m}\\.`).test(`${drivers} ${[...buses.values()].join(' ')}`))
  return {
    missing,
    hardware: `# How ${robot.name} is connected to ${board.name}, and how its parts are reached.\n${modules.map(m => `import ${m}`).join('\n')}\nimport math\nfrom mindpath import *\nfrom program import ${[...names.values()].join(', ')}\n\n\n${drivers}\n\n\n${[...buses.values()].map(b => `${b}\n`).join('')}${made}\n`,
  }
}

interface Around { readonly robot: Robot, readonly facts: RobotFacts, readonly board: Board, readonly wiring: Wiring, readonly fitted: readonly Fitted[], readonly buses: Map<string, string> }

/** Python that makes a part; why there is none. */
function partOf(d: DeviceFacts, device: string, around: Around): string | { readonly why: string } {
  if (d.kind === WHEELS) return wheels(device, around)
  const wired = around.wiring.ports[d.port]
  if (wired === undefined) return { why: (around.fitted.find(f => f.port === d.port)?.connections.length ?? 0) === 0 ? 'no such board can have one' : 'it is not connected' }
  const pin = (line: string): string => pinNumber(wired.pins[line]!)
  const p = d.parameters as Joint & Readonly<Record<string, number>>
  const period = float(d.round)
  const bus = (name: string, ...more: readonly string[]): string => `${name}(${[device, busOf(around, wired), `0x${(wired.address ?? 0).toString(16)}`, ...more].join(', ')})`
  switch (`${d.kind} by ${wayOf(wired.by)}`) {
    case 'bumper by switch': case 'touch by switch': case 'gate by switch': return `Switch(${device}, ${pin('signal')}, ${period})`
    case 'sonar by trigger and echo': return `Echo(${device}, ${pin('trigger')}, ${pin('echo')}, ${float(p['nearest']!)}, ${float(p['range']!)}, ${period})`
    case 'sonar by bus': return bus('RangingChip', float(p['nearest']!), float(p['range']!), period)
    case 'sonar by voltage': case 'tof by voltage': return voltage('FarVoltage', d, device, pin('signal'), wired, around)
    case 'light by voltage': case 'sound by voltage': return voltage('Voltage', d, device, pin('signal'), wired, around)
    case 'tof by bus': return bus('FlashChip', float(p['nearest']!), float(p['range']!), period)
    case 'tof by bus and shut line': return bus('FlashChip', float(p['nearest']!), float(p['range']!), period, pin('shut'))
    case 'gyro by bus': return bus('RateChip', float(p['limit']!), period)
    case 'color by bus': {
      const places = namedPlaces(around.robot.taught).map(n => tuple([String(n.index), ...[n.a, n.b, n.light].map(x => float(Number(x.toFixed(4))))]))
      return bus('ColorChip', 'white=(6000, 6000, 6000)', `names=${tuple(places)}`, `farthest=${NAMING.farthest}`, `margin=${NAMING.margin}`, `period=${period}`)
    }
    case 'joint by servo': case 'slide by servo': return `ServoJoint(${device}, Servo(${pin('signal')}, ${float(p.from)}, ${float(p.to)}), ${float(p.start ?? p.home)}, ${float(p.speed)}, ${float(p.home)})`
    case 'claw by servo': return `ServoClaw(${device}, Servo(${pin('signal')}, 0.0, ${float(p['opening']!)}), ${float(p['opening']!)}, ${float(p.speed)})`
    case 'motor by motor': return `Turning(${device}, Shaft(${motor(wired)}, ${encoder(wired, p['ticks']!)}, ${float(p.speed)}, ${float(p.speed / 0.15)}))`
    case 'joint by motor': case 'slide by motor':
      return geared(wired, p.to - p.from, p.speed, shaft => `MotorJoint(${device}, ${shaft}, ${float(p.from)}, ${float(p.to)}, ${float(p.start ?? p.home)}, ${float(p.home)})`)
    case 'claw by motor': return geared(wired, p['opening']!, p.speed, shaft => `MotorClaw(${device}, ${shaft}, ${float(p['opening']!)})`)
    case 'display by bus': return bus('TextDisplay')
    case 'magnet by transistor': return `Transistor(${device}, ${pin('signal')})`
    case 'lamp by three pins': return `ThreePinLamp(${device}, ${pin('red')}, ${pin('green')}, ${pin('blue')})`
    case 'lamp by one pin': return `OnePinLamp(${device}, ${pin('signal')})`
    case 'lamp by data line': return `DataLineLamp(${device}, ${pin('signal')})`
    case 'horn by tone': return `Sounder(${device}, ${pin('signal')})`
    default: return { why: `there is no driver for a ${d.title} by ${wired.by}: write one in the shape of the others` }
  }
}

/** As MicroPython calls pins: by the number at the end of their names, else by the name. */
function pinNumber(name: string): string {
  const number = /\d+$/.exec(name)
  return number === null ? quoted(name) : String(Number(number[0]))
}

function busOf({ board, buses }: Around, { bus: name }: PortWiring): string {
  const at = board.buses.findIndex(b => b.name === name)
  const bus = board.buses[at]!
  const own = `bus_${at}`
  buses.set(own, `${own} = machine.I2C(${at}, sda=machine.Pin(${pinNumber(bus.sda)}), scl=machine.Pin(${pinNumber(bus.scl)}), freq=400000)`)
  return own
}

const motor = ({ by, pins }: PortWiring): string => by === 'two pins'
  ? `TwoPins(${pinNumber(pins['forwards']!)}, ${pinNumber(pins['backwards']!)})` : `PinAndDirection(${pinNumber(pins['power']!)}, ${pinNumber(pins['direction']!)})`

const encoder = ({ pins }: PortWiring, ticks: number): string => pins['encoder a'] === undefined
  ? 'NoEncoder()' : `Encoder(${pinNumber(pins['encoder a'])}, ${pinNumber(pins['encoder b']!)}, ${ticks})`

/** What is moved between two ends, by its shaft; why there is none. */
function geared(wired: PortWiring, range: number, speed: number, part: (shaft: string) => string): string | { readonly why: string } {
  if (wired.pins['encoder a'] !== undefined && wired.counts === undefined) return { why: UNCOUNTED }
  return part(`Shaft(${motor(wired)}, ${encoder(wired, countsOver(wired.counts ?? 1, range))}, ${float(speed)}, ${float(speed / 0.15)})`)
}

function wheels(device: string, { facts, robot, wiring }: Around): string | { readonly why: string } {
  const d: DriveSettings = driveOf(facts)!
  const sides = robot.drive!.ports.map(port => wiring.ports[port])
  if (sides.some(s => s === undefined)) return { why: 'a wheel is not connected' }
  const shafts = sides.map(s => `Shaft(${motor(s!)}, ${encoder(s!, d['encoder ticks'])}, ${float(d['top speed'] / d.radius)}, ${float(d.acceleration / d.radius)}, ${float(d['dead zone'])})`)
  return `WheelPair(${device}, ${shafts.join(', ')}, ${float(d.radius)}, ${float(d.track)})`
}

function voltage(driver: string, d: DeviceFacts, device: string, pin: string, wired: PortWiring, { board, fitted }: Around): string | { readonly why: string } {
  // A level is a share of the supply where nothing else is said; what a distance is worth has to be said.
  const curve = curveOf(wired, fitted.find(f => f.port === d.port)!.reads) ?? (driver === 'Voltage' ? [[0, 0] as const, [board.volts, 1] as const] : null)
  if (curve === null) return { why: 'what its voltage means is not given: a curve, in the wiring' }
  return `${driver}(${device}, ${pin}, ${float(board.volts)}, ${tuple(curve.map(([volts, value]) => tuple([float(volts), float(value)])))}, ${float(d.round)})`
}
