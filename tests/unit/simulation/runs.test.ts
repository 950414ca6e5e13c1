import { beforeAll, describe, expect, test } from 'vitest'
import { loadPhysics } from '../../../core/physics'
import { summarise } from '../../../core/simulation'
import { demoParts, demoText, simulate } from '../kit'

beforeAll(loadPhysics)

const SEEDS = Array.from({ length: 20 }, (_, i) => i + 1)
const kiss = demoText('projects/kiss-the-fender/program.mindpath')
const rounds = demoText('projects/night-rounds/program.mindpath')

function outcome(arena: string, task: string, program: string, seed: number) {
  const s = simulate(demoParts(arena, task), program, { seed })
  s.runToEnd()
  const summary = summarise(s)
  const path = s.goals.map(g => g.progress)
  s.free()
  return { ...summary, progress: path }
}

describe('the demo projects', () => {
  test('kiss the fender meets its goals for every seed', () => {
    for (const seed of SEEDS) {
      const { goals, ended } = outcome('fender-quay', 'kiss-the-fender', kiss, seed)
      expect({ seed, ended, met: goals.map(g => g.met) }).toEqual({ seed, ended: 'finished', met: [true, true, true] })
    }
  })
  test('with the threshold at 3 cm it fails', () => {
    const late = kiss.replace(/near = [\d.]+ cm/, 'near = 3 cm')
    for (const seed of [1, 2, 3]) expect(outcome('fender-quay', 'kiss-the-fender', late, seed).goals[0]!.met).toBe(false)
  })
  test('night rounds meets its goals for six seeds; `prove tasks` tries twenty and more', () => {
    for (const seed of SEEDS.slice(0, 6)) {
      const { goals, contacts } = outcome('bollard-yard', 'night-rounds', rounds, seed)
      expect({ seed, contacts, met: goals.map(g => g.met) }).toEqual({ seed, contacts: 0, met: [true, true] })
    }
  }, 180_000)
  test('without otherwise it never moves', () => {
    const { goals, progress } = outcome('bollard-yard', 'night-rounds', rounds.slice(0, rounds.indexOf('otherwise')), 4)
    expect(goals.map(g => g.met)).toEqual([true, false])
    expect(progress[1]).toBe('0.0 m')
  })
})

describe('a run', () => {
  test('is the same to the last bit for the same seed, and another for another', () => {
    const hash = (seed: number) => outcome('bollard-yard', 'night-rounds', rounds.replace('22 cm/s', '40 cm/s'), seed).hash
    expect(hash(5)).toBe(hash(5))
    expect(hash(5)).not.toBe(hash(6))
  })
  test('goes on from a snapshot exactly as it went', () => {
    const parts = demoParts('fender-quay', 'kiss-the-fender')
    const straight = simulate(parts, kiss, { seed: 3 })
    straight.runToEnd()
    const broken = simulate(parts, kiss, { seed: 3 })
    for (let i = 0; i < 130; i++) broken.advance()
    const saved = structuredClone(broken.snapshot())
    for (let i = 0; i < 90; i++) broken.advance()
    broken.poke({ poke: 'push', forward: 1, right: 2 })
    broken.advance()
    broken.restore(saved)
    broken.runToEnd()
    expect(broken.tape.digest()).toBe(straight.tape.digest())
    expect(summarise(broken)).toEqual(summarise(straight))
  })
  test('shows how things stand before the first tick without recording it', () => {
    const s = simulate(demoParts('bollard-yard', 'night-rounds'), rounds, { seed: 2 })
    const first = s.peek()
    expect(s.tape.rows).toBe(0)
    s.advance()
    const { layout } = s.tape
    // The first tick's program sees what stood there.
    expect(first.slice(layout.readings, layout.readings + 8)).toEqual(s.tape.at(0).slice(layout.readings, layout.readings + 8))
    expect(first[layout.lanes + 2]).toBe(-1)
  })
  test('pokes are events on the tape and change what comes after', () => {
    const parts = demoParts('fender-quay', 'kiss-the-fender')
    const poked = () => {
      const s = simulate(parts, kiss, { seed: 3 })
      for (let i = 0; i < 60; i++) s.advance()
      s.poke({ poke: 'dial', name: 'near', value: 0.4 })
      s.poke({ poke: 'put', what: 'crate_1', x: 1.4, y: 0.7, heading: 0.3 })
      s.runToEnd()
      return s
    }
    const a = poked()
    expect(a.tape.events.filter(e => e.type === 'poke').map(e => e.about)).toEqual(['near', 'crate_1'])
    expect(a.tape.digest()).toBe(poked().tape.digest())
    expect(a.goals[0]!.status).toBe('failed')
  })
  test('adding noise to one device does not move the draws of another', () => {
    const one = simulate(demoParts('bollard-yard', null), null, { limit: 1 })
    const gyroOf = (s: typeof one) => {
      s.runToEnd()
      const column = s.tape.layout.readings + s.facts.devices.find(d => d.name === 'gyro')!.first + 2
      return Array.from({ length: s.tape.rows }, (_, t) => s.tape.at(t)[column]!)
    }
    const parts = demoParts('bollard-yard', null)
    const fewer = { ...parts, robot: { ...parts.robot, devices: parts.robot.devices.filter(d => d.name !== 'sonar') } }
    expect(gyroOf(simulate(fewer, null, { limit: 1 }))).toEqual(gyroOf(one))
  })
  test('where every lane was only a start, it ends with the last of them', () => {
    const s = simulate(demoParts('fender-quay', null), 'start\n  wait 0.5 s\nlane b\n  start\n    wait 0.2 s', { limit: 5 })
    expect(s.runToEnd()).toEqual({ ended: 'finished', reason: 'every lane is done', time: 0.5 })
  })
  test('a program stopped by its own mistake ends as an error that names the line', () => {
    const s = simulate(demoParts('fender-quay', null), 'memory n = 0\notherwise\n  repeat until n > 5\n    set n = n * 1', { limit: 5 })
    const end = s.runToEnd()
    expect(end.ended).toBe('error')
    expect(end.reason).toContain('line 3')
  })
  test('a piece is scattered clear of the others and of the start', () => {
    for (const seed of SEEDS) {
      const { layout } = simulate(demoParts('bollard-yard', null), null, { seed })
      expect(layout.pieces.length + layout.leftOut.length).toBe(7)
      layout.pieces.forEach((p, i) => {
        expect(Math.hypot(p.at[0] - layout.start.x, p.at[1] - layout.start.y)).toBeGreaterThan(0.45)
        for (const q of layout.pieces.slice(i + 1)) expect(Math.hypot(p.at[0] - q.at[0], p.at[1] - q.at[1])).toBeGreaterThan(0.7 + 0.13)
      })
    }
  })
})
