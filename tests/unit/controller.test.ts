import { readdirSync } from 'node:fs'
import { beforeAll, describe, expect, test } from 'vitest'
import { Controller, CourseRig } from '../../core/controller'
import { loadPhysics } from '../../core/physics'
import { Simulation } from '../../core/simulation'
import { openDemo } from './kit'
import { sampled, times } from '../sample'

beforeAll(loadPhysics)

describe('a controller on another rig', () => {
  test.each(sampled(readdirSync('demo/projects'), 4, 2))('commands on the recorded course of %s what it commanded in the run, and tells the same', async (project) => {
    const simulation = await openDemo(project, { realism: 'rough', seed: 3, limit: times(25, 3600) })
    const course = simulation.recordCourse()
    simulation.runToEnd()
    const { tape, input, facts } = simulation
    const rig = new CourseRig(course)
    const controller = new Controller(input.program, facts, input.seed)
    const told: string[] = []
    for (let tick = 0; tick < course.length; tick++) {
      controller.tick(rig)
      for (const e of controller.told) told.push(`${tick} ${e.type} ${e.about} ${e.text}`)
    }
    expect(rig.differs).toBe(null)
    const own = new Set(['note', 'finish', 'signal', 'blocked', 'error', 'show'])
    expect(told.filter(t => own.has(t.split(' ')[1]!))).toEqual(tape.events.filter(e => own.has(e.type)).map(e => `${e.tick} ${e.type} ${e.about} ${e.text}`))
    expect(() => controller.tick(rig)).toThrow(RangeError)
  })

  test('a course says where another program commands otherwise', async () => {
    const simulation = await openDemo('night-rounds', { realism: 'ideal', seed: 1 })
    const course = simulation.recordCourse()
    for (let i = 0; i < 50; i++) simulation.advance()
    const rig = new CourseRig(course)
    const changed = { ...simulation.input.program!, code: simulation.input.program!.code.map(op => op.op === 'hold' ? { op: 'jump' as const, to: 0 } : op) }
    const controller = new Controller({ ...changed, code: changed.code.map(op => op.op === 'jump' ? { op: 'end' as const } : op) }, simulation.facts, 1)
    for (let i = 0; i < 50; i++) controller.tick(rig)
    expect(rig.differs).toBe(0)
  })
})

describe('what is kept of a run', () => {
  test('changes nothing of it: the same end, goals and events; the fingerprint is the same where there is one', async () => {
    const all = await openDemo('night-rounds', { realism: 'rough', seed: 5 })
    all.runToEnd()
    for (const keeping of ['fingerprint', 'events'] as const) {
      const run = new Simulation({ ...all.input, keeping })
      run.runToEnd()
      expect([run.end, run.goals, run.tape.events, run.tape.rows, run.pathLength]).toEqual([all.end, all.goals, all.tape.events, all.tape.rows, all.pathLength])
      expect(run.tape.digest() === all.tape.digest()).toBe(keeping === 'fingerprint')
      expect([run.tape.first, run.tape.find(3)]).toEqual([run.tape.rows, null])
    }
  })
})
