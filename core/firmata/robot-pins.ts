import { WHEELS, WHEEL_MODE } from '../devices'
import { COLORS, type ColorName } from '../colors'
import { curveOf, type Board } from '../hardware'
import { cos, sin } from '../maths'
import { driveOf, stepRobotOf, type DeviceFacts, type PortWiring, type Robot, type RobotFacts, type Wiring } from '../robot'
import type { Pins } from './board'
import { PIN_MODE } from './protocol'

/** What a device is told: a value on one of its channels. */
export interface Telling { readonly device: string, readonly channel: number, readonly value: number }

/** What hangs on a pin as an input: its level, or its voltage as a share of the supply, from the readings of a robot. */
type Sense = (readings: Float64Array) => number
/** What follows from what pins are told. */
type Act = () => readonly Telling[]

const MODE_OF: Readonly<Record<string, readonly [mode: number, bits: number]>> = {
  'input': [PIN_MODE.input, 1], 'pull-up': [PIN_MODE.pullUp, 1], 'output': [PIN_MODE.output, 1], 'pwm': [PIN_MODE.pwm, 8], 'servo': [PIN_MODE.servo, 14], 'analogue': [PIN_MODE.analogue, 10],
}

/** The fewest digital ports that a board counts before its analogue ones. */
const DIGITAL_PORTS = 14

/** Numbers of a board's pins as Firmata counts them: D7 is 7, A0 comes behind the digital ones. Throws RangeError for a pin that is called otherwise. */
export function pinNumbers({ name, pins }: Board): ReadonlyMap<string, number> {
  const parts = pins.map((pin) => {
    const match = /^([DA])(\d+)$/.exec(pin.name)
    if (match === null) throw new RangeError(`the board ${name} has a pin ${pin.name}: one that speaks Firmata calls them D0, D1, … and A0, A1, …`)
    return { pin: pin.name, analogue: match[1] === 'A', number: Number(match[2]) }
  })
  const first = Math.max(DIGITAL_PORTS, ...parts.map(p => p.analogue ? 0 : p.number + 1))
  return new Map(parts.map(p => [p.pin, p.analogue ? first + p.number : p.number]))
}

/**
 * A simulated robot behind the pins of a board: what its devices read stands on inputs as real parts would put it there, and
 * what outputs are told moves it. Its readings are put in tick by tick, and what it is told is taken out.
 */
export class RobotPins implements Pins {
  readonly count: number
  private readonly numbers: ReadonlyMap<string, number>
  /** The analogue channel of each pin that has one. */
  private readonly channels = new Map<number, number>()
  private readonly abilities = new Map<number, readonly (readonly [number, number])[]>()
  private readonly senses = new Map<number, Sense>()
  private readonly acts = new Map<number, Act>()
  private readonly told: number[]
  private readonly parts = new Map<number, Part>()
  /** Devices that are connected, and not there all the same: a client finds nothing of them at their pins. */
  readonly missing: string[] = []
  private changed = new Set<Act>()
  /** What each channel was told last: the same over and over is said once. */
  private readonly last = new Map<string, number>()
  private readings: Float64Array

  constructor(robot: Robot, private readonly facts: RobotFacts, board: Board, wiring: Wiring) {
    this.numbers = pinNumbers(board)
    this.count = Math.max(...this.numbers.values()) + 1
    this.told = Array.from({ length: this.count }, () => 0)
    const buses = new Set(board.buses.flatMap(b => [b.sda, b.scl]))
    for (const pin of board.pins) {
      const n = this.numbers.get(pin.name)!
      if (pin.can.includes('analogue')) this.channels.set(n, Number(pin.name.slice(1)))
      const modes = pin.can.flatMap(a => MODE_OF[a] === undefined ? [] : [MODE_OF[a]])
      this.abilities.set(n, [...modes, ...buses.has(pin.name) ? [[PIN_MODE.i2c, 1] as const] : []].sort((a, b) => a[0] - b[0]))
    }
    this.readings = new Float64Array(facts.readingCount)
    for (const d of facts.devices) {
      if (d.kind === WHEELS) this.wheels(robot, wiring)
      else if (wiring.ports[d.port] !== undefined) this.device(d, wiring.ports[d.port]!, board)
    }
  }

