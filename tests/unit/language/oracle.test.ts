import { describe, expect, test } from 'vitest'
import { RandomStream } from '../../../core/random'
import { play } from '../kit'

/**
 * Who has control, worked out a second time: an interpreter of rules that shares nothing with the machine but the reference
 * (docs/language.md, M1 to M16), against it on random programs and random courses of readings.
 */

type Cond =
  | { readonly is: 'left' | 'right' | 'near' }
  | { readonly is: 'not', readonly of: Cond }
  | { readonly is: 'and' | 'or', readonly a: Cond, readonly b: Cond }
type Step =
  | { readonly does: 'note', readonly text: string }
  | { readonly does: 'count' }
  | { readonly does: 'tell' }
  | { readonly does: 'wait', readonly ticks: number }
  | { readonly does: 'drive', readonly speed: number }
  | { readonly does: 'drive for', readonly speed: number, readonly ticks: number }
  | { readonly does: 'halt' }
  | { readonly does: 'go', readonly to: number }
interface Rule { readonly when: Cond | null, readonly until: Cond | null, readonly once: boolean, readonly steps: readonly Step[] }
interface World { readonly left: boolean, readonly right: boolean, readonly near: boolean }
interface Seen { readonly rule: number, readonly command: string, readonly notes: readonly string[] }

const TICK = 0.02

// The program as it is written.

function condText(c: Cond): string {
  switch (c.is) {
    case 'left': return 'bumper_left.pressed'
    case 'right': return 'bumper_right.pressed'
    case 'near': return 'sonar.distance < 30 cm'
    case 'not': return c.of.is === 'left' || c.of.is === 'right' ? `not ${condText(c.of)}` : `not (${condText(c.of)})`
    default: return `(${condText(c.a)}) ${c.is} (${condText(c.b)})`
  }
}

function stepText(s: Step): string {
  switch (s.does) {
    case 'note': return `note "${s.text}"`
    case 'count': return 'set n = n + 1'
    case 'tell': return 'note "n is {n}"'
    case 'wait': return `wait ${(s.ticks * TICK).toFixed(2)} s`
    case 'drive': return `drive ${s.speed} cm/s`
    case 'drive for': return `drive ${s.speed} cm/s for ${(s.ticks * TICK).toFixed(2)} s`
    case 'halt': return 'halt'
    case 'go': return `go m${s.to}`
  }
}

/** Rules above all modes, and modes; a program without modes has its rules above. */
interface Program { readonly above: readonly Rule[], readonly modes: readonly Mode[] }
/** Its start takes no time. */
interface Mode { readonly start: readonly Step[], readonly rules: readonly Rule[] }

function programText({ above, modes }: Program): string {
  const lines = ['memory n = 0']
  const put = (r: Rule, indent: string): void => {
    const head = r.when === null ? 'otherwise' : `when ${condText(r.when)}${r.until === null ? '' : ` until ${condText(r.until)}`}${r.once ? ' once' : ''}`
    lines.push(indent + head, ...r.steps.map(s => `${indent}  ${stepText(s)}`))
  }
  above.forEach(r => put(r, ''))
  modes.forEach((mode, i) => {
    lines.push(`mode m${i}`)
    if (mode.start.length > 0) lines.push('  start', ...mode.start.map(s => `    ${stepText(s)}`))
    mode.rules.forEach(r => put(r, '  '))
  })
  return `${lines.join('\n')}\n`
}

// The second interpreter.

const holds = (c: Cond, w: World): boolean => {
  switch (c.is) {
    case 'left': return w.left
    case 'right': return w.right
    case 'near': return w.near
    case 'not': return !holds(c.of, w)
    case 'and': return holds(c.a, w) && holds(c.b, w)
    case 'or': return holds(c.a, w) || holds(c.b, w)
  }
}

const takesTime = (r: Rule): boolean => r.steps.some(s => s.does === 'wait' || s.does === 'drive for')

class Model {
  private n = 0
  private readonly latched = new Set<Rule>()
  private readonly done = new Set<Rule>()
  private mode: number
  private current: Rule | null = null
  /** Of a stepped rule: the step that it is at, and since when; -1 between two goings through. */
  private at = -1
  private since = 0
  private motion: number | null = null
  /** When a step of a live rule was reached: the last tick, and the one before that. */
  private readonly reached = new Map<Step, { last: number, before: number }>()
  private tick = 0
  private readonly wants = new Map<Rule, boolean>()
  private notes: string[] = []
  /** Where a `go` of this tick leads, and whether there was one already. */
  private going: number | null = null
  private gone = false
  /** It is the second of its tick. */
  private waits = false

  constructor(private readonly program: Program) {
    this.mode = program.modes.length > 0 ? 0 : -1
    this.going = program.modes.length > 0 ? 0 : null
  }

  private get rules(): readonly Rule[] { return [...this.program.above, ...this.mode === -1 ? [] : this.program.modes[this.mode]!.rules] }
  private first(): Rule | null { return this.rules.find(r => this.wants.get(r) === true) ?? null }

