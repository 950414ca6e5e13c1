import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { STEP_FORMS } from '../../../core/devices'
import { formatProgram, parseProgram } from '../../../core/language'
import { codesOf, diagnosticsOf, demoText } from '../kit'

const parse = (text: string) => parseProgram(text, STEP_FORMS)
const format = (text: string) => formatProgram(parse(text).tree, STEP_FORMS)

/** A program with every construct, as people might type it. */
const EVERYTHING = `program   "All of it"   # title
# about dials
dial sight=90 cm from 20 cm to 200 cm
memory count = 0 # so far

when   sonar.distance<sight for 0.1 s until sonar.distance > 120 cm or bumper_left.pressed once
    drive back 28 cm at most 3 s  # away
    turn right random 45 deg to 110 deg
    go search
mode search
  start -> reset gyro.turned
  when gyro.turned > 370 deg -> finish "turned {gyro.turned}"
  off when heard alarm -> halt
  when (bumper_left.pressed or
      bumper_right.pressed) and not sonar.sees
    repeat 3 times
      wait 0.2 s
      if count > 2
        leave
      else if count between 1 and 2
        set count = count + 1
      else -> set count = min(count, 4) * -1
    choose count
      is 1, 2 -> note "low"
      # the rest
      else
        do away(45 cm) at most 2 s
  otherwise -> drive (sonar.distance - 10 cm) * 0.8 cm/s per cm turning right 5 deg/s
lane sign
  when every 2 s
    send alarm
    wait until heard alarm at most 1 s
routine away(far)
  off drive back far
  wheels left 18 % right 45 % until bumper_left.pressed
  drive 20 cm/s holding heading 90 deg for 2 s
# the end`

const comments = (text: string) => text.split('\n').flatMap(l => /#\s*(.*)$/.exec(l.replaceAll(/"[^"]*"/g, ''))?.[1] ?? []).sort()

describe('the formatter after the parser', () => {
  test('prints one canonical form and changes nothing the second time', () => {
    const once = format(EVERYTHING)
    expect(parse(EVERYTHING).diagnostics).toEqual([])
    expect(parse(once).diagnostics).toEqual([])
    expect(format(once)).toBe(once)
    expect(once).toContain('dial sight = 90 cm from 20 cm to 200 cm\n')
    expect(once).toContain('  when (bumper_left.pressed or bumper_right.pressed) and not sonar.sees\n    repeat 3 times\n')
    expect(once).toContain('      else -> set count = min(count, 4) * -1\n')
  })
  test('keeps every comment', () => {
    expect(comments(format(EVERYTHING))).toEqual(comments(EVERYTHING))
  })
  test('leaves the demo programs as they are', () => {
    for (const name of ['kiss-the-fender', 'night-rounds']) {
      const text = demoText(`projects/${name}/program.mindpath`)
      expect(format(text)).toBe(text)
    }
  })
  test('is stable, and keeps comments, for any arrangement of good lines', () => {
    const line = fc.constantFrom(
      'when sonar.distance < 20 cm', '  halt', '  drive 20 cm # slow', '# a thought', '', 'otherwise', '  turn left 90 deg', 'mode a', '  start -> halt',
      '  when bumper_left.pressed', '    go a', '    # inner', 'lane b', 'routine r(x)', '  drive x', '  if sonar.sees', '    halt', '  else', '    # why', '    coast', 'start', '  repeat',
    )
    fc.assert(fc.property(fc.array(line, { maxLength: 24 }), (lines) => {
      const text = lines.join('\n')
      if (parse(text).diagnostics.length > 0) return
      const once = format(text)
      expect(format(once)).toBe(once)
      expect(comments(once)).toEqual(comments(text))
    }), { numRuns: 3000 })
  })
})

describe('the parser', () => {
  test('never crashes or hangs on random text', () => {
    const word = fc.constantFrom('when', 'otherwise', 'drive', '20 cm', '->', '(', ')', '"', '{', '}', '#', '\n', '\n  ', '\n      ', '\t', 'sonar.distance', '<', 'and', 'or', 'not', 'is', 'between', 'mode', 'if', 'else', 'repeat', 'choose', 'for', 'until', 'at most', 'random', '-', '*', '🦀', 'do', '3', '%')
    fc.assert(fc.property(fc.array(word, { maxLength: 60 }).map(w => w.join(' ')), (text) => {
      const { tree, diagnostics } = parse(text)
      expect(tree.tag).toBe('program')
      for (const d of diagnostics) {
        expect(d.range.from).toBeGreaterThanOrEqual(0)
        expect(d.range.to).toBeLessThanOrEqual(text.length + 1)
        expect(d.range.from).toBeLessThanOrEqual(d.range.to)
      }
      diagnosticsOf(text)
    }), { numRuns: 3000 })
    fc.assert(fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (text) => { diagnosticsOf(text) }), { numRuns: 1500 })
  })
  test('survives brackets and signs without end', () => {
    for (const part of ['(', 'not ', '- ', 'when ', '  '.repeat(3) + 'if x\n']) {
      const list = diagnosticsOf(`when ${part.repeat(20_000)}`)
      expect(list.length).toBeGreaterThan(0)
    }
  })
  test('one mistake, one message; the rest is understood', () => {
    const list = diagnosticsOf('when sonar.distnce < 20 cm\n  halt\n  drvie 10 cm\n  drive 20\notherwise\n  turn lefft 90 deg\n  wait 1 m\n')
    expect(list.map(d => d.code)).toEqual(['unknown-reading', 'unknown-step', 'unit-missing', 'expected', 'wrong-kind'])
    expect(list[0]!.fix?.text).toBe('distance')
    expect(list[1]!.fix?.text).toBe('drive')
    expect(list[2]!.message).toBe('20 what? Expected a length: 20 cm, 20 mm or 20 m.')
  })
  test('a step spelt wrong at the margin is told what it may be, and where steps stand', () => {
    const [told] = diagnosticsOf('drvie 10 cm\nwhen sonar.sees -> halt\notherwise -> halt')
    expect(told).toMatchObject({ code: 'step-outside', message: 'drvie begins nothing that can stand here. If the step drive is meant: it stands under start or a rule.', fix: { title: 'Use drive', text: 'drive' } })
    // What may be a word of the margin is taken for one.
    expect(diagnosticsOf('wehn sonar.sees -> halt\notherwise -> halt')[0]).toMatchObject({ code: 'unknown-line', fix: { text: 'when' } })
  })
  test.each([
    ['\twhen sonar.sees -> halt', 'tab'],
    ['when sonar.sees\n  halt\n wait 1 s', 'indent'],
    ['when sonar.sees and bumper_left.pressed or sonar.sees -> halt', 'and-beside-or'],
    ['when sonar.distance = 20 cm -> halt', 'equals'],
    ['when 10 cm < sonar.distance < 20 cm -> halt', 'chained'],
    ['when sonar.sees', 'empty-block'],
    ['drive 20 cm', 'step-outside'],
    ['start\n  else\n    halt', 'else-alone'],
    ['start\n  drive 20 cm/s for 2 s until sonar.sees', 'for-and-until'],
    ['start\n  note "open', 'text-not-closed'],
    ['otherwise once -> halt', 'otherwise'],
    ['start -> if sonar.sees -> halt', 'arrow'],
  ])('%j', (text, code) => {
    expect(codesOf(text)).toContain(code)
  })
})
