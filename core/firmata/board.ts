import { FIRMATA_VERSION, FirmataReader, PIN_MODE, SYSEX, bytesOf, fromPairs, inPairs, textBytes, type Message } from './protocol'

/** What is behind the pins of a board. Pins by their number. */
export interface Pins {
  readonly count: number
  /** The modes that a pin has, each with its bits. */
  modes(pin: number): readonly (readonly [mode: number, bits: number])[]
  /** The analogue channel of a pin; null for none. */
  channel(pin: number): number | null
  /** What an input is at: high or low. */
  level(pin: number, pullUp: boolean): boolean
  /** What an analogue channel is at, as a share of the supply. */
  voltage(channel: number): number
  /** A pin is told a level (0 or 1), a strength (0 to 1) or a servo pulse in microseconds. */
  tell(pin: number, mode: number, value: number): void
  /** Bytes that a part on the bus answers to a question at a register; null where none is at that address. */
  ask(address: number, register: number, count: number): readonly number[] | null
  write(address: number, data: readonly number[]): void
}

/** As the standard firmware has it: milliseconds between two reports, and a servo's pulses at 0 and 180 degrees. */
const INTERVAL = 19
const SERVO_PULSES = [544, 2400] as const

interface Question { readonly address: number, readonly register: number, readonly count: number }

/** A board as a Firmata client sees it: takes bytes, and gives bytes by `send`. */
export class FirmataBoard {
  private readonly reader = new FirmataReader(false)
  private readonly modes: number[]
  private readonly values: number[]
  private readonly pulses = new Map<number, readonly [number, number]>()
  private readonly analogs = new Set<number>()
  private readonly ports = new Set<number>()
  private readonly sentPorts = new Map<number, number>()
  private asks: Question[] = []
  private interval = INTERVAL
  private since = 0

  constructor(private readonly pins: Pins, private readonly name: string, private readonly send: (bytes: readonly number[]) => void) {
    this.modes = Array.from({ length: pins.count }, (_, pin) => pins.channel(pin) !== null ? PIN_MODE.analogue : PIN_MODE.output)
    this.values = Array.from({ length: pins.count }, () => 0)
  }

  /** Says who it is, as boards do when they begin. */
  greet(): void {
    this.say({ says: 'version', version: FIRMATA_VERSION })
    this.firmware()
  }

  receive(bytes: Iterable<number>): void { for (const message of this.reader.take(bytes)) this.hear(message) }

  /** So many milliseconds have passed: reports that are due go out. Levels as soon as they change, voltages at their interval. */
  pass(milliseconds: number): void {
    for (const port of this.ports) this.reportPort(port, false)
    this.since += milliseconds
    if (this.since < this.interval) return
    this.since = Math.min(this.interval, this.since - this.interval)
    for (const channel of this.analogs) this.say({ says: 'analog', pin: channel, value: this.measured(channel) })
    for (const question of this.asks) this.answer(question)
  }

  /** Everything as at the beginning; all outputs off. */
  reset(): void {
    for (let pin = 0; pin < this.pins.count; pin++) if (this.values[pin] !== 0 && this.modes[pin] !== PIN_MODE.input && this.modes[pin] !== PIN_MODE.pullUp) this.pins.tell(pin, PIN_MODE.output, 0)
    this.values.fill(0)
    this.analogs.clear()
    this.ports.clear()
    this.sentPorts.clear()
    this.asks = []
    this.interval = INTERVAL
  }

  private say(message: Message): void { this.send(bytesOf(message)) }
  private sysex(command: number, data: readonly number[]): void { this.say({ says: 'sysex', command, data }) }
  private firmware(): void { this.sysex(SYSEX.firmware, [...FIRMATA_VERSION, ...inPairs(textBytes(this.name))]) }
  /** Something that a person should read. */
  private text(says: string): void { this.sysex(SYSEX.text, inPairs(textBytes(says))) }

  private measured(channel: number): number { return Math.round(Math.min(1, Math.max(0, this.pins.voltage(channel))) * 1023) }

  private hear(m: Message): void {
    switch (m.says) {
      case 'version': if (m.version === null) this.say({ says: 'version', version: FIRMATA_VERSION }); return
      case 'reset': return this.reset()
      case 'pin mode': return this.setMode(m.pin, m.mode)
      case 'digital pin': return this.setLevel(m.pin, m.high)
      case 'digital port':
        for (let i = 0; i < 8; i++) {
          const pin = 8 * m.port + i
          if (this.modes[pin] === PIN_MODE.output) this.setLevel(pin, (m.mask >> i & 1) === 1)
        }
        return
      case 'analog': return this.setValue(m.pin, m.value)
      case 'report analog':
        if (m.on && this.channels().includes(m.of)) {
          this.analogs.add(m.of)
          this.say({ says: 'analog', pin: m.of, value: this.measured(m.of) })
        } else this.analogs.delete(m.of)
        return
      case 'report digital':
        if (m.on && 8 * m.of < this.pins.count) { this.ports.add(m.of); this.reportPort(m.of, true) } else this.ports.delete(m.of)
        return
      case 'sysex': return this.hearLong(m.command, m.data)
    }
  }

