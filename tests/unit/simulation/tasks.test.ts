import { describe, expect, it } from 'vitest'
import { demoProjects } from '../../../prove/fingerprints'
import { FIRST_TRY, attempts, programsOf } from '../../../prove/tasks'
import { sampled } from '../../sample'

/** Tasks whose first try is over soon, done or not. */
const QUICK = new Set(['find-the-buoy', 'fetch-the-floats', 'follow-the-hawser', 'kiss-the-fender', 'night-rounds', 'startle'])

/** A sample of `./mindpath prove tasks`, which runs all of it. */
describe('the demo tasks', () => {
  it('are the twelve, each with a first try', () => {
    expect(demoProjects()).toEqual(['blind-alley', 'clear-the-pontoon', 'fetch-the-floats', 'find-the-buoy', 'follow-the-hawser', 'kiss-the-fender', 'lamps-out', 'lids-home', 'night-rounds', 'sort-the-floats', 'startle', 'topple-the-pots'])
    for (const project of demoProjects()) expect(programsOf(project), project).toContain(FIRST_TRY)
  })

  // That they do what they did is held by their fingerprints, of each.
  for (const project of sampled(demoProjects(), 6)) {
    it(`${project} is done by its program${QUICK.has(project) ? ', and not by its first try' : ''}`, async () => {
      expect(await attempts(project, 'program.mindpath', 'typical', [2, 2])).toMatchObject({ result: { met: 1, failures: [] } })
      if (QUICK.has(project)) expect(await attempts(project, FIRST_TRY, 'typical', [1, 1])).toMatchObject({ result: { met: 0 } })
    })
  }
})
