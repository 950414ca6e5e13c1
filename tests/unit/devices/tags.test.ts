import { describe, expect, test } from 'vitest'
import { TAG_WORDS, tagOf, turnWord } from '../../../core/vision/tags'

const bits = (x: number) => x.toString(2).replaceAll('0', '').length

describe('the words of tags', () => {
  test('any two, however turned, differ in five cells', () => {
    expect(TAG_WORDS.length).toBe(16)
    TAG_WORDS.forEach((a, i) => TAG_WORDS.forEach((b, k) => {
      let turned = b
      for (let turn = 0; turn < 4; turn++) {
        if (i !== k || turn > 0) expect(bits(a ^ turned), `${i} and ${k} turned ${turn}`).toBeGreaterThanOrEqual(5)
        turned = turnWord(turned)
      }
    }))
  })
  test('four quarters are a whole turn', () => {
    const word = 0b0010_0110_1000_0001
    expect(turnWord(word)).not.toBe(word)
    expect(turnWord(turnWord(turnWord(turnWord(word))))).toBe(word)
  })
  test('one wrong cell is forgiven, two are not taken for another tag', () => {
    expect(tagOf(TAG_WORDS[7]! ^ 0b100000)).toBe(7)
    expect(tagOf(turnWord(TAG_WORDS[11]!) ^ 1)).toBe(11)
    expect(tagOf(TAG_WORDS[7]! ^ 0b100100)).toBe(null)
  })
})
