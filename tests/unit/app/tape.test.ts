import fc from 'fast-check'
import { beforeAll, describe, expect, test } from 'vitest'
import { checkProgram, compileProgram, mapOf } from '../../../core/language'
import { loadPhysics } from '../../../core/physics'
import { factsOf } from '../../../core/robot'
import { Simulation, readProject } from '../../../core/simulation'
import { nextEvent, nextTakeover, panned, zoomed } from '../../../app/features/bench/tape/moves'
import { difference, said, sourcesOf, usualIds, worth } from '../../../app/features/bench/tape/sources'
import type { Opened } from '../../../app/run/protocol'
import { demo } from '../kit'

beforeAll(() => loadPhysics())

const PROGRAM = `dial near = 30 cm
memory turns = 0
let gap = sonar.distance - near

when sonar.distance < near
  set turns = turns + 1
  note "near"
  turn right 120 deg
otherwise
  drive 20 cm/s
`

/** A run of a second or ten, and what the page knows of it. */
function run(seconds: number): { simulation: Simulation, opened: Opened } {
  const read = readProject({ robot: demo('robots/limpet.json'), arena: demo('arenas/bollard-yard.json'), task: null })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const { analysis } = checkProgram(PROGRAM, factsOf(read.value.robot)) as { analysis: Parameters<typeof compileProgram>[0] }
  const program = compileProgram(analysis)
  const simulation = new Simulation({ ...read.value, program, realism: 'ideal', seed: 2, limit: seconds })
  simulation.runToEnd()
  return { simulation, opened: { layout: simulation.tape.layout, facts: simulation.facts, program: mapOf(program, PROGRAM) } as unknown as Opened }
}

describe('what can be traced', () => {
  test('is every reading, what motors are told, what the program names and which rules want control, each once, each its own column', () => {
    const { opened } = run(1)
    const sources = sourcesOf(opened)
    expect(new Set(sources.map(s => s.id)).size).toBe(sources.length)
    const of = (group: string) => sources.filter(s => s.group === group).map(s => s.title)
    expect(of('senses')).toEqual(expect.arrayContaining(['sonar.distance', 'bumper_left.pressed', 'wheels.travel']))
    expect(of('senses').some(t => t.includes('._'))).toBe(false)
    expect(of('told')).toEqual(expect.arrayContaining(['wheels told 1', 'wheels told 2', 'wheels told 3']))
    expect(of('names')).toEqual(['near', 'turns', 'gap'])
    expect(of('rules')).toEqual(['rule 1 wants', 'rule 2 wants'])
    expect(usualIds(opened)).toEqual(['sonar.distance'])
  })
  test('says what the tape holds: commands, memories, named values and wants, tick by tick', () => {
    const { simulation, opened } = run(10)
    const { tape } = simulation
    const at = (title: string, tick: number) => { const s = sourcesOf(opened).find(x => x.title === title)!; return worth(s, tape.value(tick, s.column), tick, opened.layout.dt) }
    const first = Array.from({ length: tape.rows }, (_, t) => t).find(t => at('turns', t) === 1)!
    for (const tick of [0, first - 1]) expect([at('wheels told 2', tick), at('turns', tick), at('rule 1 wants', tick)]).toEqual([0.2, 0, 0])
    expect([at('rule 1 wants', first), at('turns', first)]).toEqual([1, 1])
    expect(at('gap', first - 1)).toBeCloseTo(at('sonar.distance', first - 1) - 0.3, 5)
  })
  test('a value and a difference stand in the unit of their kind, a difference with its sign', () => {
    const sources = sourcesOf(run(1).opened)
    const sonar = sources.find(s => s.id === 'sonar.distance')!
    expect([said(sonar, 0.5, []), difference(sonar, 0.5, 0.62), difference(sonar, 0.62, 0.5), difference(sonar, 0.5, Infinity)]).toEqual(['50.0 cm', '+12.0 cm', '-12.0 cm', null])
    expect(difference(sources.find(s => s.id === 'sonar.sees')!, 0, 1)).toBeNull()
  })
})

describe('moving along the tape', () => {
  test('from takeover to takeover, forth and back, and none beyond', () => {
    const { simulation: { tape }, opened: { layout } } = run(40)
    const forth: number[] = []
    for (let t: number | null = 0; (t = nextTakeover(tape, layout, t, 1)) !== null;) forth.push(t)
    expect(forth.length).toBeGreaterThan(2)
    const rule = layout.lanes + 2
    for (const t of forth) expect(tape.value(t, rule)).not.toBe(tape.value(t - 1, rule))
    const back: number[] = []
    for (let t: number | null = tape.rows - 1; (t = nextTakeover(tape, layout, t, -1)) !== null;) back.unshift(t)
    expect(back).toEqual(forth)
  })
  test('from note to note', () => {
    const { events } = run(40).simulation.tape
    const notes = events.filter(e => e.type === 'note').map(e => e.tick)
    expect(nextEvent(events, -1, 1, ['note'])).toBe(notes[0])
    expect(nextEvent(events, notes[1]!, -1, ['note'])).toBe(notes[0])
    expect(nextEvent(events, notes.at(-1)!, 1, ['note'])).toBeNull()
  })
  test('a zoom leaves what it is about where it was, and nothing of it lies outside', () => {
    fc.assert(fc.property(fc.integer({ min: 100, max: 100_000 }), fc.double({ min: 0.05, max: 0.95, noNaN: true }), fc.double({ min: 0.1, max: 3, noNaN: true }), fc.double({ min: -2, max: 2, noNaN: true }), (most, place, factor, by) => {
      const whole = { from: 0, to: most }
      const once = zoomed(whole, 0.5, place * most, most)!
      expect(place * most - once.from).toBeCloseTo(place * (once.to - once.from), 6)
      for (const span of [once, zoomed(once, factor, place * most, most), panned(once, by * most, most)]) {
        if (span === null) continue
        expect(span.from).toBeGreaterThanOrEqual(-1e-6)
        expect(span.to).toBeLessThanOrEqual(most + 1e-6)
        expect(span.to - span.from).toBeGreaterThanOrEqual(Math.min(10, most) - 1e-6)
      }
    }), { seed: Number(process.env['SEED'] ?? 5) })
  })
})