  private hearLong(command: number, data: readonly number[]): void {
    const { pins } = this
    switch (command) {
      case SYSEX.firmware: return this.firmware()
      case SYSEX.capabilities: return this.sysex(SYSEX.capabilitiesAre, Array.from({ length: pins.count }, (_, pin) => [...pins.modes(pin).flat(), 0x7f]).flat())
      case SYSEX.analogMapping: return this.sysex(SYSEX.analogMappingIs, Array.from({ length: pins.count }, (_, pin) => pins.channel(pin) ?? 0x7f))
      case SYSEX.pinState: {
        const [pin = 0] = data
        if (pin < pins.count) this.sysex(SYSEX.pinStateIs, [pin, this.modes[pin]!, ...sevens(this.values[pin]!)])
        return
      }
      case SYSEX.extendedAnalog: {
        const [pin, ...value] = data
        if (pin !== undefined && value.length > 0 && value.length <= 4) this.setValue(pin, value.reduce((sum, part, i) => sum | part << 7 * i, 0))
        return
      }
      case SYSEX.samplingInterval: if (data.length >= 2) this.interval = Math.max(1, data[0]! | data[1]! << 7); return
      case SYSEX.servoConfig: {
        const [pin, a = 0, b = 0, c = 0, d = 0] = data
        if (pin !== undefined && this.has(pin, PIN_MODE.servo)) { this.pulses.set(pin, [a | b << 7, c | d << 7]); this.setMode(pin, PIN_MODE.servo) }
        return
      }
      case SYSEX.i2cRequest: return this.bus(data)
      default:
    }
  }

  private channels(): readonly number[] { return Array.from({ length: this.pins.count }, (_, pin) => this.pins.channel(pin)).filter(c => c !== null) }

  private has(pin: number, mode: number): boolean { return pin < this.pins.count && this.pins.modes(pin).some(([m]) => m === mode) }

  private setMode(pin: number, mode: number): void {
    if (!this.has(pin, mode)) { this.text(`pin ${pin} has no mode ${mode}`); return }
    this.modes[pin] = mode
    this.values[pin] = 0
    if (mode === PIN_MODE.output || mode === PIN_MODE.pwm) this.pins.tell(pin, mode, 0)
    const channel = this.pins.channel(pin)
    if (mode !== PIN_MODE.analogue && channel !== null) this.analogs.delete(channel)
  }

  private setLevel(pin: number, high: boolean): void {
    if (pin >= this.pins.count) return
    if (this.modes[pin] === PIN_MODE.input || this.modes[pin] === PIN_MODE.pullUp) {
      // As on the chip: a level written to an input switches its resistor.
      this.modes[pin] = high ? PIN_MODE.pullUp : PIN_MODE.input
      return
    }
    if (this.modes[pin] !== PIN_MODE.output) return
    this.values[pin] = high ? 1 : 0
    this.pins.tell(pin, PIN_MODE.output, high ? 1 : 0)
  }

  private setValue(pin: number, value: number): void {
    if (pin >= this.pins.count) return
    const mode = this.modes[pin]!
    if (mode === PIN_MODE.pwm) this.pins.tell(pin, mode, Math.min(255, value) / 255)
    else if (mode === PIN_MODE.servo) {
      const [low, high] = this.pulses.get(pin) ?? SERVO_PULSES
      // Below the shortest pulse it is an angle, as the standard firmware takes it.
      this.pins.tell(pin, mode, value < SERVO_PULSES[0] ? low + (high - low) * Math.min(180, value) / 180 : value)
    } else return
    this.values[pin] = value
  }

  private reportPort(port: number, always: boolean): void {
    let mask = 0
    for (let i = 0; i < 8; i++) {
      const pin = 8 * port + i
      const mode = this.modes[pin]
      if ((mode === PIN_MODE.input || mode === PIN_MODE.pullUp) && this.pins.level(pin, mode === PIN_MODE.pullUp)) mask |= 1 << i
    }
    if (!always && this.sentPorts.get(port) === mask) return
    this.sentPorts.set(port, mask)
    this.say({ says: 'digital port', port, mask })
  }

  /** A request to a part on the bus: address, what for, then data in pairs. */
  private bus([address = 0, how = 0, ...rest]: readonly number[]): void {
    const data = fromPairs(rest)
    switch (how >> 3 & 3) {
      case 0: return this.pins.write(address, data)
      case 1: return this.answer(question(address, data))
      case 2: this.asks = [...this.asks.filter(a => a.address !== address), question(address, data)]; return
      default: this.asks = this.asks.filter(a => a.address !== address)
    }
  }

  private answer({ address, register, count }: Question): void {
    const bytes = this.pins.ask(address, register, count)
    if (bytes === null) this.text(`I2C: nothing at address ${address}`)
    else this.sysex(SYSEX.i2cReply, [...inPairs([address]), ...inPairs([register]), ...inPairs(bytes)])
  }
}

/** A register and how many bytes, or how many alone. */
const question = (address: number, data: readonly number[]): Question => ({ address, register: data.length > 1 ? data[0]! : 0, count: Math.min(64, data.at(-1) ?? 0) })

const sevens = (value: number): readonly number[] => value < 128 ? [Math.round(value)] : [value & 0x7f, ...sevens(value >> 7)]
