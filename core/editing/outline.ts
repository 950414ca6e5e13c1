import { STEP_FORMS } from '../devices'
import { LineIndex, type Tree } from '../language'
import { Cutter, offLength, type Piece } from './pieces'
import { codeEnd, commentAt, lineEnd, lineStart, type Sheet } from './sheet'

const FORMS = new Map(STEP_FORMS.map(f => [f.id, f]))

/** A comment with its place: the words behind `#`, from the `#` to the line's end. */
export interface Comment { readonly text: string, readonly from: number, readonly to: number }

/** What every line of an outline has. */
interface Line {
  /** Where the node begins in the text: by that it is told to an edit. */
  readonly at: number
  /** From 1. */
  readonly line: number
  readonly above: readonly Comment[]
  readonly behind: Comment | null
}

/** One line of steps: a step, or a heading of `if`, `else`, `repeat`, `choose`, `is`. */
export interface StepLine extends Line {
  readonly depth: number
  readonly pieces: readonly Piece[]
  readonly off: boolean
  /** Headings have steps below them; the others are steps, but for what could not be read. */
  readonly what: 'step' | 'if' | 'else if' | 'else' | 'repeat' | 'choose' | 'is' | 'unread'
  /** Where its condition begins; null where it has none. */
  readonly condition: number | null
  /** A step that can be moved, switched off and removed as such. An `else` belongs to its `if`. */
  readonly isStep: boolean
}

/** A rule, a `start`, or a line that could not be read. */
export interface RuleRow extends Line {
  readonly what: 'rule' | 'otherwise' | 'start' | 'unread'
  /** From 1, the most urgent first, those above all modes counted in; null for what is no rule. */
  readonly urgency: number | null
  readonly off: boolean
  readonly once: boolean
  readonly when: readonly Piece[]
  readonly until: readonly Piece[]
  readonly steps: readonly StepLine[]
}

export type CardKind = 'main' | 'above' | 'mode' | 'lane' | 'routine'

/** Rules that stand together: of a mode, above all modes, of a program or lane without modes; or a routine's steps. */
export interface Card {
  readonly kind: CardKind
  /** Of a mode, lane or routine; '' else. */
  readonly name: string
  readonly nameRange: Tree.Range | null
  /** Where its heading begins; -1 for what has none. */
  readonly at: number
  readonly lane: string
  readonly above: readonly Comment[]
  readonly behind: Comment | null
  readonly parameters: readonly string[]
  readonly rows: readonly RuleRow[]
}

/** A line that names something: the title, a dial, a memory, a value. */
export interface NamedRow extends Line {
  readonly what: 'title' | 'dial' | 'memory' | 'let'
  readonly name: string
  readonly pieces: readonly Piece[]
}

/** A program as cards of rows, in the order of its text. */
export interface Outline {
  readonly named: readonly NamedRow[]
  readonly cards: readonly Card[]
  /** Comments behind the last line. */
  readonly tail: readonly Comment[]
}

/** Rows of an outline by all that they say and where: what did not change is the same object in the next outline. */
export type KnownRows = Map<string, RuleRow>

/** The outline of a program. Rows that `known` has are taken from it; it is told all that this outline has. */
export function outlineOf(sheet: Sheet, known: KnownRows = new Map()): Outline {
  const outliner = new Outliner(sheet, known)
  const outline = outliner.run()
  known.clear()
  for (const [key, row] of outliner.rows) known.set(key, row)
  return outline
}

class Outliner {
  private readonly cutter: Cutter
  private readonly text: string
  private readonly named: NamedRow[] = []
  private readonly cards: Card[] = []
  private read = 0
  private readonly lines: LineIndex

  readonly rows: KnownRows = new Map()

  constructor(private readonly sheet: Sheet, private readonly known: KnownRows) {
    this.text = sheet.text
    this.cutter = new Cutter(sheet.text, FORMS)
    this.lines = new LineIndex(sheet.text)
  }

  run(): Outline {
    this.lane(this.sheet.tree.items, '', null)
    const tail = this.commentsBefore(this.text.length + 1)
    return { named: this.named, cards: this.cards, tail }
  }

  /** The comments between what was read last and the line of an offset; each is given to one line only. */
  private commentsBefore(at: number): readonly Comment[] {
    const end = at > this.text.length ? this.text.length : lineStart(this.text, at)
    const found: Comment[] = []
    for (let from = this.read; from < end;) {
      const to = lineEnd(this.text, from)
      const line = this.text.slice(from, to)
      const hash = line.trimStart().startsWith('#') ? line.indexOf('#') : -1
      if (hash !== -1) found.push({ text: line.slice(hash + 1).trim(), from: from + hash, to })
      from = to + 1
    }
    this.read = Math.max(this.read, end)
    return found
  }

  /** A comment behind an arrow's step is the step's. */
  private line(range: Tree.Range, headEnd: number, body: Tree.Block | null = null): Line {
    const above = this.commentsBefore(range.from)
    const to = lineEnd(this.text, headEnd)
    const from = lineStart(this.text, headEnd)
    const hash = commentAt(this.text.slice(from, to))
    this.read = Math.max(this.read, to + 1)
    return { at: range.from, line: this.lines.placeOf(range.from).line, above, behind: hash === -1 || body?.inline === true ? null : { text: this.text.slice(from + hash + 1, to).trim(), from: from + hash, to } }
  }

