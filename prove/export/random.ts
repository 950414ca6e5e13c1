import { checkProgram, compileProgram } from '../../core/language'
import { RandomStream } from '../../core/random'
import type { RobotFacts } from '../../core/robot'
import type { VmInput } from '../../core/vm'
import { randomCourse } from '../course'
import { randomProgram } from '../programs'
import { difference } from './held-against'
import type { Target } from './ran'

/** A course of random readings that stays as it is. */
export function courseOf(facts: RobotFacts, seed: number, ticks: number): readonly VmInput[] {
  const inputs = randomCourse(facts, seed)
  return Array.from({ length: ticks }, () => {
    const { raw, looks, began, still } = inputs.next().value
    return { raw: raw.slice(), looks: looks.slice(), began: began.slice(), still }
  })
}

/**
 * Random programs carried to another language and held against the machine here on random readings: `count` of them that run, each
 * for so many ticks, of every `every`th only. The others are looked through by its parser or compiler. Returns what differed, told.
 */
export function randomExports(target: Target, robot: string, facts: RobotFacts, count: number, ticks: number, every = 1, tell: (text: string) => void = () => undefined): readonly string[] {
  const wrong: string[] = []
  let ran = 0
  for (let seed = 0; ran < count; seed++) {
    const text = randomProgram(RandomStream.named(seed, `export/${robot}`), facts)
    const { runs, analysis } = checkProgram(text, facts)
    if (!runs) continue
    const program = compileProgram(analysis)
    const differs = ran % every === 0 ? difference(target, program, facts, text, seed, courseOf(facts, seed, ticks)) : target.wrong(program, facts, text, seed)
    if (differs !== null) wrong.push(`${robot}, seed ${seed}\n${text}\n${differs}`)
    ran++
    if (ran % 100 === 0) tell(`${robot}: ${ran} of ${count}, ${wrong.length} wrong`)
  }
  return wrong
}
