import { describe, expect, test } from 'vitest'
import { killFirstStarts, killKeeps, killSaves } from '../../prove/kills'

/** A sample; `./mindpath prove kills` does many more. */
describe('a server that is killed', () => {
  test('during its very first start comes up complete at the next', async () => {
    expect((await killFirstStarts(8)).incomplete).toEqual([])
  })
  test('while saving loses nothing that it answered', async () => {
    const { answered, lost, incomplete } = await killSaves(5)
    expect(answered).toBeGreaterThan(5)
    expect([lost, incomplete]).toEqual([0, []])
  })
  test('while keeping runs loses none that it answered, and has none by half', async () => {
    const { answered, lost, incomplete } = await killKeeps(4)
    expect(answered).toBeGreaterThan(3)
    expect([lost, incomplete]).toEqual([0, []])
  })
})
