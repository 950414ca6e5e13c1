import { describe, expect, test } from 'vitest'
import { RandomStream } from '../../../core/random'
import { play } from '../kit'

/**
 * What steps do, worked out a second time: `start` blocks of loops, ways, routines and waits, run by a small interpreter that
 * knows the reference only (M19, M33 to M35, M37), against the machine on random programs and courses.
 */

type Value = number
type Test = { readonly over: number } | { readonly pressed: boolean } | { readonly less: number }
type Step =
  | { readonly does: 'note', readonly text: string }
  | { readonly does: 'tell' }
  | { readonly does: 'add', readonly by: number }
  | { readonly does: 'wait', readonly ticks: number }
  | { readonly does: 'wait until', readonly test: Test, readonly most: number | null }
  | { readonly does: 'drive', readonly speed: number, readonly ticks: number }
  | { readonly does: 'if', readonly ways: readonly { readonly test: Test, readonly body: readonly Step[] }[], readonly rest: readonly Step[] | null }
  | { readonly does: 'choose', readonly cases: readonly { readonly values: readonly number[], readonly body: readonly Step[] }[], readonly rest: readonly Step[] | null }
  | { readonly does: 'repeat', readonly times: number, readonly body: readonly Step[] }
  | { readonly does: 'repeat while', readonly test: Test, readonly body: readonly Step[] }
  | { readonly does: 'leave' }
  | { readonly does: 'do', readonly routine: number, readonly given: number, readonly most: number | null }

interface Program { readonly start: readonly Step[], readonly routines: readonly (readonly Step[])[] }
interface World { readonly distance: number, readonly pressed: boolean }
interface Seen { readonly notes: readonly string[], readonly command: string, readonly over: boolean }

const TICK = 0.02
const seconds = (ticks: number): string => `${(ticks * TICK).toFixed(2)} s`

// As it is written.

const testText = (t: Test): string => 'over' in t ? `n > ${t.over}` : 'less' in t ? `sonar.distance < ${t.less} cm` : t.pressed ? 'bumper_left.pressed' : 'not bumper_left.pressed'

function lines(steps: readonly Step[], indent: string): string[] {
  return steps.flatMap((s): string[] => {
    const deeper = `${indent}  `
    const rest = (r: readonly Step[] | null): string[] => r === null ? [] : [`${indent}else`, ...lines(r, deeper)]
    switch (s.does) {
      case 'note': return [`${indent}note "${s.text}"`]
      case 'tell': return [`${indent}note "n is {n}"`]
      case 'add': return [`${indent}set n = n + ${s.by}`]
      case 'wait': return [`${indent}wait ${seconds(s.ticks)}`]
      case 'wait until': return [`${indent}wait until ${testText(s.test)}${s.most === null ? '' : ` at most ${seconds(s.most)}`}`]
      case 'drive': return [`${indent}drive ${s.speed} cm/s for ${seconds(s.ticks)}`]
      case 'if': return [...s.ways.flatMap((w, i) => [`${indent}${i === 0 ? 'if' : 'else if'} ${testText(w.test)}`, ...lines(w.body, deeper)]), ...rest(s.rest)]
      case 'choose': return [`${indent}choose n`, ...s.cases.flatMap(c => [`${deeper}is ${c.values.join(', ')}`, ...lines(c.body, `${deeper}  `)]), ...s.rest === null ? [] : [`${deeper}else`, ...lines(s.rest, `${deeper}  `)]]
      case 'repeat': return [`${indent}repeat ${s.times} times`, ...lines(s.body, deeper)]
      case 'repeat while': return [`${indent}repeat while ${testText(s.test)}`, ...lines(s.body, deeper)]
      case 'leave': return [`${indent}leave`]
      case 'do': return [`${indent}do r${s.routine}(${s.given})${s.most === null ? '' : ` at most ${seconds(s.most)}`}`]
    }
  })
}

const programText = (p: Program): string => [
  'memory n = 0', 'start', ...lines(p.start, '  '), ...p.routines.flatMap((r, i) => [`routine r${i}(step)`, '  set n = n + step', ...lines(r, '  ')]),
].join('\n') + '\n'