  private lane(items: readonly Tree.Item[], lane: string, node: Tree.Lane | null): void {
    const head = node === null ? null : { line: this.line(node.range, node.name.range.to), name: node.name }
    const modes = items.some(i => i.tag === 'mode')
    const own = items.filter(i => i.tag === 'rule' || i.tag === 'start' || i.tag === 'unread')
    const place = this.cards.length
    // Rules of a lane without modes count among themselves; those above modes are counted on in each.
    let count = 0
    const rows: RuleRow[] = []
    const aboveCount = own.filter(i => i.tag === 'rule').length
    for (const item of items) {
      switch (item.tag) {
        case 'title': this.named.push({ ...this.line(item.range, item.range.to), what: 'title', name: item.text, pieces: [] }); break
        case 'dial': {
          const pieces = [item.value, item.from, item.to].flatMap(e => e === null ? [] : this.cutter.value(e))
          this.named.push({ ...this.line(item.range, item.range.to), what: 'dial', name: item.name.text, pieces })
          break
        }
        case 'memory': this.named.push({ ...this.line(item.range, item.range.to), what: 'memory', name: item.name.text, pieces: this.cutter.remembered(item) }); break
        case 'let': this.named.push({ ...this.line(item.range, item.range.to), what: 'let', name: item.name.text, pieces: this.cutter.named(item) }); break
        case 'start':
        case 'unread':
        case 'rule':
          if (item.tag === 'rule') count++
          rows.push(this.row(item, item.tag === 'rule' ? count : null))
          break
        case 'mode': this.mode(item, lane, modes ? aboveCount : 0); break
        case 'lane': this.lane(item.items, item.name.text, item); break
        case 'routine': this.routine(item); break
        default: unreachable(item)
      }
    }
    if (rows.length === 0 && node === null) return
    this.cards.splice(place, 0, {
      kind: node !== null ? 'lane' : modes ? 'above' : 'main', name: node?.name.text ?? '', nameRange: node?.name.range ?? null, at: node?.range.from ?? -1, lane: node?.name.text ?? lane,
      above: head?.line.above ?? [], behind: head?.line.behind ?? null, parameters: [], rows,
    })
  }

  private mode(node: Tree.Mode, lane: string, above: number): void {
    const line = this.line(node.range, node.name.range.to)
    let count = above
    const rows = node.items.map(item => this.row(item, item.tag === 'rule' ? ++count : null))
    this.cards.push({ kind: 'mode', name: node.name.text, nameRange: node.name.range, at: node.range.from, lane, above: line.above, behind: line.behind, parameters: [], rows })
  }

  private routine(node: Tree.Routine): void {
    const head = this.headEnd(node.range.from, node.body)
    const line = this.line(node.range, head, node.body)
    const steps = this.steps(node.body, 0)
    const row: RuleRow = { at: node.range.from, line: line.line, above: [], behind: null, what: 'start', urgency: null, off: false, once: false, when: [], until: [], steps }
    this.cards.push({
      kind: 'routine', name: node.name.text, nameRange: node.name.range, at: node.range.from, lane: '', above: line.above, behind: line.behind,
      parameters: node.parameters.map(p => p.text), rows: [row],
    })
  }

  private row(item: Tree.Start | Tree.Rule | Tree.Unread, urgency: number | null): RuleRow {
    const end = lineEnd(this.text, item.range.to)
    const key = `${this.read} ${item.range.from} ${this.lines.placeOf(item.range.from).line} ${urgency} ${this.text.slice(this.read, end)}`
    const row = this.known.get(key) ?? this.newRow(item, urgency)
    this.read = Math.max(this.read, end + 1)
    this.rows.set(key, row)
    return row
  }

  private newRow(item: Tree.Start | Tree.Rule | Tree.Unread, urgency: number | null): RuleRow {
    const rule = item.tag === 'rule' ? item : null
    const line = this.line(item.range, item.tag === 'unread' ? item.range.from : this.headEnd(item.range.from, item.body), item.tag === 'unread' ? null : item.body)
    return {
      ...line, urgency,
      what: item.tag === 'rule' ? item.when === null ? 'otherwise' : 'rule' : item.tag,
      off: rule?.off ?? false, once: rule?.once ?? false,
      when: item.tag === 'unread' ? [unreadPiece(this.text, item)] : rule?.when == null ? [] : this.cutter.condition(rule.when),
      until: rule?.until == null ? [] : this.cutter.condition(rule.until),
      steps: this.steps(item.body, 0),
    }
  }

  /** Where a heading's own line ends: behind its arrow's step, or at the line's end. */
  private headEnd(from: number, body: Tree.Block): number {
    const first = body.steps[0]
    if (body.inline && first !== undefined) return first.range.to
    // A condition may go on over some lines: the head ends before the line of its first step.
    if (first !== undefined) {
      let end = this.lineBefore(first.range.from)
      while (end > from && isCommentLine(this.text, end)) end = this.lineBefore(end)
      return Math.max(from, end)
    }
    return lineEnd(this.text, from)
  }