  private workOut(rules: readonly Rule[], w: World): void {
    for (const r of rules) {
      let wanting = r.when === null || holds(r.when, w)
      if (r.until !== null) {
        wanting = !holds(r.until, w) && (wanting || this.latched.has(r))
        if (wanting) this.latched.add(r)
        else this.latched.delete(r)
      }
      if (r.once) {
        if (!wanting) this.done.delete(r)
        else if (this.done.has(r)) wanting = false
      }
      this.wants.set(r, wanting)
    }
  }

  step(w: World): Seen {
    this.notes = []
    this.waits = false
    // A lane's second `go` in a tick waits for the next, and is the first of that.
    this.gone = this.going !== null && this.tick > 0
    if (this.going !== null) {
      this.workOut(this.program.above, w)
      this.leave(null)
      this.enter(w)
    } else this.workOut(this.rules, w)
    const top = this.first()
    const busy = this.current !== null && this.at !== -1 && takesTime(this.current)
    // Somebody below, or the rule itself, waits until the steps are done; somebody above does not.
    let chosen = busy && (top === null || this.rules.indexOf(top) >= this.rules.indexOf(this.current!)) ? this.current : top
    if (chosen !== this.current) this.leave(chosen)
    const began = new Set<Rule>()
    let command = 'brake'
    for (;;) {
      if (chosen === null) break
      if (!takesTime(chosen)) {
        command = this.goThrough(chosen)
        if (this.going === null || this.waits) break
        command = 'brake'
        this.enter(w)
        chosen = this.first()
        this.leave(chosen)
        continue
      }
      if (this.at === -1) {
        if (began.has(chosen)) break
        began.add(chosen)
        this.at = 0
        this.since = this.tick
        this.motion = null
      }
      if (!this.run(chosen)) { command = this.motion === null ? 'brake' : said(this.motion); break }
      if (this.waits) { command = this.motion === null ? 'brake' : said(this.motion); break }
      if (this.going !== null) {
        this.enter(w)
        chosen = this.first()
        this.leave(chosen)
        continue
      }
      // Done: once more from the top of the list, or somebody else, in this tick.
      this.at = -1
      if (chosen.once) { this.done.add(chosen); this.wants.set(chosen, false) }
      const next = this.first()
      if (next === chosen && began.has(chosen)) break
      if (next !== chosen) { this.leave(next); chosen = next }
    }
    this.current = chosen
    this.tick++
    return { rule: chosen === null ? 0 : this.rules.indexOf(chosen) + 1, command, notes: this.notes }
  }

  private leave(next: Rule | null): void {
    this.current = next
    this.at = -1
    this.motion = null
  }

  /** Into a mode: its own rules begin anew, its start is done, and they are asked. */
  private enter(w: World): void {
    this.mode = this.going!
    this.going = null
    const { start, rules } = this.program.modes[this.mode]!
    for (const r of rules) { this.latched.delete(r); this.done.delete(r) }
    for (const s of start) this.instant(s)
    this.workOut(rules, w)
  }

  /** Whether a step of a live rule was not reached in the tick before. */
  private isNew(s: Step): boolean {
    const known = this.reached.get(s) ?? { last: -2, before: -2 }
    const { last, before } = known.last === this.tick ? known : { last: this.tick, before: known.last }
    this.reached.set(s, { last, before })
    return before !== this.tick - 1
  }

  /** A live rule, once through; what it commands. */
  private goThrough(rule: Rule): string {
    let command = 'brake'
    for (const s of rule.steps) {
      if (s.does === 'drive') command = said(s.speed)
      else if (s.does === 'halt') command = 'brake'
      else if (s.does === 'go') {
        this.go(s.to)
        break
      } else if (this.isNew(s)) this.instant(s)
    }
    return command
  }

  /** Runs steps until one has to wait; true when all are done, or one of them went to another mode. */
  private run(rule: Rule): boolean {
    for (; this.at < rule.steps.length; this.at++, this.since = this.tick) {
      const s = rule.steps[this.at]!
      switch (s.does) {
        case 'wait':
          if (this.tick - this.since < s.ticks) return false
          break
        case 'drive for':
          if (this.tick - this.since < s.ticks) { this.motion = s.speed; return false }
          this.motion = null
          break
        case 'drive': this.motion = s.speed; break
        case 'halt': this.motion = null; break
        case 'go':
          this.go(s.to)
          return true
        default: this.instant(s)
      }
    }
    return true
  }

  private go(to: number): void {
    this.waits = this.gone
    this.gone = true
    this.going = to
  }

  private instant(s: Step): void {
    if (s.does === 'note') this.notes.push(s.text)
    else if (s.does === 'count') this.n++
    else if (s.does === 'tell') this.notes.push(`n is ${this.n}`)
  }
}

const said = (speed: number): string => `speed ${(speed / 100).toFixed(2)} ${(speed / 100).toFixed(2)}`

// Random programs and courses.

function randomCond(r: RandomStream, deep = 0): Cond {
  const roll = r.unit()
  if (deep > 1 || roll < 0.6) return { is: (['left', 'right', 'near'] as const)[Math.floor(r.unit() * 3)]! }
  if (roll < 0.75) return { is: 'not', of: randomCond(r, deep + 1) }
  return { is: roll < 0.88 ? 'and' : 'or', a: randomCond(r, deep + 1), b: randomCond(r, deep + 1) }
}

