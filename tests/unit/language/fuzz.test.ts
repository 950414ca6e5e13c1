import { describe, expect, test } from 'vitest'
import { fuzzLanguage } from '../../../prove/language'
import { checkProgram, compileProgram } from '../../../core/language'
import { facts } from '../kit'

/** A sample; `./mindpath prove fuzz` does a million. */
describe('random programs', () => {
  test('check in time with messages that say where, and those that check run without throwing, formatted or not', () => {
    const { checked, ran, failures } = fuzzLanguage(7_000_000, 1000, 200)
    expect(failures).toEqual([])
    expect([checked >= 1000, ran >= 200]).toEqual([true, true])
  })
})

/** Routines each of which does the next one twice: two to the power of their number, once in place. */
const doubling = (count: number, last = '  note "x"\n'): string =>
  `start\n  do r0\n  wait 1 s\nlane b\n  start -> do r0\n${Array.from({ length: count }, (_, i) => `routine r${i}\n${i === count - 1 ? last : `  do r${i + 1}\n  do r${i + 1}\n`}`).join('')}`

describe('routines that do one another many times over', () => {
  test('are checked at once and refused where they would be too large', () => {
    const begin = performance.now()
    const { diagnostics, runs } = checkProgram(doubling(31), facts)
    expect(runs).toBe(false)
    expect(diagnostics.map(d => d.code)).toContain('too-long')
    // Seconds, not for ever: a limit for the method, not for the machine.
    expect(performance.now() - begin).toBeLessThan(5000)
  })
  test('compile where they are small', () => {
    const { analysis, runs } = checkProgram(doubling(8), facts)
    expect(runs).toBe(true)
    expect(compileProgram(analysis).code.length).toBeGreaterThan(500)
  })
})