  private lineBefore(at: number): number {
    let end = lineStart(this.text, at) - 1
    while (end > 0 && this.text.slice(lineStart(this.text, end), end).trim() === '') end = lineStart(this.text, end) - 1
    return Math.max(0, end)
  }

  private steps(body: Tree.Block, depth: number): readonly StepLine[] {
    return body.steps.flatMap(step => this.step(step, depth))
  }

  private step(step: Tree.Step, depth: number): readonly StepLine[] {
    const off = offLength(this.text, step.range.from) > 0
    switch (step.tag) {
      case 'if': {
        const out: StepLine[] = []
        step.branches.forEach((branch, i) => {
          const from = i === 0 ? step.range.from : branch.range.from
          const line = this.line({ from, to: branch.range.to }, this.headEnd(from, branch.body), branch.body)
          const pieces = i === 0 ? this.cutter.step(step, this.textEnd(branch.condition, from)) : [word(this.text, from, branch.condition), ...(branch.condition === null ? [] : this.cutter.value(branch.condition))]
          out.push({ ...line, depth, pieces, off: off && i === 0, what: i === 0 ? 'if' : 'else if', isStep: i === 0, condition: branch.condition?.range.from ?? null }, ...this.steps(branch.body, depth + 1))
        })
        if (step.otherwise !== null) out.push(...this.otherwise(step.otherwise, depth))
        return out
      }
      case 'repeat': {
        const end = step.each?.values.at(-1)?.range.to ?? step.times?.range.to ?? step.test?.condition.range.to
        const head = end === undefined ? step.range.from + offLength(this.text, step.range.from) + 'repeat'.length : step.times === null ? end : this.text.indexOf('times', end) + 'times'.length
        const line = this.line(step.range, this.headEnd(step.range.from, step.body), step.body)
        return [{ ...line, depth, pieces: this.cutter.step(step, head), off, what: 'repeat', isStep: true, condition: step.test?.condition.range.from ?? null }, ...this.steps(step.body, depth + 1)]
      }
      case 'choose': {
        const line = this.line(step.range, step.value.range.to)
        const out: StepLine[] = [{ ...line, depth, pieces: this.cutter.step(step, step.value.range.to), off, what: 'choose', isStep: true, condition: null }]
        for (const c of step.cases) {
          const head = this.line(c.range, this.headEnd(c.range.from, c.body), c.body)
          out.push({ ...head, depth: depth + 1, pieces: this.cutter.case(c), off: false, what: 'is', isStep: false, condition: null }, ...this.steps(c.body, depth + 2))
        }
        if (step.otherwise !== null) out.push(...this.otherwise(step.otherwise, depth + 1))
        return out
      }
      case 'unread':
        return [{ ...this.line(step.range, step.range.from), depth, pieces: [unreadPiece(this.text, step)], off: false, what: 'unread', isStep: true, condition: null }, ...this.steps(step.body, depth + 1)]
      default: {
        const late = 'late' in step ? step.late : null
        // What stands in the `else` under it are lines of their own.
        const end = late === null ? step.range.to : this.lineBefore(late.range.from)
        const line = this.line(step.range, end)
        const own: StepLine = { ...line, depth, pieces: this.cutter.step(step, end), off, what: 'step', isStep: true, condition: conditionIn(step)?.expression.range.from ?? null }
        return late === null ? [own] : [own, ...this.otherwise(late, depth)]
      }
    }
  }

  private otherwise(branch: Tree.Branch, depth: number): readonly StepLine[] {
    const line = this.line(branch.range, this.headEnd(branch.range.from, branch.body), branch.body)
    return [{ ...line, depth, pieces: [word(this.text, branch.range.from, null)], off: false, what: 'else', isStep: false, condition: null }, ...this.steps(branch.body, depth + 1)]
  }

  private textEnd(e: Tree.Expression | null, otherwise: number): number { return e === null ? otherwise : e.range.to }
}

function conditionIn(step: Tree.Step): Tree.Condition | null {
  return step.tag === 'waitUntil' ? step.condition : step.tag === 'action' ? step.until : null
}

/** The words before a heading's first value: `else if`, `is`; of a bare `else` the word itself. */
function word(text: string, from: number, before: Tree.Expression | null): Piece {
  const to = before === null ? from + 'else'.length : from + text.slice(from, before.range.from).trimEnd().length
  return { role: 'word', text: text.slice(from, to), from, to, device: null, options: [], whole: null }
}

function unreadPiece(text: string, node: Tree.Unread): Piece {
  const { from } = node.range
  const to = codeEnd(text, lineEnd(text, from))
  return { role: 'unread', text: text.slice(from, to), from, to, device: null, options: [], whole: null }
}

function isCommentLine(text: string, at: number): boolean {
  return text.slice(lineStart(text, at), lineEnd(text, at)).trimStart().startsWith('#')
}

function unreachable(value: never): never {
  throw new Error(`unexpected node ${JSON.stringify(value)}`)
}
