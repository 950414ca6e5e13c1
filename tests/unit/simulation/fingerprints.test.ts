import { expect, test } from 'vitest'
import { demoProjects, fingerprintOf, keptLines, lineOf } from '../../../prove/fingerprints'

/** A sample; `./mindpath prove fingerprints` does every project for five seeds at each realism, and writes what was meant to change. */
test.each(demoProjects())('%s comes to what it came to before, to the last bit', async (project) => {
  for (const realism of ['ideal', 'rough'] as const) expect(keptLines()).toContain(lineOf(await fingerprintOf(project, realism, 2)))
})
