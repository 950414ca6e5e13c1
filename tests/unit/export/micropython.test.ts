import { readFileSync, readdirSync } from 'node:fs'
import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { difference } from '../../../prove/export/held-against'
import { Interpreter } from '../../../prove/export/interpreter'
import { courseOf, randomExports } from '../../../prove/export/random'
import { sampled } from '../../sample'
import { readCourse, rulesOfMeaning, settingsOf } from '../course'
import { compile, ENDLESS, facts, factsFor, inputsOf, openDemo } from '../kit'

/** Exported programs on MicroPython's own interpreter. `./mindpath prove hardware` goes through more of them. */

let interpreter: Interpreter
beforeAll(async () => {
  await loadPhysics()
  interpreter = await Interpreter.load()
})

describe('a program carried to MicroPython does in every tick what it does here', () => {
  test.each(sampled(readdirSync('demo/projects'), 2, 4))('%s, on the recorded course of a rough run', async (project) => {
    const simulation = await openDemo(project, { realism: 'rough', seed: 3 })
    const course = simulation.recordCourse()
    simulation.runToEnd()
    const { input, facts } = simulation
    expect(difference(interpreter, input.program!, facts, readFileSync(`demo/projects/${project}/program.mindpath`, 'utf8'), input.seed, course.map(c => c.input))).toBe(null)
  })

  test('every rule of meaning in the reference of the language, on its course', () => {
    const wrong = rulesOfMeaning().flatMap(([name, program, course]) => {
      const differs = difference(interpreter, compile(program), facts, program, 1, inputsOf(settingsOf(readCourse(course))))
      return differs === null ? [] : [`${name}: ${differs}`]
    })
    expect(wrong).toEqual([])
  })

  test('what stands behind a sign of remarks in a text is no remark', () => {
    const text = 'start\n  note "a # {sonar.distance} {wheels.travel}"\n'
    expect(difference(interpreter, compile(text), facts, text, 1, courseOf(facts, 1, 3))).toBe(null)
  })

  test('a loop in which no time passes goes round as often before it is stopped', () => {
    expect(difference(interpreter, compile(ENDLESS), facts, ENDLESS, 1, courseOf(facts, 1, 8))).toBe(null)
  })

  test.each(['limpet', 'cuttle', 'winkle', 'heron'])('random programs on %s, on random readings', (robot) => {
    expect(randomExports(interpreter, robot, factsFor(robot), 12, 80)).toEqual([])
  })
})
