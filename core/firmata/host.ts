import { FirmataReader, PIN_MODE, SYSEX, bytesOf, fromPairs, inPairs, type Message } from './protocol'

/** Who is not answered asks again after so long, milliseconds: a board may still be starting. */
const ASK_AGAIN = 500
/** How often the way there and back is measured, milliseconds, and over how many the median is. */
const PING_EVERY = 200
const PINGS = 50
/** Whoever did not ask for so long was away itself, and says nothing of the board's silence, milliseconds. */
const AWAY = 250
/** A greeting later than this after the board was understood means that it began anew, milliseconds. */
const GREETED = 1500

/** What a part's registers were at, when that came (milliseconds) and how often. */
export interface Registers { readonly bytes: readonly number[], readonly at: number, readonly count: number }

/** What a pin of the board can do, as it says itself. */
interface HostPin { readonly modes: ReadonlySet<number>, readonly channel: number | null }

/** How long a question is away, milliseconds; null where none came back yet. */
export interface RoundTrip { readonly median: number, readonly longest: number }

/**
 * The computer's end of a wire to a board that speaks Firmata: asks who it is and what its pins can do, then sets them, and keeps
 * what they are at. Bytes go out by `send` and come in by `receive`; `pass` has to be called every few milliseconds. `now`:
 * milliseconds of a clock that never goes back.
 */
export class FirmataHost {
  /** What the board calls itself; '' until it said so. */
  name = ''
  /** The version of the protocol that it speaks; null until it said so. */
  version: readonly [number, number] | null = null
  /** Its pins, once it said what they can do. */
  pins: readonly HostPin[] | null = null
  /** What it said in words, the latest last: what it would not do. */
  readonly said: string[] = []
  /** Called when the board, understood before, begins anew: all that it was told is forgotten. */
  onRestart: (() => void) | null = null
  private readonly reader = new FirmataReader(true)
  private capabilities: readonly number[] | null = null
  private mapping: readonly number[] | null = null
  private askedAt = -Infinity
  private readyAt = Infinity
  private pinged: number | null = null
  private pingedAt = -Infinity
  private heardAt: number
  private passedAt: number
  private readonly trips: number[] = []
  /** Questions that the board answers in order, so that what was told before one is done once it is answered. */
  private asked = 0
  private answered = 0
  private levels = new Map<number, boolean>()
  private readonly values = new Map<number, { value: number, count: number }>()
  private readonly replies = new Map<string, Registers>()
  /** What each port's outputs are at, and what each pin was told last: the same is told once. */
  private ports = new Map<number, number>()
  private told = new Map<number, number>()
  private always = false

  constructor(private readonly send: (bytes: readonly number[]) => void, private readonly now: () => number) { this.heardAt = this.passedAt = now() }

  /** Whether it is known what the board is, and what it can do. */
  get ready(): boolean { return this.pins !== null }

  /** Milliseconds since a byte came, in which it was asked for. */
  get silent(): number { return this.now() - this.heardAt }

  /** How long the board takes to answer; null while that is not known. */
  get roundTrip(): RoundTrip | null {
    if (this.trips.length === 0) return null
    const sorted = [...this.trips].sort((a, b) => a - b)
    return { median: sorted[sorted.length >> 1]!, longest: sorted.at(-1)! }
  }

  /** Asks what is to be asked: who the board is until it answers, then how long it takes to. */
  pass(): void {
    const now = this.now()
    // What came meanwhile may still lie unread.
    if (now - this.passedAt > AWAY) this.heardAt = now
    this.passedAt = now
    if (!this.ready) {
      if (now - this.askedAt < ASK_AGAIN) return
      this.askedAt = now
      this.ask()
    } else if (now - this.pingedAt >= PING_EVERY && (this.pinged === null || now - this.pingedAt >= GREETED)) {
      this.pinged = this.pingedAt = now
      this.question()
    }
  }

  /** Asks whether all that was told is done; what comes back says whether that was answered. */
  confirm(): () => boolean {
    this.question()
    const wanted = this.asked
    return () => this.answered >= wanted
  }

  private question(): void {
    this.asked++
    this.say({ says: 'version', version: null })
  }

  receive(bytes: Iterable<number>): void {
    this.heardAt = this.now()
    for (const message of this.reader.take(bytes)) this.hear(message)
  }

  // What pins are told.

  /** Sets what a pin is for. False where it cannot be that. An input with a pull-up is had from older boards too, which know no mode for it. */
  mode(pin: number, mode: number): boolean {
    const { modes } = this.pins?.[pin] ?? {}
    if (modes === undefined) return false
    if (mode === PIN_MODE.pullUp && !modes.has(mode) && modes.has(PIN_MODE.input)) {
      this.say({ says: 'pin mode', pin, mode: PIN_MODE.input })
      this.level(pin, true)
      return true
    }
    if (!modes.has(mode)) return false
    this.say({ says: 'pin mode', pin, mode })
    this.told.delete(pin)
    return true
  }

  /** Sets a digital output, by the levels of its port: that is understood by boards of every version. */
  level(pin: number, high: boolean): void {
    const port = pin >> 3
    const was = this.ports.get(port) ?? 0
    const mask = high ? was | 1 << (pin & 7) : was & ~(1 << (pin & 7))
    if (this.ports.has(port) && mask === was && !this.always) return
    this.ports.set(port, mask)
    this.say({ says: 'digital port', port, mask })
  }

  /** Sets a strength (0 to 255) or a servo's pulse (microseconds). */
  value(pin: number, value: number): void {
    if (this.told.get(pin) === value) return
    this.told.set(pin, value)
    if (pin < 16) this.say({ says: 'analog', pin, value })
    else this.sysex(SYSEX.extendedAnalog, [pin, value & 0x7f, value >> 7 & 0x7f])
  }