function randomRule(r: RandomStream, name: string, last: boolean): Rule {
  const stepped = r.unit() < 0.6
  const instants: Step[] = [{ does: 'note', text: name }]
  if (r.unit() < 0.4) instants.push({ does: 'count' }, { does: 'tell' })
  const speed = 5 + 5 * Math.floor(r.unit() * 8)
  const steps: Step[] = [...instants]
  if (stepped) {
    const ticks = 1 + Math.floor(r.unit() * 4)
    if (r.unit() < 0.4) steps.push({ does: 'drive for', speed, ticks })
    else {
      if (r.unit() < 0.5) steps.push({ does: 'drive', speed })
      steps.push({ does: 'wait', ticks })
    }
    if (r.unit() < 0.5) steps.push({ does: 'note', text: `${name} on` }, { does: 'wait', ticks: 1 + Math.floor(r.unit() * 2) })
    if (r.unit() < 0.3) steps.push({ does: 'halt' }, { does: 'wait', ticks: 1 })
  } else if (r.unit() < 0.8) steps.push({ does: 'drive', speed })
  return { when: last ? null : randomCond(r), until: !last && r.unit() < 0.25 ? randomCond(r) : null, once: !last && stepped && r.unit() < 0.3, steps }
}

function randomRules(r: RandomStream): Rule[] {
  const count = 1 + Math.floor(r.unit() * 4)
  const rules = Array.from({ length: count }, (_, i) => randomRule(r, 'abcd'[i]!, false))
  return r.unit() < 0.6 ? [...rules, randomRule(r, 'z', true)] : rules
}

function randomCourse(r: RandomStream, ticks: number): World[] {
  let world: World = { left: false, right: false, near: false }
  return Array.from({ length: ticks }, () => {
    if (r.unit() < 0.15) world = { ...world, left: !world.left }
    if (r.unit() < 0.15) world = { ...world, right: !world.right }
    if (r.unit() < 0.2) world = { ...world, near: !world.near }
    return world
  })
}

const readingsOf = (w: World): Record<string, number> => ({ 'bumper_left.pressed': w.left ? 1 : 0, 'bumper_right.pressed': w.right ? 1 : 0, 'sonar.distance': w.near ? 0.1 : 1, 'sonar.sees': 1 })

/** Modes that go to one another, under rules that are of all of them. */
function randomModes(r: RandomStream): Program {
  const count = 2 + Math.floor(r.unit() * 2)
  const going = (rule: Rule): Rule => rule.when === null || r.unit() < 0.5 ? rule : { ...rule, once: false, steps: [...rule.steps, { does: 'go', to: Math.floor(r.unit() * count) }] }
  const above = r.unit() < 0.6 ? [going(randomRule(r, 'u', false))] : []
  return {
    above,
    modes: Array.from({ length: count }, (_, m) => ({
      start: r.unit() < 0.5 ? [{ does: 'note' as const, text: `in m${m}` }, ...(r.unit() < 0.5 ? [{ does: 'count' as const }, { does: 'tell' as const }] : [])] : [],
      rules: [...Array.from({ length: 1 + Math.floor(r.unit() * 3) }, (_, i) => going(randomRule(r, `m${m}${'abc'[i]!}`, false))), ...r.unit() < 0.5 ? [randomRule(r, `m${m}z`, true)] : []],
    })),
  }
}

/** The first tick in which the two differ, with the program; null when they are alike. */
function difference(seed: number, of: (r: RandomStream) => Program): string | null {
  const r = RandomStream.named(seed, 'oracle')
  const program = of(r)
  const course = randomCourse(r, 60)
  const text = programText(program)
  const model = new Model(program)
  const machine = play(text, course.map(readingsOf))
  for (const [tick, world] of course.entries()) {
    const wanted = model.step(world)
    const m = machine[tick]!
    const notes = m.events.filter(e => e.type === 'note').map(e => e.text)
    const found: Seen = { rule: m.rule, command: m.command, notes }
    if (JSON.stringify(found) !== JSON.stringify(wanted)) return `seed ${seed}, tick ${tick}, ${JSON.stringify(world)}\n${text}machine ${JSON.stringify(found)}\nmodel   ${JSON.stringify(wanted)}`
  }
  return null
}

describe('the machine and the reference agree', () => {
  test.each(Array.from({ length: 20 }, (_, i) => i))('on fifty random programs of rules, each over sixty ticks (%i)', (block) => {
    const wrong = Array.from({ length: 50 }, (_, i) => difference(block * 50 + i, r => ({ above: randomRules(r), modes: [] }))).filter(d => d !== null)
    expect(wrong[0] ?? null).toBeNull()
  })
  test.each(Array.from({ length: 20 }, (_, i) => i))('on fifty random programs of modes, each over sixty ticks (%i)', (block) => {
    const wrong = Array.from({ length: 50 }, (_, i) => difference(block * 50 + i, randomModes)).filter(d => d !== null)
    expect(wrong[0] ?? null).toBeNull()
  })
})