// The second interpreter: each wait is a yield, which is asked in every tick whether it is over.

type Wait = { readonly done: (w: World) => boolean, readonly command: string }

class Runner {
  private n: Value = 0
  private readonly notes: string[] = []
  private tick = 0
  private world: World = { distance: 1, pressed: false }
  private readonly running: Generator<Wait, unknown>
  private waiting: Wait | null = null
  private over = false

  constructor(private readonly program: Program) { this.running = this.block(program.start) }

  private holds(t: Test): boolean {
    return 'over' in t ? this.n > t.over : 'less' in t ? this.world.distance < t.less / 100 : this.world.pressed === t.pressed
  }

  private *block(steps: readonly Step[]): Generator<Wait, 'left' | 'done'> {
    for (const s of steps) {
      const from = this.tick
      switch (s.does) {
        case 'note': this.notes.push(s.text); break
        case 'tell': this.notes.push(`n is ${this.n}`); break
        case 'add': this.n += s.by; break
        case 'wait': if (s.ticks > 0) yield { done: () => this.tick - from >= s.ticks, command: 'brake' }; break
        case 'wait until':
          if (!this.holds(s.test)) yield { done: () => this.holds(s.test) || (s.most !== null && this.tick - from >= s.most), command: 'brake' }
          break
        case 'drive': yield { done: () => this.tick - from >= s.ticks, command: `speed ${(s.speed / 100).toFixed(2)} ${(s.speed / 100).toFixed(2)}` }; break
        case 'if': {
          const way = s.ways.find(w => this.holds(w.test))?.body ?? s.rest
          if (way !== null && (yield* this.block(way)) === 'left') return 'left'
          break
        }
        case 'choose': {
          const way = s.cases.find(c => c.values.includes(this.n))?.body ?? s.rest
          if (way !== null && (yield* this.block(way)) === 'left') return 'left'
          break
        }
        case 'repeat':
          for (let i = 0; i < s.times; i++) if ((yield* this.block(s.body)) === 'left') break
          break
        case 'repeat while':
          while (this.holds(s.test)) if ((yield* this.block(s.body)) === 'left') break
          break
        case 'leave': return 'left'
        case 'do': {
          this.n += s.given
          const inner = this.block(this.program.routines[s.routine]!)
          for (let next = inner.next(); next.done !== true; next = inner.next()) {
            const wait = next.value
            const late = (): boolean => s.most !== null && this.tick - from >= s.most
            if (!late()) yield { command: wait.command, done: w => wait.done(w) || late() }
            // What ends in the tick in which its time is over has ended; what would go on waiting is dropped, and the next step follows.
            if (late() && !wait.done(this.world)) break
          }
          break
        }
      }
    }
    return 'done'
  }

  step(world: World): Seen {
    this.world = world
    this.notes.length = 0
    while (!this.over && (this.waiting === null || this.waiting.done(world))) {
      const next = this.running.next()
      this.waiting = next.done === true ? null : next.value
      this.over = next.done === true
    }
    this.tick++
    return { notes: [...this.notes], command: this.waiting?.command ?? 'brake', over: this.over }
  }
}

// Random programs.

const pick = <T>(r: RandomStream, all: readonly T[]): T => all[Math.floor(r.unit() * all.length)]!
const whole = (r: RandomStream, low: number, high: number): number => low + Math.floor(r.unit() * (high - low + 1))
const randomTest = (r: RandomStream): Test => pick<() => Test>(r, [() => ({ over: whole(r, 0, 6) }), () => ({ pressed: r.unit() < 0.5 }), () => ({ less: whole(r, 20, 80) })])()
const most = (r: RandomStream): number | null => r.unit() < 0.6 ? whole(r, 1, 6) : null