  // As a board sees it.

  modes(pin: number): readonly (readonly [number, number])[] { return this.abilities.get(pin) ?? [] }
  channel(pin: number): number | null { return this.channels.get(pin) ?? null }
  level(pin: number, pullUp: boolean): boolean { return (this.senses.get(pin)?.(this.readings) ?? (pullUp ? 1 : 0)) > 0.5 }
  voltage(channel: number): number {
    const [pin = -1] = [...this.channels].find(([, c]) => c === channel) ?? []
    return this.senses.get(pin)?.(this.readings) ?? 0
  }
  tell(pin: number, _mode: number, value: number): void {
    this.told[pin] = value
    const act = this.acts.get(pin)
    if (act !== undefined) this.changed.add(act)
  }
  ask(address: number, register: number, count: number): readonly number[] | null { return this.parts.get(address)?.read(register, count, this.readings) ?? null }
  write(address: number, data: readonly number[]): void { if (data.length > 1) this.parts.get(address)?.write(data[0]!, data.slice(1)) }

  // As the robot does.

  /** What its devices read in this tick, in the order of its facts. */
  read(readings: Float64Array): void { this.readings = readings }

  /** What it was told since it was asked last, where that is something else. */
  taken(): readonly Telling[] {
    const all = [...this.changed].flatMap(act => act()).filter(t => this.last.get(`${t.device} ${t.channel}`) !== t.value)
    for (const { device, channel, value } of all) this.last.set(`${device} ${channel}`, value)
    this.changed = new Set()
    return all
  }

  private acting(act: Act, ...pins: readonly (number | null)[]): void { for (const pin of pins) if (pin !== null) this.acts.set(pin, act) }
  private sensing(pin: number | null, sense: Sense): void { if (pin !== null) this.senses.set(pin, sense) }
  private at(pin: number | null): number { return pin === null ? 0 : this.told[pin] ?? 0 }

  private pinOf({ pins }: PortWiring, line: string): number | null { return this.numbers.get(pins[line] ?? '') ?? null }

  private wheels(robot: Robot, wiring: Wiring): void {
    const sides = robot.drive!.ports.map(port => wiring.ports[port])
    if (driveOf(this.facts) === null || sides.some(s => s === undefined)) return
    const strength = (wired: PortWiring): number => wired.by === 'two pins'
      ? this.at(this.pinOf(wired, 'forwards')) - this.at(this.pinOf(wired, 'backwards'))
      : this.at(this.pinOf(wired, 'power')) * (this.at(this.pinOf(wired, 'direction')) > 0.5 ? -1 : 1)
    const act: Act = () => [WHEEL_MODE.power, ...sides.map(s => strength(s!))].map((value, channel) => ({ device: WHEELS, channel, value }))
    this.acting(act, ...sides.flatMap(s => Object.keys(s!.pins).map(line => this.pinOf(s!, line))))
  }

