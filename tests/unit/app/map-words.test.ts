import { describe, expect, test } from 'vitest'
import { outlineOf, sheetOf } from '../../../core/editing'
import { rowsByLine, shortened, textOf, whenOf } from '../../../app/features/rules/map-words'

const TEXT = `mode away
  when sonar.distance < 30 cm and not bumper_left.pressed for 0.2 s until wheels.stalled
    turn right (20 deg + 10 deg)
    go home
  otherwise -> halt

mode home
  start -> drive 1 m
`

describe('words of the map', () => {
  const { cards } = outlineOf(sheetOf(TEXT))
  test('are those of the text, with its spaces', () => {
    const rows = rowsByLine(cards)
    expect([...rows.keys()]).toEqual([2, 5, 8])
    expect([2, 5, 8].map(line => whenOf(rows.get(line)!))).toEqual(['sonar.distance < 30 cm and not bumper_left.pressed for 0.2 s until wheels.stalled', 'otherwise', 'start'])
    expect(textOf(rows.get(2)!.steps[0]!.pieces)).toBe('turn right (20 deg + 10 deg)')
  })
  test('are cut at a word, and say that there is more', () => {
    expect(shortened('sonar.distance < 30 cm', 40)).toBe('sonar.distance < 30 cm')
    expect(shortened('sonar.distance < 30 cm and not pressed', 24)).toBe('sonar.distance < 30 cm…')
    expect(shortened('abcdefghijklmnop', 8)).toBe('abcdefg…')
    for (let most = 4; most < 40; most++) expect(shortened('sonar.distance < 30 cm and not pressed', most).length).toBeLessThanOrEqual(most)
  })
})