let names = 0
function randomSteps(r: RandomStream, deep: number, looped: boolean, routines: number): Step[] {
  return Array.from({ length: whole(r, 1, 4) }, (): Step => {
    const roll = r.unit()
    if (roll < 0.2) return { does: 'note', text: `s${names++}` }
    if (roll < 0.28) return { does: 'tell' }
    if (roll < 0.4) return { does: 'add', by: whole(r, 1, 2) }
    if (roll < 0.5) return { does: 'wait', ticks: whole(r, 0, 3) }
    if (roll < 0.58) return { does: 'wait until', test: randomTest(r), most: whole(r, 1, 6) }
    if (roll < 0.66) return { does: 'drive', speed: whole(r, 1, 8) * 5, ticks: whole(r, 1, 3) }
    if (roll < 0.7 && looped) return { does: 'leave' }
    if (roll < 0.76 && routines > 0) return { does: 'do', routine: whole(r, 0, routines - 1), given: whole(r, 0, 2), most: most(r) }
    if (deep === 0) return { does: 'note', text: `s${names++}` }
    const body = (inLoop: boolean): Step[] => randomSteps(r, deep - 1, inLoop, routines)
    // Time passes in every round of a loop, on all its ways.
    const round = (): Step[] => [...body(true).filter(s => s.does !== 'leave' || r.unit() < 0.7), { does: 'wait', ticks: whole(r, 1, 2) }]
    if (roll < 0.84) return { does: 'if', ways: Array.from({ length: whole(r, 1, 2) }, () => ({ test: randomTest(r), body: body(looped) })), rest: r.unit() < 0.5 ? body(looped) : null }
    if (roll < 0.9) return { does: 'choose', cases: [{ values: [0, 1], body: body(looped) }, { values: [2], body: body(looped) }], rest: r.unit() < 0.5 ? body(looped) : null }
    if (roll < 0.96) return { does: 'repeat', times: whole(r, 0, 3), body: round() }
    return { does: 'repeat while', test: { pressed: r.unit() < 0.5 }, body: round() }
  })
}

function difference(seed: number): string | null {
  const r = RandomStream.named(seed, 'steps')
  names = 0
  const count = whole(r, 0, 2)
  // The last routine calls none, so that they do not go in a circle.
  const routines = Array.from({ length: count }, () => randomSteps(r, 1, false, 0))
  const program: Program = { start: [...randomSteps(r, 3, false, count), ...randomSteps(r, 2, false, count), { does: 'wait', ticks: 2 }], routines }
  const used = new Set(JSON.stringify(program.start).match(/"routine":\d/g) ?? [])
  if (used.size < count) return null
  let world: World = { distance: 1, pressed: false }
  const course = Array.from({ length: 80 }, () => {
    if (r.unit() < 0.12) world = { ...world, pressed: !world.pressed }
    if (r.unit() < 0.2) world = { ...world, distance: r.between(0.1, 1) }
    return world
  })
  const text = programText(program)
  const machine = play(text, course.map(w => ({ 'bumper_left.pressed': w.pressed ? 1 : 0, 'sonar.distance': w.distance, 'sonar.sees': 1 })))
  const runner = new Runner(program)
  for (const [tick, w] of course.entries()) {
    const wanted = runner.step(w)
    const m = machine[tick]!
    const found = { notes: m.events.filter(e => e.type === 'note').map(e => e.text), command: m.command, over: wanted.over }
    if (JSON.stringify(found) !== JSON.stringify(wanted)) return `seed ${seed}, tick ${tick}, ${JSON.stringify(w)}\n${text}machine ${JSON.stringify(found)}\nmodel   ${JSON.stringify(wanted)}`
  }
  return null
}

describe('steps of a start', () => {
  test.each(Array.from({ length: 20 }, (_, i) => i))('do what the reference says, on fifty random programs over eighty ticks each (%i)', (block) => {
    const wrong = Array.from({ length: 50 }, (_, i) => difference(block * 50 + i)).filter(d => d !== null)
    expect(wrong[0] ?? null).toBeNull()
  })
})

describe('a `once` rule above all modes that takes time and then goes to a mode', () => {
  test('is done: it does not begin again in the tick in which the mode is entered', () => {
    const notes = play('when bumper_left.pressed once\n  note "hit"\n  wait 0.1 s\n  go away\nmode calm\n  otherwise -> halt\nmode away\n  otherwise -> drive 10 cm/s\n',
      Array.from({ length: 20 }, () => ({ 'bumper_left.pressed': 1 }))).flatMap(m => m.events).filter(e => e.type === 'note')
    expect(notes).toHaveLength(1)
  })
})
