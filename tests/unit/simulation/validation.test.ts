import { readFileSync } from 'node:fs'
import { expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { deviation, validate, validationText } from '../../../prove/validation'

test('the simulator keeps to theory within what docs/validation.md says', async () => {
  await loadPhysics()
  const all = validate()
  for (const v of all) expect(`${v.name}: ${deviation(v) <= v.within}`).toBe(`${v.name}: true`)
  expect(readFileSync('docs/validation.md', 'utf8')).toBe(validationText(all))
})