  /** Sets the ends of a servo's pulses, microseconds, and makes the pin one for a servo. False where it cannot be. */
  servo(pin: number, shortest: number, longest: number): boolean {
    if (this.pins?.[pin]?.modes.has(PIN_MODE.servo) !== true) return false
    this.sysex(SYSEX.servoConfig, [pin, ...inPairs([shortest]), ...inPairs([longest])])
    this.say({ says: 'pin mode', pin, mode: PIN_MODE.servo })
    this.told.delete(pin)
    return true
  }

  /** Does something as if nothing had been told yet: all of it is said, and afterwards it is known as before. */
  anew<T>(act: () => T): T {
    const { ports, told } = this
    // Levels go by ports: those that other pins of them are at stay.
    this.ports = new Map(ports)
    this.told = new Map()
    this.always = true
    const made = act()
    this.always = false
    this.ports = ports
    this.told = told
    return made
  }

  // What pins tell.

  /** How often voltages and answers of the bus come, milliseconds. */
  interval(milliseconds: number): void { this.sysex(SYSEX.samplingInterval, inPairs([milliseconds])) }
  reportLevels(pin: number): void { this.say({ says: 'report digital', of: pin >> 3, on: true }) }
  reportVoltage(channel: number): void { this.say({ says: 'report analog', of: channel, on: true }) }

  /** What an input is at; null until the board said it. */
  isHigh(pin: number): boolean | null { return this.levels.get(pin) ?? null }

  /** What an analogue channel is at, 0 to 1023, and how often that came; null until it did. */
  voltage(channel: number): { readonly value: number, readonly count: number } | null { return this.values.get(channel) ?? null }

  /** Makes ready for what is on the bus. */
  bus(): void { this.sysex(SYSEX.i2cConfig, [0, 0]) }
  write(address: number, data: readonly number[]): void { this.sysex(SYSEX.i2cRequest, [address, 0, ...inPairs(data)]) }

  /** Has a part's registers told again and again, as often as voltages are. */
  watch(address: number, register: number, count: number): void { this.sysex(SYSEX.i2cRequest, [address, 2 << 3, ...inPairs([register, count])]) }

  /** What a part's registers were at; null until that came. */
  registers(address: number, register: number): Registers | null { return this.replies.get(`${address} ${register}`) ?? null }

  private say(message: Message): void { this.send(bytesOf(message)) }
  private sysex(command: number, data: readonly number[]): void { this.say({ says: 'sysex', command, data }) }

  private ask(): void {
    if (this.name === '') {
      this.say({ says: 'version', version: null })
      this.sysex(SYSEX.firmware, [])
      return
    }
    if (this.capabilities === null) this.sysex(SYSEX.capabilities, [])
    if (this.mapping === null) this.sysex(SYSEX.analogMapping, [])
  }

  private hear(m: Message): void {
    switch (m.says) {
      case 'version':
        this.version = m.version
        if (this.answered < this.asked) this.answered++
        if (this.pinged !== null) {
          this.trips.push(this.now() - this.pinged)
          if (this.trips.length > PINGS) this.trips.shift()
          this.pinged = null
        }
        return
      case 'digital port':
        for (let i = 0; i < 8; i++) this.levels.set(8 * m.port + i, (m.mask >> i & 1) === 1)
        return
      case 'analog': {
        const known = this.values.get(m.pin)
        if (known === undefined) this.values.set(m.pin, { value: m.value, count: 1 })
        else { known.value = m.value; known.count++ }
        return
      }
      case 'sysex': return this.hearLong(m.command, m.data)
      default:
    }
  }

  private hearLong(command: number, data: readonly number[]): void {
    switch (command) {
      case SYSEX.firmware: {
        const name = String.fromCharCode(...fromPairs(data.slice(2)))
        if (this.name === '') {
          this.name = name === '' ? 'a board without a name' : name
          this.askedAt = this.now()
          this.ask()
        } else if (this.now() - this.readyAt > GREETED) this.restarted()
        return
      }
      case SYSEX.capabilitiesAre: this.capabilities = data; return this.understand()
      case SYSEX.analogMappingIs: this.mapping = data; return this.understand()
      case SYSEX.text:
        this.said.push(String.fromCharCode(...fromPairs(data)))
        if (this.said.length > 20) this.said.shift()
        return
      case SYSEX.i2cReply: {
        const [address = 0, register = 0, ...bytes] = fromPairs(data)
        const key = `${address} ${register}`
        this.replies.set(key, { bytes, at: this.now(), count: (this.replies.get(key)?.count ?? 0) + 1 })
        return
      }
      default:
    }
  }

  private understand(): void {
    const { capabilities, mapping } = this
    if (capabilities === null || mapping === null || this.ready) return
    const pins: HostPin[] = []
    let modes: number[] = []
    for (let i = 0; i < capabilities.length; i++) {
      if (capabilities[i] !== 0x7f) { modes.push(capabilities[i++]!); continue }
      const channel = mapping[pins.length] ?? 0x7f
      pins.push({ modes: new Set(modes), channel: channel === 0x7f ? null : channel })
      modes = []
    }
    this.pins = pins
    this.readyAt = this.pingedAt = this.now()
  }

  private restarted(): void {
    this.ports = new Map()
    this.told = new Map()
    this.levels = new Map()
    this.values.clear()
    this.replies.clear()
    this.readyAt = this.now()
    this.answered = this.asked
    this.pinged = null
    this.onRestart?.()
  }
}
