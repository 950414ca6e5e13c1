import { expect, it, vi } from 'vitest'
import { loadPhysics, World } from '../../../core/physics'

it('asks in no step what time it is: what it would measure is read by nobody', async () => {
  const clock = globalThis.performance
  await loadPhysics()
  expect(globalThis.performance).toBe(clock)
  const world = new World(0.01)
  world.addLoose('pot', { shape: 'box', hx: 0.1, hy: 0.1, hz: 0.1 }, { position: { x: 0, y: 0, z: 0.1 }, rotation: { x: 0, y: 0, z: 0, w: 1 } }, 0.5, 1)
  const asked = vi.spyOn(performance, 'now')
  world.step()
  expect(asked).not.toHaveBeenCalled()
  asked.mockRestore()
  world.free()
})
