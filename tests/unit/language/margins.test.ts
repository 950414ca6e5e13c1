import { describe, expect, test } from 'vitest'
import { STEP_FORMS } from '../../../core/devices'
import { marginFor, parseProgram } from '../../../core/language'

/** Words of the margin that stand too far in. */

describe('a word of the margin', () => {
  test.each([
    [['when sonar.sees', '  halt'], '  otherwise', 0],
    [['when sonar.sees', '  halt'], 'otherwise', null],
    [['mode a', '  when sonar.sees', '    halt'], '    otherwise', 2],
    [['mode a', '  when sonar.sees', '    if gyro.rate > 1 deg/s', '      halt'], '      when', 2],
    [['mode a', '  when sonar.sees', '    halt'], '  when', null],
    [['mode a', '  when sonar.sees', '    halt'], '    mode', 0],
    [['lane side', '  mode a', '    when sonar.sees', '      halt'], '      mode', 2],
    [['lane side', '  mode a', '    otherwise -> halt'], '  mode', null],
    [['mode a', '  otherwise', '    halt'], '    lane', 0],
    [['otherwise', '  halt'], '  off when', 0],
    [['otherwise', '  halt'], '  drive', null],
    [[], 'when', null],
  ] as const)('after %j: %j goes to %j', (above, line, indent) => {
    expect(marginFor(above, line)).toBe(indent)
  })
  test('among steps is told so, and its mend moves it out with all that stands under it', () => {
    const text = 'mode a\n  when sonar.sees\n    halt\n    when gyro.rate > 1 deg/s\n      halt\n      go a\n  otherwise -> coast\n'
    const { diagnostics } = parseProgram(text, STEP_FORMS)
    expect(diagnostics.map(d => [d.code, d.message])).toEqual([['too-far-in', 'when is no step: it stands beside the rule above or at the margin, not among steps.']])
    const { from, to, text: instead } = diagnostics[0]!.fix!
    const mended = text.slice(0, from) + instead + text.slice(to)
    expect(mended).toBe('mode a\n  when sonar.sees\n    halt\n  when gyro.rate > 1 deg/s\n    halt\n    go a\n  otherwise -> coast\n')
    expect(parseProgram(mended, STEP_FORMS).diagnostics).toEqual([])
  })
})
