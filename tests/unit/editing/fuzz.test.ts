import { expect, test } from 'vitest'
import { fuzzEdits } from '../../../prove/edits'

/** A sample of `./mindpath prove edits`, which does 100,000. */
test('10000 edits at random lose no comment, leave nothing unreadable, and are undone to the start', () => {
  const done = fuzzEdits(10_000)
  // Every kind of edit had its turn.
  expect([...done].filter(([, times]) => times < 7)).toEqual([])
}, 120_000)
