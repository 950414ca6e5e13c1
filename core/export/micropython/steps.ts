import type { ProgramData } from '../../program'
import { outlineOf, type Outline, type OpOf, type Part } from '../outline'
import type { StepWords } from '../written'
import { quoted, tuple, type PythonValues } from './values'

export const indented = (lines: readonly string[]): readonly string[] => lines.map(l => l === '' ? '' : `    ${l}`)

/** Functions of steps: those that wait give back where they go on. */
export class Steps {
  /** Functions of steps with a limit of time, before the one that they stand in. */
  private before: string[] = []

  constructor(private readonly program: ProgramData, private readonly words: StepWords<PythonValues>) {}

  /** The code that begins there as a function, as lines. */
  function(name: string, from: number): readonly string[] {
    const lines = this.block(outlineOf(this.program.code, from))
    const all = [...this.before, `def ${name}():`, ...indented(lines)]
    this.before = []
    return all
  }

  private block(outline: Outline): readonly string[] {
    const lines = outline.flatMap(p => this.part(p))
    return lines.some(l => !l.startsWith('#')) ? lines : [...lines, 'pass']
  }

  private remarks(step: number): readonly string[] { return this.words.remarks(this.words.line(step)) }

  private part(p: Part): readonly string[] {
    const { values } = this.words
    switch (p.part) {
      case 'instant': return this.instant(p.op)
      case 'ways': return [
        ...p.ways.flatMap((w, i) => [`${i === 0 ? 'if' : 'elif'} ${values.text(w.test)}:`, ...indented(this.block(w.body))]),
        ...p.otherwise.length === 0 ? [] : ['else:', ...indented(this.block(p.otherwise))],
      ]
      case 'loop': return this.loop(p)
      case 'leave': return ['break']
      case 'wait': return [...this.remarks(p.op.step), `yield from wait(${values.text(p.op.time)})`]
      case 'wait until': {
        const { begins, op } = p
        return this.waiting(begins.step, `wait_until(${values.later(op.test)}${begins.limit === null ? '' : `, at_most=${values.text(begins.limit)}`}${this.timers(begins.timers)})`, p.late)
      }
      case 'move': {
        const { begins: b } = p
        const given = [
          this.words.motion(b.motion), ...b.until === null ? [] : [`until=${values.later(b.until)}`], ...b.lasting === null ? [] : [`lasting=${values.later(b.lasting)}`],
          ...b.limit === null ? [] : [`at_most=${values.later(b.limit)}`],
        ]
        return this.waiting(b.step, `move(${given.join(', ')}${this.timers(b.timers)})`, p.late)
      }
      case 'limited': return this.limited(p)
    }
  }

  /** A step that waits, and what is done where its limit was over first. */
  private waiting(step: number, call: string, late: Outline): readonly string[] {
    const remarks = this.remarks(step)
    return late.length === 0 ? [...remarks, `yield from ${call}`] : [...remarks, `if (yield from ${call}):`, ...indented(this.block(late))]
  }

  private timers(cells: readonly number[]): string {
    const used = this.words.timers(cells)
    return used.length === 0 ? '' : `, timers=${tuple(used.map(String))}`
  }

  private limited({ call, guard, body, late }: Extract<Part, { part: 'limited' }>): readonly string[] {
    const { words } = this
    const name = words.names.make(`within_limit_${words.line(call.step)}`)
    const lines = this.block(body)
    this.before.push(`def ${name}():`, ...indented(lines), '', '')
    const moves = this.program.motions.flatMap((_, i) => i >= guard.first && i < guard.end ? [words.motion(i)] : [])
    return [...this.instant(call), ...this.waiting(call.step, `do_at_most(${words.values.text(call.limit!)}, ${name}(), ${tuple(moves)})`, late)]
  }

  private loop({ top, count, again, size, body }: Extract<Part, { part: 'loop' }>): readonly string[] {
    const { values } = this.words
    // A loop in which no time passes is told.
    const lines = indented([...this.block(body), `again(${this.words.line(again.step)}, ${size})`])
    const head = this.remarks(again.step)
    switch (top.op) {
      case 'round': return [...head, `for _ in rounds(${values.text(count!.times)}):`, ...lines]
      case 'each': {
        const into = this.words.cell(top.into)
        if (top.values.every(v => v.is === 'number')) return [...head, `for ${into} in ${tuple(top.values.map(v => values.text(v)))}:`, ...lines]
        return [...head, `for value in ${tuple(top.values.map(v => values.later(v)))}:`, `    ${into} = value()`, ...lines]
      }
      case 'test': return [...head, `while ${values.text(top.test)}:`, ...lines]
      default: return [...head, 'while True:', ...lines]
    }
  }

  private instant(op: Extract<Part, { part: 'instant' }>['op'] | OpOf<'call'>): readonly string[] {
    const { words } = this
    const { values } = words
    const remarks = this.remarks(op.step)
    const guarded = (edge: number | null, line: string): readonly string[] => edge === null ? [...remarks, line] : [...remarks, `if anew(${words.timer(edge)}):`, `    ${line}`]
    switch (op.op) {
      case 'set': return guarded(op.edge, `${words.cell(op.cell)} = ${values.text(op.value)}`)
      // The value is worked out first, then the place: either may fail.
      case 'put': return guarded(op.edge, `${words.list(op.place.cell)}[${values.place(op.place)}] = ${values.text(op.value)}`)
      case 'reset': { const r = words.place(op.reading); return guarded(op.edge, `reset(${r.device}, ${quoted(r.attribute)})`) }
      case 'send': return guarded(op.edge, `send(${words.signal(op.signal)})`)
      case 'note': return guarded(op.edge, `note(${values.text(op.text)})`)
      case 'finish': return [...remarks, `finish(${values.text(op.why)})`]
      case 'go': return [...remarks, `go(${words.mode(op.mode)})`]
      case 'setting': return [...remarks, `setting(${words.motion(op.motion)})`]
      case 'hold': return [...remarks, `hold(${words.motion(op.motion)}${op.edge === null ? '' : `, ${words.timer(op.edge)}`})`]
      case 'call': return [...remarks, ...op.given.map(d => `${words.cell(d.cell)} = ${values.text(d.value)}`)]
    }
  }
}
