import { expect, test } from 'vitest'
import { fuzzEdits } from '../../../prove/edits'
import { times } from '../../sample'

/** A sample of `./mindpath prove edits`, which does 100,000. */
test('thousands of edits at random lose no comment, leave nothing unreadable, and are undone to the start', () => {
  const done = fuzzEdits(times(5000, 10_000))
  // Every kind of edit had its turn.
  expect([...done].filter(([, often]) => often < 7)).toEqual([])
}, 120_000)
