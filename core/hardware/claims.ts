import type { Ability, Connection, Line } from '../devices'
import type { PortWiring } from '../robot'
import type { Board, Pin } from './board'

/** A pin taken by a line of a device. */
export interface Claim {
  readonly user: string
  readonly line: Line
  readonly pin: Pin
}

/** What beats at a rate of its own: pins that share a timer share it. */
type Beat = 'pwm' | 'servo' | 'tone'
const beatOf = (needs: Ability): Beat | null => needs === 'pwm' || needs === 'servo' || needs === 'tone' ? needs : null
const BEATS: Readonly<Record<Beat, string>> = { pwm: 'the strength of a motor or lamp', servo: 'servo pulses, 50 a second', tone: 'a tone' }

/** The timer that a claim needs: one that what it does takes wherever it is, else its pin's; null for none that others use too. */
const timerOf = ({ takes }: Board, { line, pin }: Claim): string | null => beatOf(line.needs) === null ? null : takes[line.needs] ?? pin.timer

/** The pins of a board that are free to be used and can do it. */
export const pinsFor = ({ pins }: Board, needs: Ability): readonly Pin[] => pins.filter(p => p.reserved === null && p.can.includes(needs))

/** Why a line cannot be on a pin beside what is taken already; null where it can. */
export function whyNot(board: Board, claim: Claim, others: readonly Claim[]): string | null {
  const { line, pin } = claim
  if (pin.reserved !== null) return `${pin.name} is left alone: ${pin.reserved}`
  if (!pin.can.includes(line.needs)) return `${pin.name} cannot do what this needs, ${wordOf(line.needs)}; it can do ${pin.can.join(', ')}`
  const taken = others.find(other => other.pin.name === pin.name)
  if (taken !== undefined) return `${pin.name} has ${taken.line.name} of ${taken.user} already; a pin takes one`
  const [timer, beat] = [timerOf(board, claim), beatOf(line.needs)]
  if (timer === null || beat === null) return null
  for (const other of others) {
    if (timerOf(board, other) !== timer) continue
    const theirs = beatOf(other.line.needs)!
    if (theirs !== beat) return `${BEATS[beat]} on ${pin.name} needs ${timer}, which ${other.line.name} of ${other.user} has for ${BEATS[theirs]}`
    if (pin.channel !== null && pin.channel === other.pin.channel) return `${pin.name} and ${other.pin.name} (${other.line.name} of ${other.user}) are the same output of ${timer}: both would do the same`
  }
  return null
}

/** What a pin must be able to do, in words. */
export function wordOf(needs: Ability): string {
  switch (needs) {
    case 'pull-up': return 'pull-up (a resistor of its own to the supply)'
    case 'pulse': return 'pulse (telling how long a pulse lasts)'
    case 'interrupt': return 'interrupt (counting edges beside the program)'
    case 'pwm': return 'pwm (power by pulses)'
    default: return needs
  }
}

/** The claims of a wired port, as far as its lines name pins that there are. */
export const claimsOf = (board: Board, user: string, { lines }: Connection, { pins }: Pick<PortWiring, 'pins'>): readonly Claim[] =>
  lines.flatMap((line) => { const pin = board.pins.find(p => p.name === pins[line.name]); return pin === undefined ? [] : [{ user, line, pin }] })

/** Pins that a bus takes. */
export function busClaims(board: Board, name: string): readonly Claim[] {
  const bus = board.buses.find(b => b.name === name)
  if (bus === undefined) return []
  return (['sda', 'scl'] as const).map(line => ({ user: `the bus ${name}`, line: { name: line, needs: 'input' as const }, pin: board.pins.find(p => p.name === bus[line])! }))
}

/** Volts that a divider leaves. */
export const divided = (volts: number, [upper, lower]: readonly [number, number]): number => volts * lower / (upper + lower)
/** The usual two resistors, kΩ: they bring 5 V down to 3.3 V. */
export const DIVIDER = [10, 20] as const
