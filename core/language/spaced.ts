import type { Diagnostic, Fix } from './diagnostics'
import { MAX_PROGRAM_LENGTH } from './parser'
import type { Range } from './tree'

/** A line is as long as a multiple of this with the room behind it: it takes some letters until what stands below moves. */
const ROOM = 16

/**
 * A program's text with room behind each of its lines: spaces, which mean nothing there. What is typed into a line then mostly
 * leaves all below at its place, so that it is not read again (`parseProgram`, `before`). Places in it are led back to the text.
 */
export class Spaced {
  readonly text: string
  /** Where each line begins in the spaced text, and in the one that was given; null where the texts are the same. */
  private readonly starts: { readonly spaced: readonly number[], readonly given: readonly number[] } | null = null

  constructor(private readonly given: string) {
    const spaced: number[] = []
    const begins: number[] = []
    const lines = given.split('\n')
    let [at, from] = [0, 0]
    for (let i = 0; i < lines.length; i++) {
      const { length } = lines[i]!
      begins.push(from)
      spaced.push(at)
      from += length + 1
      if (i < lines.length - 1) lines[i] = lines[i]!.padEnd(length + ROOM - length % ROOM)
      at += lines[i]!.length + 1
    }
    // A program does not come to be too long by its room.
    this.text = at > MAX_PROGRAM_LENGTH ? given : lines.join('\n')
    if (this.text !== given) this.starts = { spaced, given: begins }
  }

  /** The place in the text that was given; what stands in the room behind a line is at its end. */
  offset(place: number): number {
    if (this.starts === null) return place
    const { spaced, given } = this.starts
    let low = 0
    for (let high = spaced.length - 1; low < high;) {
      const middle = (low + high + 1) >> 1
      if (spaced[middle]! <= place) low = middle
      else high = middle - 1
    }
    return Math.min(given[low]! + place - spaced[low]!, (given[low + 1] ?? this.given.length + 1) - 1)
  }

  range({ from, to }: Range): Range { return { from: this.offset(from), to: this.offset(to) } }

  diagnostic(d: Diagnostic): Diagnostic { return { ...d, range: this.range(d.range), fix: d.fix === null ? null : this.fix(d.fix) } }

  private fix({ title, from, to, text }: Fix): Fix { return { title, ...this.range({ from, to }), text } }
}
