import RAPIER from '@dimforge/rapier3d-deterministic-compat'

/**
 * This folder alone knows the physics library: Rapier, in its build that gives the same bits on every machine. Here it is
 * loaded; `shapes.ts` has our shapes as it counts them, `world.ts` bodies and what becomes of them.
 */

let loaded: Promise<void> | null = null

/** Loads the library's code, once; nothing else here works before. */
export function loadPhysics(): Promise<void> {
  loaded ??= RAPIER.init().then(stopItsClock)
  return loaded
}

/**
 * The library asks what time it is 36 times in each step, for a report that nobody reads: a twentieth of a tick. It
 * keeps the clock that it finds in its first step, so its first step is one of nothing, and finds one that stands.
 */
function stopItsClock(): void {
  const nothing = new RAPIER.World({ x: 0, y: 0, z: 0 })
  const clock = Object.getOwnPropertyDescriptor(globalThis, 'performance')
  Object.defineProperty(globalThis, 'performance', { value: { now: () => 0 }, configurable: true })
  try {
    nothing.step()
  } finally {
    if (clock === undefined) Reflect.deleteProperty(globalThis, 'performance')
    else Object.defineProperty(globalThis, 'performance', clock)
  }
  nothing.free()
}
