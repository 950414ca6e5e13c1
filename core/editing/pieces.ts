import { plainParts, type StepForm } from '../devices'
import { CALLED, type Tree } from '../language'
import { codeEnd } from './sheet'

/** What a piece of a sentence is, and so how it is set and what may stand in its place. */
export type Role =
  | 'word' | 'reading' | 'comparison' | 'number' | 'name' | 'truth' | 'text' | 'logic' | 'is' | 'choice' | 'device' | 'kept'
  | 'mode' | 'routine' | 'signal' | 'clause' | 'unread'

/** A piece of a sentence as it is written, with its place in the text. */
export interface Piece {
  readonly role: Role
  readonly text: string
  readonly from: number
  readonly to: number
  /** Of a reading: its device. Of a `choice`, `device` or `kept`: what may stand here. */
  readonly device: string | null
  readonly options: readonly string[]
  /** Of a reading or a value on the left of a comparison: the whole comparison. */
  readonly whole: Tree.Range | null
}

/** Whether a piece can be edited in place. */
export const isEditable = (piece: Piece): boolean => !['word', 'clause', 'unread'].includes(piece.role)

const COMPARISONS = ['<', '>', '<=', '>='] as const

/** Cuts sentences of a program's text into pieces; what the tree does not name are plain words. */
export class Cutter {
  private pieces: Piece[] = []

  constructor(private readonly text: string, private readonly forms: ReadonlyMap<string, StepForm>) {}

  /** The pieces of what `cut` visits, with the words between them, from one offset to another. */
  private sentence(from: number, to: number, cut: () => void): readonly Piece[] {
    this.pieces = []
    cut()
    const found = this.pieces.sort((a, b) => a.from - b.from)
    const out: Piece[] = []
    let at = from
    const words = (end: number): void => {
      const gap = this.text.slice(at, end)
      const trimmed = gap.trim()
      if (trimmed === '') return
      const start = at + gap.indexOf(trimmed)
      out.push(piece('word', trimmed.replaceAll(/\s*\n\s*/g, ' '), start, start + trimmed.length))
    }
    for (const p of found) {
      if (p.from < at || p.to > to) continue
      words(p.from)
      out.push(p)
      at = p.to
    }
    words(to)
    return out
  }

  condition(c: Tree.Condition): readonly Piece[] {
    return this.sentence(c.range.from, c.range.to, () => {
      this.expression(c.expression, null)
      if (c.held !== null) this.expression(c.held, null)
    })
  }

  value(e: Tree.Expression): readonly Piece[] {
    return this.sentence(e.range.from, e.range.to, () => this.expression(e, null))
  }

  /** What a memory begins with, and for what it holds a value. */
  remembered(m: Tree.Remembered): readonly Piece[] {
    const from = m.perColor ? m.name.range.to : (m.count ?? m.value).range.from
    return this.sentence(from, m.value.range.to, () => this.ofRemembered(m))
  }

  /** What a `let` at the margin names: its parameters and its value. */
  named(item: Tree.Let): readonly Piece[] {
    const from = item.parameters.length === 0 ? item.value.range.from : item.name.range.to
    return this.sentence(from, item.value.range.to, () => this.expression(item.value, null))
  }

  private ofRemembered(m: Tree.Remembered): void {
    if (m.count !== null) this.expression(m.count, null)
    this.expression(m.value, null)
  }

  /** The line of a step, or of the head of one that has a block: up to `to`. */
  step(step: Tree.Step, to: number): readonly Piece[] {
    const from = step.range.from + offLength(this.text, step.range.from)
    return this.sentence(from, codeEnd(this.text, to), () => this.ofStep(step))
  }

  /** `is red, blue` of a choose. */
  case(c: Tree.Case): readonly Piece[] {
    const last = c.values.at(-1)
    return this.sentence(c.range.from, last?.range.to ?? c.range.from, () => { for (const v of c.values) this.expression(v, null) })
  }

  private add(role: Role, range: Tree.Range, more: Partial<Piece> = {}): void {
    if (range.to > range.from) this.pieces.push({ ...piece(role, this.text.slice(range.from, range.to), range.from, range.to), ...more })
  }

  /** The sign or word between two parts. */
  private between(role: Role, from: number, to: number, options: readonly string[]): void {
    const gap = this.text.slice(from, to)
    const trimmed = gap.trim()
    if (trimmed === '') return
    const start = from + gap.indexOf(trimmed)
    this.add(role, { from: start, to: start + trimmed.length }, { options })
  }

