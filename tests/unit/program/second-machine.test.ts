import { describe, expect, test } from 'vitest'
import { randomCourse } from '../../../prove/course'
import { randomProgram } from '../../../prove/programs'
import { checkProgram, compileProgram } from '../../../core/language'
import type { ProgramData } from '../../../core/program'
import { RandomStream } from '../../../core/random'
import type { RobotFacts } from '../../../core/robot'
import { PHASE, Vm, type VmEvent } from '../../../core/vm'
import { times } from '../../sample'
import { demoText, factsFor } from '../kit'
import { SecondMachine } from './second-machine'

/** A program as it comes over a wire. */
const carried = (program: ProgramData): ProgramData => JSON.parse(JSON.stringify(program)) as ProgramData

function line(e: VmEvent): string {
  switch (e.type) {
    case 'note': return `note ${e.lane} ${e.text}`
    case 'finish': return `finish ${e.lane} ${e.why}`
    case 'signal': return `signal ${e.lane} ${e.name}`
    case 'blocked': return `blocked ${e.lane} ${e.actuator} ${e.line}`
    case 'clipped': return `clipped ${e.lane} ${e.actuator}`
    case 'error': return `error ${e.lane} ${e.line}: ${e.message}`
  }
}
const phaseName = (phase: number): string => Object.entries({ start: PHASE.laneStart, 'mode start': PHASE.modeStart, rules: PHASE.rules, ended: PHASE.ended, failed: PHASE.failed }).find(([, p]) => p === phase)![0]

/** The first tick in which the two machines differ on a course of random readings, told; null when none does. */
function difference(program: ProgramData, facts: RobotFacts, seed: number, ticks: number): string | null {
  const first = new Vm(program, facts, seed)
  const second = new SecondMachine(carried(program), facts, seed)
  const inputs = randomCourse(facts, seed)
  for (let tick = 0; tick < ticks; tick++) {
    const input = inputs.next().value
    first.run(input)
    second.run(input)
    const lanes = program.lanes.map((_, i) => first.lane(i)).map(l => `${phaseName(l.phase)} ${l.mode} ${l.rule}`).join('; ')
    // What a lane remembered when it failed is of no use to anybody.
    const cells = (of: Float64Array): string => first.failed ? '' : [...of].join(' ')
    const one = [lanes, ...first.events.map(line), [...first.commands].join(' '), first.texts.join('|'), cells(first.cells)].join('\n')
    const other = [second.where, ...second.told, [...second.commands].join(' '), second.texts.join('|'), cells(second.cells)].join('\n')
    if (one !== other) return `tick ${tick}\n${one}\n--- the second machine\n${other}`
    if (first.finished !== null || first.over) return first.over === second.over && (first.finished !== null) === second.finished ? null : `tick ${tick}: one ended, one did not`
  }
  return null
}

describe('an intermediate program on a machine written from its description alone', () => {
  test.each(['limpet', 'cuttle', 'winkle', 'heron'])('does the same in every tick: random programs on %s', (robot) => {
    const facts = factsFor(robot)
    let ran = 0
    for (let seed = 0; ran < times(60, 150) && seed < 2000; seed++) {
      const text = randomProgram(RandomStream.named(seed, `second/${robot}`), facts)
      const { runs, analysis } = checkProgram(text, facts)
      if (!runs) continue
      ran++
      const differs = difference(compileProgram(analysis), facts, seed, 150)
      expect(differs === null ? null : `seed ${seed}\n${text}\n${differs}`).toBe(null)
    }
    expect(ran).toBe(times(60, 150))
  })
  test.each([
    ['kiss-the-fender', 'limpet'], ['night-rounds', 'limpet'], ['find-the-buoy', 'limpet'], ['fetch-the-floats', 'cuttle'], ['sort-the-floats', 'cuttle'], ['lids-home', 'winkle'],
  ])('does the same in every tick: %s', (project, fallback) => {
    const robot = (JSON.parse(demoText(`projects/${project}/project.json`)) as { robot: string }).robot.match(/(\w+)\.json$/)?.[1] ?? fallback
    const facts = factsFor(robot)
    const { runs, analysis } = checkProgram(demoText(`projects/${project}/program.mindpath`), facts)
    expect(runs).toBe(true)
    for (const seed of [1, 2, 3]) expect(difference(compileProgram(analysis), facts, seed, 600)).toBe(null)
  })
})
