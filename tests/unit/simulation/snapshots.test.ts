import { beforeAll, describe, expect, test } from 'vitest'
import { readFileSync } from 'node:fs'
import { checkProgram, compileProgram } from '../../../core/language'
import { loadPhysics } from '../../../core/physics'
import { factsOf } from '../../../core/robot'
import { Simulation, readProject, readProjectFile } from '../../../core/simulation'
import { sampled } from '../../sample'

beforeAll(() => loadPhysics())

const PROJECTS = ['kiss-the-fender', 'night-rounds', 'fetch-the-floats', 'lids-home', 'sort-the-floats', 'find-the-buoy']

function project(name: string): () => Simulation {
  const folder = `demo/projects/${name}`
  const json = (path: string): unknown => JSON.parse(readFileSync(`${folder}/${path}`, 'utf8'))
  const file = readProjectFile(json('project.json'))
  if (!file.ok) throw new Error(name)
  const read = readProject({ robot: json(file.value.robot), arena: json(file.value.arena), task: file.value.task === undefined ? null : json(file.value.task) })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const { analysis } = checkProgram(readFileSync(`${folder}/${file.value.program}`, 'utf8'), factsOf(read.value.robot))
  return () => new Simulation({ program: compileProgram(analysis), ...read.value, realism: 'rough', seed: 5, limit: 12 })
}

const ticks = (s: Simulation, n: number): void => { for (let i = 0; i < n && s.end === null; i++) s.advance() }

describe('snapshots', () => {
  test.each(sampled(PROJECTS, 3, 1))('of %s go on to the same bits, from any tick, in the same simulation and in another', (name) => {
    const make = project(name)
    const whole = make()
    whole.runToEnd()
    for (const at of [0, 1, 137]) {
      const one = make()
      ticks(one, at)
      const state = structuredClone(one.snapshot())
      ticks(one, 60)
      one.restore(state)
      one.runToEnd()
      expect([at, one.tape.digest(), one.tape.rows]).toEqual([at, whole.tape.digest(), whole.tape.rows])
      const other = make()
      other.restore(state)
      other.runToEnd()
      // The other has no rows from before; its fingerprint is of them all the same.
      expect([at, other.tape.digest()]).toEqual([at, whole.tape.digest()])
      one.free()
      other.free()
    }
    whole.free()
  })
})