  private expression(e: Tree.Expression, whole: Tree.Range | null): void {
    switch (e.tag) {
      case 'number': return this.add('number', e.range, { whole })
      case 'text': return this.add('text', e.range)
      case 'truth': return this.add('truth', e.range, { options: ['true', 'false'] })
      case 'name': return this.add('name', e.range, { whole })
      case 'reading': return this.add('reading', e.range, { device: e.device.text, whole: whole ?? e.range })
      case 'call':
        if (!CALLED.has(e.name.text)) this.add('name', e.name.range)
        e.given.forEach(g => this.expression(g, null))
        return
      case 'minus': return e.of.tag === 'number' ? this.add('number', e.range, { whole }) : this.expression(e.of, null)
      case 'arithmetic': this.expression(e.left, null); this.expression(e.right, null); return
      case 'compare':
        this.expression(e.left, e.range)
        this.between('comparison', e.left.range.to, e.right.range.from, COMPARISONS)
        this.expression(e.right, null)
        return
      case 'between': this.expression(e.value, e.range); this.expression(e.low, null); this.expression(e.high, null); return
      case 'is':
        this.expression(e.value, e.range)
        if (e.options[0] !== undefined) this.between('is', e.value.range.to, e.options[0].range.from, ['is', 'is not'])
        e.options.forEach(o => this.expression(o, null))
        return
      case 'logic':
        e.operands.forEach((o, i) => {
          const before = e.operands[i - 1]
          // With one `and` or `or` the word itself can be turned over.
          if (before !== undefined && e.operands.length === 2) this.between('logic', before.range.to, o.range.from, ['and', 'or'])
          this.expression(o, null)
        })
        return
      case 'not': return this.expression(e.of, null)
      case 'random': this.expression(e.low, null); this.expression(e.high, null); return
      case 'heard': return this.add('signal', e.signal.range)
      case 'every': return this.expression(e.time, null)
      case 'bracket': return this.expression(e.inner, null)
      case 'missing': return
      default: return unreachable(e)
    }
  }

  private held(c: Tree.Condition | null): void {
    if (c === null) return
    this.expression(c.expression, null)
    if (c.held !== null) this.expression(c.held, null)
  }

  private ofStep(step: Tree.Step): void {
    switch (step.tag) {
      case 'action': {
        const form = this.forms.get(step.form)
        const parts = form === undefined ? [] : plainParts(form)
        for (const slot of step.slots) {
          const part = parts.find(p => 'slot' in p && p.slot === slot.name)
          if (slot.value !== null) this.expression(slot.value, null)
          else if (part?.part === 'choice') { if (part.words.length > 1) this.add('choice', slot.range, { options: part.words }) }
          else if (part?.part === 'device') this.add('device', slot.range, { options: part.kinds, device: slot.word })
          else if (part?.part === 'kept') this.add('kept', slot.range, { options: [part.what] })
        }
        if (step.lasting !== null) this.expression(step.lasting, null)
        this.held(step.until)
        if (step.atMost !== null) this.expression(step.atMost, null)
        return
      }
      case 'if': { const first = step.branches[0]?.condition; if (first != null) this.expression(first, null); return }
      case 'repeat':
        if (step.each !== null) {
          this.add('name', step.each.name.range)
          step.each.values.forEach(v => this.expression(v, null))
        }
        if (step.times !== null) this.expression(step.times, null)
        if (step.test !== null) {
          const at = this.text.indexOf(step.test.word, step.range.from)
          this.add('choice', { from: at, to: at + step.test.word.length }, { options: ['while', 'until'] })
          this.expression(step.test.condition, null)
        }
        return
      case 'choose': return this.expression(step.value, null)
      case 'set':
        this.add('name', step.name.range)
        if (step.at !== null) this.expression(step.at, null)
        this.expression(step.value, null)
        return
      case 'local': this.add('name', step.name.range); this.expression(step.value, null); return
      case 'keep': this.add('name', step.name.range); this.ofRemembered(step); return
      case 'reset': return this.expression(step.reading, null)
      case 'go': return this.add('mode', step.mode.range)
      case 'do':
        this.add('routine', step.routine.range)
        step.given.forEach(g => this.expression(g, null))
        if (step.atMost !== null) this.expression(step.atMost, null)
        return
      case 'send': return this.add('signal', step.signal.range)
      case 'finish': if (step.why !== null) this.expression(step.why, null); return
      case 'wait': return this.expression(step.time, null)
      case 'waitUntil': this.held(step.condition); if (step.atMost !== null) this.expression(step.atMost, null); return
      case 'note': return this.expression(step.text, null)
      case 'leave':
      case 'unread': return
      default: return unreachable(step)
    }
  }
}

/** Length of the word `off` and the spaces behind it, where a line begins with it; else 0. */
export function offLength(text: string, at: number): number {
  return /^off +/.exec(text.slice(at, at + 20))?.[0].length ?? 0
}

function piece(role: Role, text: string, from: number, to: number): Piece {
  return { role, text, from, to, device: null, options: [], whole: null }
}

function unreachable(value: never): never {
  throw new Error(`unexpected node ${JSON.stringify(value)}`)
}
