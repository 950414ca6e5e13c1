import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { Spaced, checkProgram, type Parsed } from '../../../core/language'
import { MAX_PROGRAM_LENGTH } from '../../../core/language/parser'
import { RandomStream } from '../../../core/random'
import { randomProgram } from '../../../prove/programs'
import { times } from '../../sample'
import { facts } from '../kit'

/** A program with room behind its lines is checked as it is without, and letters typed into it move nothing below. */

const SNIPPETS = ['\n', '  ', ' ', '(', ')', ' and', '#', '# new\n', '"', '"x {', '%', '\t', '\r\n', '7', 'when ', 'drvie 3', 'otherwise', 'mode c\n', '\n  halt\n', '\n  when sonar.sees -> halt\n', 'else', 'cm', '@', '']

describe('a program with room behind its lines', () => {
  test('is said the same of, at the same places, whatever is typed into it', () => {
    const edit = fc.record({ at: fc.double({ min: 0, max: 1, noNaN: true }), length: fc.oneof(fc.constant(0), fc.nat(3), fc.nat(60)), insert: fc.constantFrom(...SNIPPETS) })
    fc.assert(fc.property(fc.nat(60), fc.array(edit, { minLength: 1, maxLength: 8 }), (seed, edits) => {
      let text = randomProgram(RandomStream.named(seed, 'spaced'), facts)
      let before: Parsed | null = null
      for (const { at, length, insert } of edits) {
        const from = Math.floor(at * text.length)
        text = text.slice(0, from) + insert + text.slice(from + length)
        const spaced = new Spaced(text)
        const checked = checkProgram(spaced.text, facts, undefined, before)
        before = checked.parsed
        expect(checked.diagnostics.map(d => spaced.diagnostic(d))).toEqual(checkProgram(text, facts).diagnostics)
      }
    }), { numRuns: times(60, 5000), seed: 9 })
  })

  test('has all below a line at its place while letters are typed into it, also into a line with a mistake', () => {
    const text = 'when sonar.sees\n  halt\notherwise\n  drive 12 cm/s'
    const first = checkProgram(new Spaced(text).text, facts)
    const second = checkProgram(new Spaced(text.replace('halt', 'ha%t')).text, facts, undefined, first.parsed)
    const third = checkProgram(new Spaced(text.replace('halt', 'halts')).text, facts, undefined, second.parsed)
    expect(second.parsed.tree.items[1]).toBe(first.parsed.tree.items[1])
    expect(third.parsed.tree.items[1]).toBe(first.parsed.tree.items[1])
  })

  test('does not come to be too long by its room', () => {
    const text = 'a\n'.repeat(MAX_PROGRAM_LENGTH / 2 - 10)
    expect(new Spaced(text).text).toBe(text)
    expect(new Spaced(text).offset(7)).toBe(7)
  })

  test('leads what stands in the room behind a line to its end', () => {
    const spaced = new Spaced('halt\n\ncoast')
    expect([0, 4, 9, 16, 17, 33, 34, 39].map(at => spaced.offset(at))).toEqual([0, 4, 4, 4, 5, 5, 6, 11])
  })
})
