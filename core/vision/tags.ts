import { TAGS } from '../arena'

/**
 * Square tags: a black square of 6 by 6 cells with a white margin of one cell; the 4 by 4 cells
 * inside are white where the tag's word has a one. The words were chosen so that any two, however
 * turned, differ in at least five cells: one cell misread is still read right.
 */

/** Width of the black square, metres, and with its white margin. */
export const TAG_SIZE = 0.04
export const TAG_PAPER = TAG_SIZE * 8 / 6
/** Cells in which two words differ at least. */
const APART = 5

/** Bits of the inner cells, row by row from the top left; index is the tag's number. */
export const TAG_WORDS: readonly number[] = chooseWords()

/** The word as it reads when the tag is turned a quarter clockwise. */
export function turnWord(word: number): number {
  let out = 0
  for (let row = 0; row < 4; row++) for (let col = 0; col < 4; col++) if (word >> (row * 4 + col) & 1) out |= 1 << (col * 4 + 3 - row)
  return out
}

/** The tag whose word this is, however turned and with at most one cell wrong; null when there is none. */
export function tagOf(word: number): number | null {
  let turned = word
  for (let turn = 0; turn < 4; turn++) {
    for (let tag = 0; tag < TAG_WORDS.length; tag++) if (bits(TAG_WORDS[tag]! ^ turned) <= 1) return tag
    turned = turnWord(turned)
  }
  return null
}

function bits(x: number): number {
  let n = 0
  for (let rest = x; rest !== 0; rest &= rest - 1) n++
  return n
}

/** Goes through all words in a scrambled order and keeps each that is far enough from those kept. */
function chooseWords(): number[] {
  const words: number[] = []
  for (let i = 1; i < 65536 && words.length < TAGS; i++) {
    // 40503 is odd, so every word comes once (Knuth's multiplicative scramble).
    const word = i * 40503 & 0xffff
    const ones = bits(word)
    if (ones < 5 || ones > 11) continue
    let turned = word
    let good = true
    for (let turn = 0; turn < 4 && good; turn++) {
      if (turn > 0 && bits(turned ^ word) < APART) good = false
      for (const other of words) if (bits(turned ^ other) < APART) { good = false; break }
      turned = turnWord(turned)
    }
    if (good) words.push(word)
  }
  return words
}
