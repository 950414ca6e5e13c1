import { RandomStream } from '../core/random'
import type { RobotFacts } from '../core/robot'
import type { VmInput } from '../core/vm'

/** Random readings of a robot, tick by tick: every device looks, what it reads changes now and then. The arrays are the same ones every time. */
export function* randomCourse(facts: RobotFacts, seed: number): Generator<VmInput, never> {
  const r = RandomStream.named(seed, 'readings')
  const raw = new Float64Array(facts.readingCount)
  const looks = new Float64Array(facts.readingCount)
  const began = new Float64Array(facts.readingCount)
  for (let tick = 0; ; tick++) {
    for (const d of facts.devices) {
      looks[d.first] = looks[d.first]! + 1
      d.readings.forEach((reading, i) => {
        if (!r.chance(0.15)) return
        const [low, high] = reading.range ?? [-1, 1]
        raw[d.first + i] = reading.type.type === 'truth' ? Number(r.chance(0.5)) : reading.type.type === 'color' ? Math.floor(r.unit() * facts.colors.length) : reading.mayMiss && r.chance(0.2) ? Infinity : r.between(Math.max(-1e3, low), Math.min(1e3, high))
      })
    }
    yield { raw, looks, began: began.fill(tick), still: r.chance(0.3) }
  }
}
