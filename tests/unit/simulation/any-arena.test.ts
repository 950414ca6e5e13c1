import { beforeAll, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { fuzzArenas } from '../../../prove/arenas'

beforeAll(loadPhysics)

/** A sample of `./mindpath prove arenas`. */
test('whatever stands in an arena, also in one another or outside of it: nothing is nowhere, shot away, or gains energy', () => {
  const { made, ran, failures } = fuzzArenas(1000, 24, 12)
  expect(failures).toEqual([])
  // Most can be run in; in some the robot would start inside of something, and that is told.
  expect(ran).toBeGreaterThan(made / 2)
  expect(ran).toBeLessThan(made)
})