  private device(d: DeviceFacts, wired: PortWiring, board: Board): void {
    const pin = (line: string): number | null => this.pinOf(wired, line)
    const set = (...values: readonly number[]): readonly Telling[] => values.map((value, channel) => ({ device: d.name, channel, value }))
    switch (`${d.kind} by ${wired.by}`) {
      // A switch to ground: low where it is pressed.
      case 'bumper by switch': case 'touch by switch': case 'gate by switch': return this.sensing(pin('signal'), r => r[d.first]! > 0 ? 0 : 1)
      case 'sonar by voltage': case 'tof by voltage': case 'light by voltage': case 'sound by voltage': return this.sensing(pin('signal'), voltageOf(d, wired, board))
      case 'lamp by three pins': {
        const pins = ['red', 'green', 'blue'].map(pin)
        return this.acting(() => set(colorOf(pins.map(p => this.at(p) > 0.5))), ...pins)
      }
      case 'lamp by one pin': return this.acting(() => set(COLORS.indexOf(this.at(pin('signal')) > 0.5 ? 'white' : 'none')), pin('signal'))
      case 'magnet by transistor': return this.acting(() => set(this.at(pin('signal')) > 0.5 ? 1 : 0), pin('signal'))
      case 'joint by servo': case 'slide by servo': {
        const { from, to, speed } = d.parameters as { readonly from: number, readonly to: number, readonly speed: number }
        return this.acting(() => set(0, from + (to - from) * servoShare(this.at(pin('signal'))), speed), pin('signal'))
      }
      case 'claw by servo': return this.acting(() => set(servoShare(this.at(pin('signal'))) > 0.5 ? 1 : 2), pin('signal'))
      case 'gyro by bus': { const { readingIndex } = stepRobotOf(this.facts); this.parts.set(wired.address ?? 0, new RateChip(readingIndex(d.name, 'rate'), readingIndex(d.name, 'tilt'))); return }
      default: this.missing.push(d.name)
    }
  }
}

/** What a lamp shows by which of red, green and blue are on: none, one, two or all of them. */
const SHOWN: readonly ColorName[] = ['none', 'red', 'green', 'yellow', 'blue', 'violet', 'blue', 'white']
const colorOf = (on: readonly boolean[]): number => COLORS.indexOf(SHOWN[on.reduce((n, x, i) => n + (x ? 1 << i : 0), 0)]!)

/** A pulse of 1 ms is one end, of 2 ms the other. */
const servoShare = (microseconds: number): number => Math.min(1, Math.max(0, (microseconds - 1000) / 1000))

/** The voltage that stands for a reading, as a share of the supply: by the curve of the wiring, else straight over its range. */
function voltageOf(d: DeviceFacts, wired: PortWiring, board: Board): Sense {
  const { type, range } = d.readings[0]!
  const points = curveOf(wired, type.type === 'quantity' ? type.kind : null) ?? [[0, 0] as const, [board.volts, range?.[1] ?? 1] as const]
  const sorted = [...points].sort((a, b) => a[1] - b[1])
  return (readings) => {
    const x = readings[d.first]!
    let i = 1
    while (i < sorted.length - 1 && x > sorted[i]![1]) i++
    const [v0, x0] = sorted[i - 1]!
    const [v1, x1] = sorted[i]!
    return (v0 + (v1 - v0) * Math.min(1, Math.max(0, (x - x0) / (x1 - x0)))) / board.volts
  }
}

interface Part {
  read(register: number, count: number, readings: Float64Array): readonly number[]
  write(register: number, data: readonly number[]): void
}

/** Turning and leaning, with the registers of an MPU-6050 (by its register map): z up, a turn to the left counts up. */
class RateChip implements Part {
  private readonly registers = new Map<number, number>([[0x75, 0x68], [0x6b, 0x40]])

  constructor(private readonly rate: number, private readonly tilt: number) {}

  write(register: number, data: readonly number[]): void { data.forEach((byte, i) => this.registers.set(register + i, byte & 0xff)) }

  read(register: number, count: number, readings: Float64Array): readonly number[] {
    // Counts a degree a second at its four ranges, and a g at the smallest.
    const full = 250 << ((this.registers.get(0x1b) ?? 0) >> 3 & 3)
    const turning = -readings[this.rate]! * 180 / Math.PI / full * 32768
    const lean = readings[this.tilt]!
    const words = [sin(lean) * 16384, 0, cos(lean) * 16384, 0, 0, 0, turning].map(x => Math.min(32767, Math.max(-32768, Math.round(x))) & 0xffff)
    return Array.from({ length: count }, (_, i) => {
      const at = register + i - 0x3b
      return at >= 0 && at < 14 ? (at % 2 === 0 ? words[at >> 1]! >> 8 : words[at >> 1]! & 0xff) : this.registers.get(register + i) ?? 0
    })
  }
}
