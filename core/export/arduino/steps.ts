import type { ProgramData, Value } from '../../program'
import { outlineOf, type Outline, type OpOf, type Part } from '../outline'
import { mayFail } from '../values'
import type { StepWords } from '../written'
import type { CppValues } from './values'

export const indented = (lines: readonly string[]): readonly string[] => lines.map(l => l === '' || /^\w+:;$/.test(l) ? l : `  ${l}`)

/** Functions of steps: those that wait go on where they did. */
export class Steps {
  /** Where what waits at the moment goes on when a limit around it is over, the outermost first. */
  private limits: { readonly k: number, readonly label: string, used: boolean }[] = []
  private waits = false

  constructor(private readonly program: ProgramData, private readonly words: StepWords<CppValues>) {}

  /** The code that begins there as a function, as lines. */
  function(name: string, from: number): readonly string[] {
    this.waits = false
    const lines = this.block(outlineOf(this.program.code, from))
    const ends = lines.length > 0 && /^(GO|FINISH)\(/.test(lines.at(-1)!)
    if (!this.waits) return [`Came ${name}(unsigned&) {`, ...indented([...lines, ...ends ? [] : ['return THROUGH;']]), '}']
    return [`Came ${name}(unsigned& at) {`, '  BEGIN', ...indented(lines), '  END;', '}']
  }

  private block(outline: Outline): readonly string[] { return outline.flatMap(p => this.part(p)) }

  private remarks(step: number): readonly string[] { return this.words.remarks(this.words.line(step)) }

  /** Behind what may fail. */
  private check(...all: readonly (Value | null)[]): readonly string[] { return all.some(v => v !== null && mayFail(v)) ? ['CHECK;'] : [] }

  private motionFails(motion: number): readonly string[] {
    const { slots } = this.program.motions[motion]!
    const draws = this.program.code.flatMap(op => 'draws' in op && op.motion === motion ? op.draws.map(d => d.value) : [])
    return this.check(...slots.flatMap(s => [s.value, s.text]), ...draws)
  }

  private part(p: Part): readonly string[] {
    const { values } = this.words
    switch (p.part) {
      case 'instant': return this.instant(p.op)
      case 'ways': return this.ways(p)
      case 'loop': return this.loop(p)
      case 'leave': return ['break;']
      case 'wait': return [...this.remarks(p.op.step), this.waiting('WAIT', values.text(p.op.time)), ...this.check(p.op.time)]
      case 'wait until': {
        const { begins: b, op } = p
        const limit = b.limit === null ? [] : [values.text(b.limit)]
        return [
          ...this.remarks(b.step), ...this.anew(b.timers), this.waiting(`WAIT_UNTIL${limit.length > 0 ? '_AT_MOST' : ''}`, values.text(op.test), ...limit),
          ...this.check(op.test, b.limit), ...this.late(p.late),
        ]
      }
      case 'move': {
        const { begins: b } = p
        const given = [...b.until === null ? [] : [values.text(b.until)], ...b.lasting === null ? [] : [values.text(b.lasting)], ...b.limit === null ? [] : [values.text(b.limit)]]
        const name = `MOVE${b.until === null ? '' : '_UNTIL'}${b.lasting === null ? '' : '_FOR'}${b.limit === null ? '' : '_AT_MOST'}`
        return [
          ...this.remarks(b.step), ...this.anew(b.timers), this.waiting(name, this.words.motion(b.motion), ...given),
          ...this.check(b.until, b.lasting, b.limit).length > 0 ? ['CHECK;'] : this.motionFails(b.motion), ...this.late(p.late),
        ]
      }
      case 'limited': return this.limited(p)
    }
  }

  private ways({ ways, otherwise }: Extract<Part, { part: 'ways' }>): readonly string[] {
    const [first, ...more] = ways
    const { test, body } = first!
    const rest = more.length > 0 ? this.ways({ part: 'ways', ways: more, otherwise }) : this.block(otherwise)
    // A test that failed is none: that is looked at on either way.
    const check = this.check(test)
    const head = [`if (${this.words.values.text(test)}) {`, ...indented([...check, ...this.block(body)])]
    if (rest.length + check.length === 0) return [...head, '}']
    if (more.length > 0 && check.length === 0) return [...head, `} else ${rest[0]!}`, ...rest.slice(1)]
    return [...head, '} else {', ...indented([...check, ...rest]), '}']
  }

  /** A step that waits, with where it goes on when a limit around it is over. */
  private waiting(name: string, ...given: readonly string[]): string {
    this.waits = true
    const over = this.limits.map((l) => { l.used = true; return `OVER(${l.k}, ${l.label})` })
    return `${name}(${[...given, ...over.length > 0 ? [over.join(' ')] : []].join(', ')});`
  }

  private late(late: Outline): readonly string[] { return late.length === 0 ? [] : ['if (late()) {', ...indented(this.block(late)), '}'] }

  private anew(cells: readonly number[]): readonly string[] {
    const used = this.words.timers(cells)
    return used.length === 0 ? [] : [`${used.map(k => `t[${k}]`).join(' = ')} = -1;`]
  }

  private limited({ call, guard, body, late }: Extract<Part, { part: 'limited' }>): readonly string[] {
    const { words } = this
    const k = words.timer(call.cell)
    const limit = { k, label: words.names.make(`late_${words.line(call.step)}`), used: false }
    this.limits.push(limit)
    const lines = this.block(body)
    this.limits.pop()
    const moves = this.program.motions.flatMap((_, i) => i >= guard.first && i < guard.end ? [`let_go_of(${words.motion(i)});`] : [])
    return [
      ...this.instant(call), `t[${k}] = after(${words.values.text(call.limit!)});`, ...this.check(call.limit), ...lines,
      ...limit.used ? ['if (false) {', `${limit.label}:;`, ...indented([...moves, ...this.block(late)]), '}'] : [],
    ]
  }

  private loop({ top, count, again, size, body }: Extract<Part, { part: 'loop' }>): readonly string[] {
    const { values } = this.words
    // A loop in which no time passes is told.
    const lines = indented([...this.block(body), `AGAIN(${this.words.line(again.step)}, ${size});`])
    const head = this.remarks(again.step)
    switch (top.op) {
      case 'round': {
        const k = `t[${this.words.timer(top.cell)}]`
        const times = values.text(count!.times)
        const check = this.check(count!.times)
        const begin = check.length > 0 ? [`${k} = rounded(${times});`, ...check, `for (; ${k} >= 1; ${k} -= 1) {`] : [`for (${k} = rounded(${times}); ${k} >= 1; ${k} -= 1) {`]
        return [...head, ...begin, ...lines, '}']
      }
      case 'each': {
        const k = `t[${this.words.timer(top.cell)}]`
        const into = this.words.cell(top.into)
        const chosen = top.values.slice(0, -1).map((v, i) => `${k} == ${i} ? ${values.text(v)} : `).join('') + values.text(top.values.at(-1)!)
        return [...head, `for (${k} = 0; ${k} < ${top.values.length}; ${k} += 1) {`, ...indented([`${into} = ${chosen};`, ...this.check(...top.values)]), ...lines, '}']
      }
      case 'test': {
        const check = this.check(top.test)
        return [...head, `while (${values.text(top.test)}) {`, ...indented(check), ...lines, '}', ...check]
      }
      default: return [...head, 'for (;;) {', ...lines, '}']
    }
  }

  private instant(op: Extract<Part, { part: 'instant' }>['op'] | OpOf<'call'>): readonly string[] {
    const { words } = this
    const { values } = words
    const remarks = this.remarks(op.step)
    const guarded = (edge: number | null, ...lines: readonly string[]): readonly string[] =>
      edge === null ? [...remarks, ...lines] : [...remarks, `if (anew(${words.timer(edge)})) {`, ...indented(lines), '}']
    switch (op.op) {
      case 'set': return guarded(op.edge, this.set(words.cell(op.cell), op.value))
      case 'put': return guarded(op.edge, `PUT(${words.list(op.place.cell)}, ${values.place(op.place)}, (${values.text(op.value)}));`)
      case 'reset': { const r = words.place(op.reading); return guarded(op.edge, `reset(${r.device}, ${r.index});`) }
      case 'send': return guarded(op.edge, `send(${words.signal(op.signal)});`)
      case 'note': return guarded(op.edge, `note(${values.said(op.text)});`, ...this.check(op.text))
      case 'finish': return [...remarks, `FINISH(${values.said(op.why)});`]
      case 'go': return [...remarks, `GO(${words.mode(op.mode)});`]
      case 'setting': return [...remarks, `setting(${words.motion(op.motion)});`, ...this.motionFails(op.motion)]
      case 'hold': return [...remarks, `hold(${words.motion(op.motion)}${op.edge === null ? '' : `, ${words.timer(op.edge)}`});`, ...this.motionFails(op.motion)]
      case 'call': return [...remarks, ...op.given.map(d => this.set(words.cell(d.cell), d.value))]
    }
  }

  private set(into: string, value: Value): string {
    const { values } = this.words
    return mayFail(value) ? `SET(${into}, (${values.text(value)}));` : `${into} = ${values.text(value)};`
  }
}
