import { array, lazy, object } from 'yup'
import { ABILITIES, type Ability } from '../devices'
import { documentText, nameText, plainNumber, readDocument, text, type Problem, type Read } from '../document'

export const BOARD_VERSION = 1

/** What a program for it is written in; firmata: it runs on the computer, and the board reads and obeys. */
export const LANGUAGES = ['arduino', 'micropython', 'firmata'] as const

/** How people call what a board is programmed in. */
export const LANGUAGE_TITLES: Readonly<Record<(typeof LANGUAGES)[number], string>> = { arduino: 'C++', micropython: 'MicroPython', firmata: 'Firmata' }

/** A pin of a board. */
export interface Pin {
  readonly name: string
  /** On which side it stands, where the board is looked at with its cable up. */
  readonly side: 'left' | 'right'
  readonly can: readonly Ability[]
  /** Whose beat its pulses follow: pins of one timer pulse alike often. null: none that others have too. */
  readonly timer: string | null
  /** Which of the timer's outputs it is: two pins of one say the same. */
  readonly channel: string | null
  /** Why it is left alone; null for one that is free. */
  readonly reserved: string | null
}

/** A board as its document says it, by its datasheet. */
export interface Board {
  readonly name: string
  readonly about: string
  readonly chip: string
  readonly language: (typeof LANGUAGES)[number]
  /** Hertz; bytes; volts; amperes. */
  readonly clock: number
  readonly flash: number
  readonly memory: number
  /** Of its memory, what its language leaves for programs. */
  readonly room: number
  readonly volts: number
  readonly current: { readonly pin: number, readonly pins: number, readonly supply: number }
  readonly pins: readonly Pin[]
  readonly buses: readonly { readonly name: string, readonly sda: string, readonly scl: string }[]
  /** The timer that something takes for itself, on whatever pin it is. */
  readonly takes: Readonly<Partial<Record<Ability, string>>>
}

const bytes = () => plainNumber().integer('expected a whole number of bytes').min(0).max(4_294_967_296).required()
const milliamperes = () => plainNumber().min(0).max(10_000).required()
const pinSchema = object({
  name: text().matches(/^[A-Za-z0-9_]{1,12}$/, 'expected 1 to 12 letters, digits and _').required(),
  side: text().oneOf(['left', 'right'], 'allowed is left or right').required(),
  can: array(text().oneOf([...ABILITIES], `allowed is one of ${ABILITIES.join(', ')}`).required()).required(),
  timer: text().max(20), channel: text().max(20), reserved: text().max(80),
}).noUnknown()
const schema = object({
  mindpath: text().oneOf(['board'], 'expected "board": this is another kind of document').required(),
  version: plainNumber().oneOf([BOARD_VERSION], `allowed is ${BOARD_VERSION}`).required(),
  name: nameText().required(),
  about: documentText(),
  chip: text().max(40).required(),
  language: text().oneOf([...LANGUAGES], `allowed is one of ${LANGUAGES.join(', ')}`).required(),
  'MHz': plainNumber().min(1).max(2000).required(),
  'flash bytes': bytes(), 'memory bytes': bytes(), 'bytes for programs': bytes().optional(),
  'volts': plainNumber().min(1).max(5.5).required(),
  'mA a pin': milliamperes(), 'mA all pins': milliamperes(), 'mA supplied': milliamperes(),
  buses: array(object({ name: nameText().required(), sda: text().required(), scl: text().required() }).noUnknown()).max(8).default(() => []),
  takes: lazy((value: unknown) => object(Object.fromEntries(Object.keys(typeof value === 'object' && value !== null ? value : {}).filter(key => (ABILITIES as readonly string[]).includes(key)).map(key => [key, text().max(20).required()])))
    .noUnknown(`does not know \${unknown}; allowed is one or more of ${ABILITIES.join(', ')}`).default(() => ({}))),
  pins: array(pinSchema).min(1).max(100).required(),
}).noUnknown().required()

/** Reads a board document: a board that robots can be wired to, or everything that is wrong with it. */
export function readBoard(value: unknown): Read<Board> {
  const read = readDocument<Record<string, unknown>>(schema, value)
  if (!read.ok) return read
  const raw = read.value as unknown as Omit<Board, 'pins' | 'clock' | 'flash' | 'memory' | 'room' | 'current'> & Readonly<Record<'MHz' | 'flash bytes' | 'memory bytes' | 'mA a pin' | 'mA all pins' | 'mA supplied', number>> & { readonly 'bytes for programs'?: number } & { readonly pins: readonly (Omit<Pin, 'timer' | 'channel' | 'reserved'> & Partial<Pin>)[] }
  const problems: Problem[] = []
  const names = new Set<string>()
  raw.pins.forEach(({ name }, i) => {
    if (names.has(name)) problems.push({ path: `pins[${i}].name`, value: JSON.stringify(name), message: 'this name is taken; each pin has its own' })
    names.add(name)
  })
  raw.buses.forEach((bus, i) => {
    for (const line of ['sda', 'scl'] as const) if (!names.has(bus[line])) problems.push({ path: `buses[${i}].${line}`, value: JSON.stringify(bus[line]), message: `the board has no such pin; it has ${[...names].join(', ')}` })
  })
  if (problems.length > 0) return { ok: false, problems }
  const { name, about = '', chip, language, volts, buses, takes } = raw
  return {
    ok: true,
    value: {
      name, about, chip, language, volts, buses, takes,
      clock: raw.MHz * 1e6, flash: raw['flash bytes'], memory: raw['memory bytes'], room: raw['bytes for programs'] ?? raw['memory bytes'],
      current: { pin: raw['mA a pin'] / 1000, pins: raw['mA all pins'] / 1000, supply: raw['mA supplied'] / 1000 },
      pins: raw.pins.map(pin => ({ ...pin, timer: pin.timer ?? null, channel: pin.channel ?? null, reserved: pin.reserved ?? null })),
    },
  }
}
