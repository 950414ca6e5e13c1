import { expect, test } from 'vitest'
import { fuzzDocuments } from '../../prove/documents'

/** A sample; `./mindpath prove fuzz` does a hundred thousand. */
test('mutated documents are read or refused with place, value and reason, and never throw', () => {
  const { failures, taken } = fuzzDocuments(5_000_000, 2000)
  expect(failures).toEqual([])
  expect(taken).toBeGreaterThan(20)
})
