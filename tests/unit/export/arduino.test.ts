import { readFileSync, readdirSync } from 'node:fs'
import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { Chip, cppHere, cppNarrow } from '../../../prove/export/arduino'
import { difference, firstDifference, ranHere } from '../../../prove/export/held-against'
import { courseOf, randomExports } from '../../../prove/export/random'
import { sampled } from '../../sample'
import { readCourse, rulesOfMeaning, settingsOf } from '../course'
import { compile, ENDLESS, facts, factsFor, inputsOf, openDemo } from '../kit'

/** Exported programs in C++, compiled for this machine. `./mindpath prove hardware` goes through more of them, and through a simulated chip. */

beforeAll(() => loadPhysics())

/** A demo project's program, and the course of a rough run of it. */
async function recorded(project: string) {
  const simulation = await openDemo(project, { realism: 'rough', seed: 3 })
  const course = simulation.recordCourse()
  simulation.runToEnd()
  const { input, facts } = simulation
  return { program: input.program!, facts, text: readFileSync(`demo/projects/${project}/program.mindpath`, 'utf8'), seed: input.seed, course: course.map(c => c.input) }
}

describe('a program carried to C++ does in every tick what it does here', () => {
  test.each(sampled(readdirSync('demo/projects'), 2, 1))('%s, on the recorded course of a rough run', async (project) => {
    const { program, facts, text, seed, course } = await recorded(project)
    expect(difference(cppHere, program, facts, text, seed, course)).toBe(null)
  })

  test('rules of meaning in the reference of the language, on their courses', () => {
    const wrong = sampled(rulesOfMeaning(), 10).flatMap(([name, program, course]) => {
      const differs = difference(cppHere, compile(program), facts, program, 1, inputsOf(settingsOf(readCourse(course))))
      return differs === null ? [] : [`${name}: ${differs}`]
    })
    expect(wrong).toEqual([])
  })

  test('what stands behind a sign of remarks in a text is no remark', () => {
    const text = 'start\n  note "a // {sonar.distance} {wheels.travel}"\n'
    expect(difference(cppHere, compile(text), facts, text, 1, courseOf(facts, 1, 3))).toBe(null)
  })

  test('a loop in which no time passes goes round as often before it is stopped', () => {
    expect(difference(cppHere, compile(ENDLESS), facts, ENDLESS, 1, courseOf(facts, 1, 8))).toBe(null)
  })

  test.each(['limpet', 'cuttle', 'winkle', 'heron'])('random programs on %s, on random readings', (robot) => {
    expect(randomExports(cppHere, robot, factsFor(robot), 2, 80)).toEqual([])
  })
})

describe('on a simulated chip with 8 bits, where numbers have 32', () => {
  test.each(sampled(['follow-the-hawser', 'kiss-the-fender', 'night-rounds'], 1))('%s does in every tick what the same C++ does here with such numbers, and here it does the same with 64', async (project) => {
    const { program, facts, text, seed, course } = await recorded(project)
    const chip = Chip.make()
    const there = chip.run(program, facts, text, seed, course)
    chip.free()
    expect(firstDifference(cppNarrow.run(program, facts, text, seed, course), there, 2e-5)).toBe(null)
    expect(firstDifference(ranHere(program, facts, seed, course), there, 2e-4)).toBe(null)
  })
})
