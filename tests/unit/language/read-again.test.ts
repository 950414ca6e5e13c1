import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { STEP_FORMS } from '../../../core/devices'
import { parseProgram, type Parsed } from '../../../core/language'
import { RandomStream } from '../../../core/random'
import { randomProgram } from '../../../prove/programs'
import { times } from '../../sample'
import { facts } from '../kit'

/** A program that was edited is read from what was read before, and comes to what it comes to when it is read alone. */

const read = (text: string, before: Parsed | null = null) => parseProgram(text, STEP_FORMS, before)

const PLAIN = `# one of many
dial sight = 90 cm from 20 cm to 200 cm

when bumper_left.pressed or
    bumper_right.pressed
  drive back 20 cm  # away

# and on
mode a
  when (sonar.distance < sight
      ) for 0.1 s -> go b
  otherwise -> drive 12 cm/s
mode b
  start -> reset gyro.turned
  when gyro.turned > 90 deg
    if bumper_left.pressed
      halt
    else -> note "{gyro.turned}"
    go a
# the end`

/** What people type, and what comes of a hand on the wrong keys. */
const SNIPPETS = ['\n', '\n\n', '  ', ' ', '(', ')', ' and', ' or', '#', '# new\n', '"', '"x"', '%', '\t', '\r\n', '7', '.', 'when ', 'otherwise', 'mode c\n', '\n  halt\n', '\nwhen sonar.sees -> halt\n', '-> ', 'else', 'cm', '@', 'lane x\n', '']

describe('a program read again', () => {
  test('comes to the same as read alone, whatever is edited', () => {
    const edit = fc.record({ at: fc.double({ min: 0, max: 1, noNaN: true }), length: fc.oneof(fc.constant(0), fc.nat(3), fc.nat(60)), insert: fc.constantFrom(...SNIPPETS) })
    fc.assert(fc.property(fc.nat(40), fc.array(edit, { minLength: 1, maxLength: 12 }), (seed, edits) => {
      let text = seed < 10 ? PLAIN : randomProgram(RandomStream.named(seed, 'again'), facts)
      let parsed = read(text)
      for (const { at, length, insert } of edits) {
        const from = Math.floor(at * text.length)
        text = text.slice(0, from) + insert + text.slice(from + length)
        parsed = read(text, parsed)
        const alone = read(text)
        expect(JSON.stringify(parsed.tree)).toBe(JSON.stringify(alone.tree))
        expect(parsed.diagnostics).toEqual(alone.diagnostics)
        expect(parsed.lines).toEqual(alone.lines)
      }
    }), { numRuns: times(100, 20_000), seed: 5 })
  })

  test('keeps what stands as it stood: the same objects, before the change and behind it', () => {
    const before = read(PLAIN)
    const nudged = read(PLAIN.replace('12 cm/s', '13 cm/s'), before)
    expect(nudged.tree.items.map((item, i) => item === before.tree.items[i])).toEqual([true, true, false, true])
    // What moved along is read anew, as it tells where it stands.
    const longer = read(PLAIN.replace('12 cm/s', '120 cm/s'), before)
    expect(longer.tree.items.map((item, i) => item === before.tree.items[i])).toEqual([true, true, false, false])
    expect(longer.tree.items[3]!.range.from).toBe(before.tree.items[3]!.range.from + 1)
  })

  test('tells a comment that says nothing from none', () => {
    const [without, withOne] = ['"\nwhen sonar.sees -> halt', '#\nwhen sonar.sees -> halt']
    expect(read(withOne, read(without)).tree).toEqual(read(withOne).tree)
  })

  test('reads a line again that goes on, or no longer does, for the first word of the one below', () => {
    const [stops, goesOn] = ['when (sonar.sees\nmode a\n  otherwise -> halt', 'when (sonar.sees\n or mode a\n  otherwise -> halt']
    for (const [text, next] of [[stops, goesOn], [goesOn, stops]] as const) expect(read(next, read(text)).lines).toEqual(read(next).lines)
    expect(read(stops).lines.lines).toHaveLength(3)
    expect(read(goesOn).lines.lines).toHaveLength(2)
  })
})
