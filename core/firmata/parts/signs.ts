import { COLORS, type ColorName } from '../../colors'
import { PIN_MODE } from '../protocol'
import { cannot, type Part, type Reached } from './part'

/** What is switched or lit. */

/** Red (1), green (2) and blue (4) of the colours, as far as pins that are on or off go; those that were taught shine white. */
const SHINES: Readonly<Record<ColorName, number>> = { none: 0, black: 0, grey: 7, white: 7, red: 1, orange: 3, yellow: 3, green: 2, blue: 4, violet: 5 }
const shines = (color: number): number => { const name = COLORS[color]; return name === undefined ? 7 : SHINES[name] }

/** Pins that are on or off by what it is told. `on`: which of them, a bit each. */
function outputs(of: Reached, lines: readonly string[], on: (told: number) => number, reads: (told: number, into: Float64Array) => void): Part {
  let told = 0
  const set = (bits: number): void => { lines.forEach((line, i) => { of.host.level(of.pin(line), (bits >> i & 1) === 1) }) }
  return {
    begin: () => cannot(of, ...lines.map(line => [line, PIN_MODE.output, 'an output'] as const)),
    look(into) { reads(told, into); return true },
    tell([is]) { told = is!; set(on(is!)) },
    rest() { set(0) },
  }
}

const shown = (told: number, into: Float64Array): void => { into[0] = told }

export const threePinLamp = (of: Reached): Part => outputs(of, ['red', 'green', 'blue'], shines, shown)
export const onePinLamp = (of: Reached): Part => outputs(of, ['signal'], told => shines(told) === 0 ? 0 : 1, shown)

/** A magnet: whether something hangs on it is not known. */
export const transistor = (of: Reached): Part => outputs(of, ['signal'], told => told === 0 ? 0 : 1, (told, into) => { into[0] = 0; into[1] = told === 0 ? 0 : 1 })
