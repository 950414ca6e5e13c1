/**
 * The Firmata protocol, version 2.6 (github.com/firmata/protocol, protocol.md and the pages on servos and I2C): bytes of a serial
 * line as messages, both ways. Values of more than seven bits go in pieces of seven, the lowest first.
 */
export const FIRMATA_VERSION = [2, 6] as const

/** What a pin may be set to. */
export const PIN_MODE = { input: 0, output: 1, analogue: 2, pwm: 3, servo: 4, i2c: 6, pullUp: 11 } as const

export const SYSEX = {
  analogMapping: 0x69, analogMappingIs: 0x6a, capabilities: 0x6b, capabilitiesAre: 0x6c, pinState: 0x6d, pinStateIs: 0x6e, extendedAnalog: 0x6f,
  servoConfig: 0x70, text: 0x71, i2cRequest: 0x76, i2cReply: 0x77, i2cConfig: 0x78, firmware: 0x79, samplingInterval: 0x7a,
} as const

const BYTE = { digital: 0x90, reportAnalog: 0xc0, reportDigital: 0xd0, analog: 0xe0, sysex: 0xf0, pinMode: 0xf4, digitalPin: 0xf5, end: 0xf7, version: 0xf9, reset: 0xff } as const

export type Message =
  /** A value of an analogue channel, or for a pin up to 15. */
  | { readonly says: 'analog', readonly pin: number, readonly value: number }
  /** Levels of eight pins. */
  | { readonly says: 'digital port', readonly port: number, readonly mask: number }
  | { readonly says: 'report analog' | 'report digital', readonly of: number, readonly on: boolean }
  | { readonly says: 'pin mode', readonly pin: number, readonly mode: number }
  | { readonly says: 'digital pin', readonly pin: number, readonly high: boolean }
  /** null: asked for. */
  | { readonly says: 'version', readonly version: readonly [number, number] | null }
  | { readonly says: 'reset' }
  | { readonly says: 'sysex', readonly command: number, readonly data: readonly number[] }

/** A message longer than this is none of this protocol's. */
const LONGEST = 1024

/** Takes bytes as they come, and gives messages as they are whole. What is none of the protocol is passed over. */
export class FirmataReader {
  private command = 0
  private data: number[] = []
  /** Bytes of data that the message at hand still needs; -1: it is a long one, up to its end. */
  private needs = 0

  /** `fromBoard`: whether a version comes with two bytes (a board tells it) or with none (it is asked for). */
  constructor(private readonly fromBoard: boolean) {}

  /** The messages that are whole with these bytes. */
  take(bytes: Iterable<number>): readonly Message[] {
    const whole: Message[] = []
    for (const byte of bytes) {
      const message = this.next(byte & 0xff)
      if (message !== null) whole.push(message)
    }
    return whole
  }

  private next(byte: number): Message | null {
    if (byte === BYTE.reset && !this.fromBoard) { this.forget(); return { says: 'reset' } }
    if (this.needs === -1) {
      if (byte === BYTE.end) {
        const [command, ...data] = this.data
        this.forget()
        return command === undefined ? null : { says: 'sysex', command, data }
      }
      // Another message begins before this one ended: the line lost something.
      if (byte < 0x80 && this.data.length < LONGEST) { this.data.push(byte); return null }
      this.forget()
      return byte < 0x80 ? null : this.begin(byte)
    }
    if (byte >= 0x80) return this.begin(byte)
    if (this.needs === 0) return null
    this.data.push(byte)
    if (--this.needs > 0) return null
    const message = this.short(this.command, this.data[0] ?? 0, this.data[1] ?? 0)
    this.forget()
    return message
  }

  private forget(): void { this.needs = 0; this.data = []; this.command = 0 }

  private begin(byte: number): Message | null {
    this.forget()
    this.command = byte
    if (byte === BYTE.sysex) { this.needs = -1; return null }
    if (byte === BYTE.version && !this.fromBoard) { this.forget(); return { says: 'version', version: null } }
    const kind = byte < 0xf0 ? byte & 0xf0 : byte
    this.needs = kind === BYTE.analog || kind === BYTE.digital || byte === BYTE.pinMode || byte === BYTE.digitalPin || byte === BYTE.version ? 2
      : kind === BYTE.reportAnalog || kind === BYTE.reportDigital ? 1 : 0
    return null
  }

  private short(command: number, a: number, b: number): Message {
    if (command === BYTE.pinMode) return { says: 'pin mode', pin: a, mode: b }
    if (command === BYTE.digitalPin) return { says: 'digital pin', pin: a, high: b !== 0 }
    if (command === BYTE.version) return { says: 'version', version: [a, b] }
    const of = command & 0x0f
    switch (command & 0xf0) {
      case BYTE.analog: return { says: 'analog', pin: of, value: a | b << 7 }
      case BYTE.digital: return { says: 'digital port', port: of, mask: a | b << 7 }
      case BYTE.reportAnalog: return { says: 'report analog', of, on: a !== 0 }
      default: return { says: 'report digital', of, on: a !== 0 }
    }
  }
}

const seven = (value: number): readonly [number, number] => [value & 0x7f, value >> 7 & 0x7f]

/** A message as bytes. */
export function bytesOf(m: Message): readonly number[] {
  switch (m.says) {
    case 'analog': return [BYTE.analog | m.pin, ...seven(m.value)]
    case 'digital port': return [BYTE.digital | m.port, ...seven(m.mask)]
    case 'report analog': return [BYTE.reportAnalog | m.of, m.on ? 1 : 0]
    case 'report digital': return [BYTE.reportDigital | m.of, m.on ? 1 : 0]
    case 'pin mode': return [BYTE.pinMode, m.pin, m.mode]
    case 'digital pin': return [BYTE.digitalPin, m.pin, m.high ? 1 : 0]
    case 'version': return [BYTE.version, ...m.version ?? []]
    case 'reset': return [BYTE.reset]
    case 'sysex': return [BYTE.sysex, m.command, ...m.data, BYTE.end]
  }
}

/** A text, or bytes, as pairs of seven bits. */
export const inPairs = (bytes: Iterable<number>): readonly number[] => [...bytes].flatMap(b => [b & 0x7f, b >> 7 & 0x7f])
export const fromPairs = (data: readonly number[]): readonly number[] => Array.from({ length: data.length >> 1 }, (_, i) => data[2 * i]! | data[2 * i + 1]! << 7)
export const textBytes = (text: string): readonly number[] => [...text].map(c => c.charCodeAt(0) & 0x3fff)
