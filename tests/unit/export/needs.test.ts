import { describe, expect, test } from 'vitest'
import { cyclesOf } from '../../../core/export/arduino'
import { exportTo } from '../../../core/export'
import { takesOf } from '../../../core/export/micropython'
import { BOARDS, readBoard, wiringOn } from '../../../core/hardware'
import { Chip } from '../../../prove/export/arduino'
import { Interpreter } from '../../../prove/export/interpreter'
import { courseOf } from '../../../prove/export/random'
import { compile, demo, demoText, facts, factsFor, limpet } from '../kit'
import boardFile from '../../../core/hardware/boards/rp2040.json'
import { readRobot } from '../../../core/robot'

/** What a program takes of a board, worked out from its text and its data before it is there. */

const cycles = (text: string) => cyclesOf(compile(text), facts.tick)

describe('clock cycles of a tick', () => {
  test('grow with rules that are asked and with ticks that are looked back at, in every tick', () => {
    const one = cycles('when sonar.distance < 10 cm -> halt\notherwise -> drive 9 cm/s\n')
    const five = cycles(`${'when sonar.distance < 10 cm -> halt\n'.repeat(5)}otherwise -> drive 9 cm/s\n`)
    expect(five.usual - one.usual).toBeGreaterThan(800)
    const back = (seconds: number): number => cycles(`when mean(sonar.distance, ${seconds} s) < 10 cm -> halt\n`).usual
    expect((back(4) - back(2)) / (back(2) - back(1))).toBeCloseTo(2, 6)
  })
  test('count what a rule does once in the tick in which it does it, and not in those in which it goes on', () => {
    const quiet = cycles('when sonar.distance < 10 cm\n  drive 9 cm/s\n')
    const noting = cycles('when sonar.distance < 10 cm\n  note "something is near, that is to be looked at"\n  drive 9 cm/s\n')
    expect(noting.usual - quiet.usual).toBeLessThan(600)
    expect(noting.longest - quiet.longest).toBeGreaterThan(2000)
  })
  test('of steps that wait for one another, those of one tick count', () => {
    const note = '  note "something is near, that is to be looked at"\n'
    const one = cycles(`start\n${note}  wait 1 s\n`)
    expect(cycles(`start\n${note}  wait 1 s\n${note}  wait 1 s\n`).longest).toBeLessThan(one.longest + 1000)
    expect(cycles(`start\n${note}${note}  wait 1 s\n`).longest).toBeGreaterThan(one.longest + 1000)
  })
  test('are as many on a chip as are expected, as near as docs/hardware.md says', () => {
    const chip = Chip.make()
    const wrong = [['kiss-the-fender', 'limpet'], ['lids-home', 'winkle']].flatMap(([project, robot]) => {
      const own = factsFor(robot!)
      const program = compile(demoText(`projects/${project}/program.mindpath`), own)
      chip.run(program, own, demoText(`projects/${project}/program.mindpath`), 1, courseOf(own, 1, 400))
      const [usual, longest] = [chip.took.cycles.toSorted((a, b) => a - b)[Math.floor(chip.took.cycles.length * 0.9)]!, Math.max(...chip.took.cycles)]
      const expected = cyclesOf(program, own.tick)
      return expected.usual > usual * 0.6 && expected.usual < usual * 2.2 && expected.longest > longest * 0.75 ? [] : [`${project}: ${usual} and ${longest}, expected ${JSON.stringify(expected)}`]
    })
    chip.free()
    expect(wrong).toEqual([])
  })
})

describe('memory under MicroPython', () => {
  test.each([['kiss-the-fender', 'limpet'], ['startle', 'cuttle'], ['clear-the-pontoon', 'limpet-plough']])('is taken by %s as was expected, within a fifth', async (project, name) => {
    const robot = readRobot(demo(`robots/${name}.json`))
    const board = BOARDS.find(b => b.name === 'rp2040')!
    if (!robot.ok) throw new Error(JSON.stringify(robot.problems))
    const made = exportTo('micropython', { text: demoText(`projects/${project}/program.mindpath`), robot: robot.value, board, wiring: wiringOn(robot.value, board).wiring, seed: 1 })
    if (!made.ok) throw new Error(made.says)
    const files = Object.fromEntries(Object.entries(made.files).filter(([file]) => file.endsWith('.py')))
    const taken = (await Interpreter.load()).memoryOf(files)
    expect(taken).toBeGreaterThan(10_000)
    expect(Math.abs(takesOf(files).memory / taken - 1)).toBeLessThan(0.2)
  })
  test('is held against what the board’s language leaves of it, and where its document does not say that, against all', () => {
    const says = (change: object): string => {
      const board = readBoard({ ...boardFile, ...change })
      if (!board.ok) throw new Error(JSON.stringify(board.problems))
      const robot = limpet()
      const made = exportTo('micropython', { text: 'when sonar.distance < 10 cm -> halt\n', robot, board: board.value, wiring: wiringOn(robot, board.value).wiring, seed: 1 })
      if (!made.ok) throw new Error(made.says)
      expect(made.needs[0]!.enough).toBe(!made.needs[0]!.says.endsWith('more than there is'))
      return made.needs[0]!.says
    }
    expect(says({})).toMatch(/^memory: about \d+ of 180000 bytes, and some \d+ while it starts$/)
    expect(says({ 'bytes for programs': undefined })).toContain('of 270336 bytes')
    expect(says({ 'bytes for programs': 20_000 })).toContain('more than there is')
  })
})
