import { readFileSync, readdirSync } from 'node:fs'
import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { cppHere } from '../../../prove/export/arduino'
import { difference } from '../../../prove/export/held-against'
import { randomExports } from '../../../prove/export/random'
import { sampled } from '../../sample'
import { readCourse, rulesOfMeaning, settingsOf } from '../course'
import { compile, facts, factsFor, inputsOf, openDemo } from '../kit'

/** Exported programs in C++, compiled for this machine. `./mindpath prove hardware` goes through more of them, and through a simulated chip. */

beforeAll(() => loadPhysics())

describe('a program carried to C++ does in every tick what it does here', () => {
  test.each(sampled(readdirSync('demo/projects'), 4, 2))('%s, on the recorded course of a rough run', async (project) => {
    const simulation = await openDemo(project, { realism: 'rough', seed: 3 })
    const course = simulation.recordCourse()
    simulation.runToEnd()
    const { input, facts } = simulation
    expect(difference(cppHere, input.program!, facts, readFileSync(`demo/projects/${project}/program.mindpath`, 'utf8'), input.seed, course.map(c => c.input))).toBe(null)
  })

  test('rules of meaning in the reference of the language, on their courses', () => {
    const wrong = sampled(rulesOfMeaning(), 12).flatMap(([name, program, course]) => {
      const differs = difference(cppHere, compile(program), facts, program, 1, inputsOf(settingsOf(readCourse(course))))
      return differs === null ? [] : [`${name}: ${differs}`]
    })
    expect(wrong).toEqual([])
  })

  test.each(['limpet', 'cuttle', 'winkle', 'heron'])('random programs on %s, on random readings', (robot) => {
    expect(randomExports(cppHere, robot, factsFor(robot), 3, 80)).toEqual([])
  })
})
