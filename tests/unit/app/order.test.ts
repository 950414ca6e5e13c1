import { describe, expect, test } from 'vitest'
import { movedBy, ordered, putBefore } from '../../../app/features/bench/sense/order'

describe('devices of Sense', () => {
  const names = (order: readonly string[]) => ordered(['a', 'b', 'c', 'd'].map(name => ({ name })), order).map(d => d.name)
  test('stand as they are listed, and as somebody chose; new ones come after, gone ones are passed over', () => {
    expect(names([])).toEqual(['a', 'b', 'c', 'd'])
    expect(names(['c', 'a'])).toEqual(['c', 'a', 'b', 'd'])
    expect(names(['x', 'd', 'y', 'a'])).toEqual(['d', 'a', 'b', 'c'])
  })
  test('move by a place, as far as it goes, and before another', () => {
    expect(movedBy(['a', 'b', 'c'], 'b', -1)).toEqual(['b', 'a', 'c'])
    expect(movedBy(['a', 'b', 'c'], 'b', 1)).toEqual(['a', 'c', 'b'])
    expect(movedBy(['a', 'b', 'c'], 'a', -1)).toEqual(['a', 'b', 'c'])
    expect(movedBy(['a', 'b', 'c'], 'x', 1)).toEqual(['a', 'b', 'c'])
    expect(putBefore(['a', 'b', 'c'], 'c', 'a')).toEqual(['c', 'a', 'b'])
    expect(putBefore(['a', 'b', 'c'], 'a', 'c')).toEqual(['b', 'a', 'c'])
    expect(putBefore(['a', 'b', 'c'], 'a', 'a')).toEqual(['a', 'b', 'c'])
  })
})
