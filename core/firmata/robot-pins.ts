import { WHEELS, WHEEL_MODE } from '../devices'
import type { Board } from '../hardware'
import { cos, sin } from '../maths'
import { driveOf, readingName, type DeviceFacts, type PortWiring, type Robot, type RobotFacts, type Wiring } from '../robot'
import { readQuantity } from '../units'
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

/** A pin's number: D7 is 7, A0 comes behind the digital ones. null for one that has none. */
export function pinNumber(name: string): number | null {
  const match = /^([DA])(\d+)$/.exec(name)
  return match === null ? null : Number(match[2]) + (match[1] === 'A' ? FIRST_ANALOGUE : 0)
}
const FIRST_ANALOGUE = 14

/**
 * A simulated robot behind the pins of a board: what its devices read stands on inputs as real parts would put it there, and
 * what outputs are told moves it. Its readings are put in tick by tick, and what it is told is taken out.
 */
export class RobotPins implements Pins {
  readonly count: number
  private readonly abilities = new Map<number, readonly (readonly [number, number])[]>()
  private readonly senses = new Map<number, Sense>()
  private readonly acts = new Map<number, Act>()
  private readonly told: number[]
  private readonly parts = new Map<number, Part>()
  private changed = new Set<Act>()
  /** What each channel was told last: the same over and over is said once. */
  private readonly last = new Map<string, number>()
  private readings: Float64Array

  constructor(robot: Robot, private readonly facts: RobotFacts, board: Board, wiring: Wiring) {
    const numbered = board.pins.flatMap((pin) => { const n = pinNumber(pin.name); return n === null ? [] : [{ n, pin }] })
    this.count = Math.max(...numbered.map(p => p.n)) + 1
    this.told = Array.from({ length: this.count }, () => 0)
    const buses = new Set(board.buses.flatMap(b => [b.sda, b.scl]))
    for (const { n, pin } of numbered) {
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
  channel(pin: number): number | null { return this.modes(pin).some(([m]) => m === PIN_MODE.analogue) ? pin - FIRST_ANALOGUE : null }
  level(pin: number, pullUp: boolean): boolean { return (this.senses.get(pin)?.(this.readings) ?? (pullUp ? 1 : 0)) > 0.5 }
  voltage(channel: number): number { return this.senses.get(channel + FIRST_ANALOGUE)?.(this.readings) ?? 0 }
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

  private index(d: DeviceFacts, reading: string): number { return d.first + d.readings.findIndex(r => readingName(d, r) === `${d.name}.${reading}`) }

  private acting(act: Act, ...pins: readonly (number | null)[]): void { for (const pin of pins) if (pin !== null) this.acts.set(pin, act) }
  private sensing(pin: number | null, sense: Sense): void { if (pin !== null) this.senses.set(pin, sense) }
  private at(pin: number | null): number { return pin === null ? 0 : this.told[pin] ?? 0 }

  private wheels(robot: Robot, wiring: Wiring): void {
    const sides = robot.drive!.ports.map(port => wiring.ports[port])
    if (driveOf(this.facts) === null || sides.some(s => s === undefined)) return
    const strength = ({ by, pins }: PortWiring): number => by === 'two pins'
      ? this.at(pinNumber(pins['forwards'] ?? '')) - this.at(pinNumber(pins['backwards'] ?? ''))
      : this.at(pinNumber(pins['power'] ?? '')) * (this.at(pinNumber(pins['direction'] ?? '')) > 0.5 ? -1 : 1)
    const act: Act = () => [WHEEL_MODE.power, ...sides.map(s => strength(s!))].map((value, channel) => ({ device: WHEELS, channel, value }))
    this.acting(act, ...sides.flatMap(s => Object.values(s!.pins).map(pinNumber)))
  }

  private device(d: DeviceFacts, wired: PortWiring, board: Board): void {
    const pin = (line: string): number | null => pinNumber(wired.pins[line] ?? '')
    const set = (...values: readonly number[]): readonly Telling[] => values.map((value, channel) => ({ device: d.name, channel, value }))
    switch (`${d.kind} by ${wired.by}`) {
      // A switch to ground: low where it is pressed.
      case 'bumper by switch': case 'touch by switch': case 'gate by switch': return this.sensing(pin('signal'), r => r[d.first]! > 0 ? 0 : 1)
      case 'sonar by voltage': case 'tof by voltage': case 'light by voltage': case 'sound by voltage': return this.sensing(pin('signal'), voltageOf(d, wired, board))
      case 'lamp by three pins': {
        const pins = ['red', 'green', 'blue'].map(pin)
        return this.acting(() => set(colorOf(pins.map(p => this.at(p) > 0.5))), ...pins)
      }
      case 'lamp by one pin': return this.acting(() => set(this.at(pin('signal')) > 0.5 ? WHITE : 0), pin('signal'))
      case 'magnet by transistor': return this.acting(() => set(this.at(pin('signal')) > 0.5 ? 1 : 0), pin('signal'))
      case 'joint by servo': case 'slide by servo': {
        const { from, to, speed } = d.parameters as { readonly from: number, readonly to: number, readonly speed: number }
        return this.acting(() => set(0, from + (to - from) * servoShare(this.at(pin('signal'))), speed), pin('signal'))
      }
      case 'claw by servo': return this.acting(() => set(servoShare(this.at(pin('signal'))) > 0.5 ? 1 : 2), pin('signal'))
      case 'gyro by bus': { this.parts.set(wired.address ?? 0, new RateChip(this.index(d, 'rate'), this.index(d, 'tilt'))); return }
      default:
    }
  }
}

const WHITE = 3
/** Colours of a lamp by which of red, green and blue are on. */
const COLORS_OF_PINS: readonly number[] = [0, 4, 7, 6, 8, 9, 8, WHITE]
const colorOf = (on: readonly boolean[]): number => COLORS_OF_PINS[on.reduce((n, x, i) => n + (x ? 1 << i : 0), 0)]!

/** A pulse of 1 ms is one end, of 2 ms the other. */
const servoShare = (microseconds: number): number => Math.min(1, Math.max(0, (microseconds - 1000) / 1000))

/** The voltage that stands for a reading, as a share of the supply: by the curve of the wiring, else straight over its range. */
function voltageOf(d: DeviceFacts, wired: PortWiring, board: Board): Sense {
  const spec = d.readings[0]!
  const kind = spec.type.type === 'quantity' ? spec.type.kind : null
  const curve = wired.curve?.flatMap((p): (readonly [number, number])[] => {
    const read = kind === null ? null : readQuantity(p.reads, kind)
    return read?.ok === true ? [[p.volts, read.value]] : []
  })
  const [, high] = spec.range ?? [0, 1]
  const points = curve !== undefined && curve.length > 1 ? curve : [[0, 0] as const, [board.volts, high] as const]
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
