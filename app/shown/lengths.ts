import { findUnit, formatQuantity } from '~~/core/units'
import { useKept } from '~/composables/useKept'

/** The units in which people may see lengths, and speeds with them. */
const LENGTH_UNITS = ['cm', 'mm', 'in'] as const
/** The one that this browser's owner prefers, everywhere. */
export const lengthUnit = useKept<(typeof LENGTH_UNITS)[number]>('unit.length', 'cm')

export function nextLengthUnit(): void {
  lengthUnit.value = LENGTH_UNITS[(LENGTH_UNITS.indexOf(lengthUnit.value) + 1) % LENGTH_UNITS.length]!
}

/** Metres, or metres a second, in the preferred unit: "34.2 cm", "13.5 in/s". */
export function shownLength(metres: number, per: '' | '/s' = ''): string {
  return formatQuantity(metres, findUnit(`${lengthUnit.value}${per}`)!)
}

/** What the core words in centimetres (goals, events of a run), in the preferred unit. */
export function inLengthUnit(words: string): string {
  if (lengthUnit.value === 'cm') return words
  return words.replaceAll(/(-?\d+(?:\.\d+)?) cm(\/s)?(?![A-Za-z])/g, (_, figure: string, per?: '/s') => shownLength(Number(figure) / 100, per ?? ''))
}
