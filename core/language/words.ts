import { COLORS } from '../colors'
import { NUMBER_FUNCTIONS } from '../program'
import { UNITS } from '../units'

/** Each function with how many values it takes. */
export const FUNCTIONS: ReadonlyMap<string, number> = new Map([...Object.entries(NUMBER_FUNCTIONS).map(([name, { takes }]): [string, number] => [name, takes]), ['round', 1], ['sqrt', 1]])

/** What is worked out over time, with how many values it takes. Its words may also name a memory of one value, a dial or a mode. */
export const OVER_TIME: ReadonlyMap<string, number> = new Map([['mean', 2], ['lowest', 2], ['highest', 2], ['rate', 1], ['total', 1], ['since', 1]])

/** Words that take values in brackets: no function or memory of several values may be named so. */
export const CALLED: ReadonlySet<string> = new Set([...FUNCTIONS.keys(), ...OVER_TIME.keys(), 'count', 'tag'])

/** Words with a meaning of their own wherever they stand; those that only begin a step are free. None may name a dial, memory, mode, routine, lane or signal. */
const GRAMMAR_WORDS = [
  'program', 'dial', 'memory', 'let', 'start', 'when', 'until', 'once', 'otherwise', 'mode', 'lane', 'routine', 'off', 'on',
  'from', 'to', 'for', 'at', 'most', 'and', 'or', 'not', 'is', 'between', 'heard', 'every', 'random', 'true', 'false',
  'if', 'else', 'repeat', 'times', 'while', 'leave', 'choose', 'set', 'reset', 'go', 'do', 'send', 'finish', 'wait', 'note',
  'drive', 'turn', 'wheels', 'run', 'light', 'back', 'left', 'right', 'turning', 'holding', 'by', 'without', 'waiting', 'within', 'per', 'tag',
]

export const RESERVED: ReadonlySet<string> = new Set([
  ...GRAMMAR_WORDS, ...COLORS, ...FUNCTIONS.keys(), ...UNITS.filter(u => /^\w+$/.test(u.name)).map(u => u.name),
])

/**
 * The word nearest to a misspelt one; null when none is near. Two edits make another word of a short one: from six letters
 * on two may differ, from three on one, in shorter ones none but the case.
 */
export function nearestWord(word: string, among: Iterable<string>): string | null {
  let best: string | null = null
  let bestDistance = Infinity
  for (const candidate of among) {
    const letters = Math.min(word.length, candidate.length)
    const distance = editDistance(word.toLowerCase(), candidate.toLowerCase())
    if (distance < bestDistance && distance <= (letters >= 6 ? 2 : letters >= 3 ? 1 : 0)) { best = candidate; bestDistance = distance }
  }
  return best
}

/** Insertions, deletions, replacements and swaps of neighbours that turn one word into the other (Damerau, 1964). */
function editDistance(a: string, b: string): number {
  if (Math.abs(a.length - b.length) > 2) return 3
  const rows: number[][] = Array.from({ length: a.length + 1 }, (_, i) => [i])
  for (let j = 0; j <= b.length; j++) rows[0]![j] = j
  for (let i = 1; i <= a.length; i++) {
    for (let j = 1; j <= b.length; j++) {
      const same = a[i - 1] === b[j - 1] ? 0 : 1
      let d = Math.min(rows[i - 1]![j]! + 1, rows[i]![j - 1]! + 1, rows[i - 1]![j - 1]! + same)
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) d = Math.min(d, rows[i - 2]![j - 2]! + 1)
      rows[i]![j] = d
    }
  }
  return rows[a.length]![b.length]!
}
