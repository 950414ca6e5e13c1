import { expect, test } from 'vitest'
import { sampled } from '../../sample'
import { demoProjects, fingerprintOf, keptLines, lineOf } from '../../../prove/fingerprints'

/** A sample; `./mindpath prove fingerprints` does every project for five seeds at each realism, and writes what was meant to change. */
const runs = [...demoProjects().map(project => [project, 'rough'] as const), ...sampled(demoProjects(), 4).map(project => [project, 'ideal'] as const)]
test.each(runs)('%s, %s, comes to what it came to before, to the last bit', async (project, realism) => {
  expect(keptLines()).toContain(lineOf(await fingerprintOf(project, realism, 2)))
})
