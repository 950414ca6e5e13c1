import type { Cursor } from './cursor'
import type { Findings } from './diagnostics'
import { readCondition, readExpression, readGiven, readName, readSum, readValue } from './expressions'
import type { Part, PlainPart, StepForm } from '../devices/form'
import type { Action, Block, Condition, Expression, Name, Remembered, Repeat, Slot, Step, Trivia } from './tree'
import { say } from './wording'
import { nearestWord } from './words'

/** The part of a step that stands on its own line; blocks are joined on by the parser. */
export type StepHead =
  | Exclude<Step, { tag: 'if' | 'repeat' | 'choose' | 'unread' }>
  | { readonly tag: 'if', readonly off: boolean, readonly condition: Expression }
  | { readonly tag: 'repeat', readonly off: boolean, readonly times: Expression | null, readonly test: { word: 'while' | 'until', condition: Expression } | null, readonly each: Repeat['each'] }
  | { readonly tag: 'choose', readonly off: boolean, readonly value: Expression }

/** What the control words of the language begin. */
const CONTROL: Readonly<Record<string, (c: Cursor, f: Findings, base: Base) => StepHead>> = {
  if: (c, f, base) => ({ tag: 'if', off: base.off, condition: readExpression(c, f) }),
  repeat: (c, f, base) => readRepeat(c, f, base),
  leave: (_c, _f, base) => ({ tag: 'leave', ...base }),
  choose: (c, f, base) => ({ tag: 'choose', off: base.off, value: readSum(c, f, 0) }),
  set: (c, f, base) => readSet(c, f, base),
  let: (c, f, base) => readLocal(c, f, base),
  memory: (c, f, base) => ({ tag: 'keep', ...base, ...readRemembered(c, f) }),
  reset: (c, f, base) => ({ tag: 'reset', ...base, reading: readSum(c, f, 0) }),
  go: (c, _f, base) => ({ tag: 'go', ...base, mode: readName(c, 'a mode') }),
  do: (c, f, base) => {
    const routine = readName(c, 'a routine')
    const given = c.isSign('(') ? readGiven(c, f, 0, true) : []
    return { tag: 'do', ...base, routine, given, atMost: readAtMost(c, f), late: null }
  },
  send: (c, _f, base) => ({ tag: 'send', ...base, signal: readName(c, 'a signal') }),
  finish: (c, f, base) => {
    if (c.atEnd) return { tag: 'finish', ...base, why: null }
    const why = readValue(c, f)
    if (why.tag !== 'text' && why.tag !== 'missing') c.fail(say.expectedText('finish "done"', 'something else'), why.range)
    return { tag: 'finish', ...base, why: why.tag === 'text' ? why : null }
  },
  note: (c, f, base) => ({ tag: 'note', ...base, text: readValue(c, f) }),
  wait: (c, f, base) => {
    if (c.takeWord('until')) return { tag: 'waitUntil', ...base, condition: readCondition(c, f), atMost: readAtMost(c, f), late: null }
    return { tag: 'wait', ...base, time: readValue(c, f) }
  },
}

interface Base {
  readonly off: boolean
  readonly range: { from: number, to: number }
  readonly trivia: Trivia
}

/** The words that can begin a step. */
export function stepWords(forms: readonly StepForm[]): readonly string[] {
  return [...new Set([...Object.keys(CONTROL), ...forms.map(firstWord)])]
}

const byWord = new WeakMap<readonly StepForm[], ReadonlyMap<string, readonly StepForm[]>>()

function formsByWord(forms: readonly StepForm[]): ReadonlyMap<string, readonly StepForm[]> {
  let map = byWord.get(forms)
  if (map === undefined) {
    const made = new Map<string, StepForm[]>()
    for (const form of forms) made.set(firstWord(form), [...made.get(firstWord(form)) ?? [], form])
    map = made
    byWord.set(forms, map)
  }
  return map
}

function firstWord(form: StepForm): string {
  const first = form.parts[0]
  return first?.part === 'word' ? first.word : ''
}

/** Reads one step's own line. null, with a problem on the cursor, when it is none. */
export function readStepHead(cursor: Cursor, findings: Findings, forms: readonly StepForm[], base: Base): StepHead | null {
  const t = cursor.peek()
  if (t?.type !== 'word') {
    cursor.fail(say.expectedStep(cursor.found()))
    return null
  }
  const control = Object.hasOwn(CONTROL, t.text) ? CONTROL[t.text] : undefined
  if (control !== undefined) {
    cursor.next()
    return control(cursor, findings, base)
  }
  const fitting = formsByWord(forms).get(t.text) ?? []
  if (fitting.length === 0) {
    const near = nearestWord(t.text, stepWords(forms))
    cursor.fail(say.unknownStep(t.text, near), t.range, near === null ? null : { title: `Use ${near}`, from: t.range.from, to: t.range.to, text: near })
    return null
  }
  return readAction(cursor, findings, fitting, base)
}

function readRepeat(c: Cursor, f: Findings, base: Base): StepHead {
  if (c.atEnd || c.isSign('->')) return { tag: 'repeat', off: base.off, times: null, test: null, each: null }
  if (c.takeWord('for')) {
    const name = readName(c, 'a value that goes through the list')
    if (!c.takeWord('in')) c.fail(say.expected('in', c.found()))
    const values = [readSum(c, f, 0)]
    while (!c.failed && c.takeSign(',')) values.push(readSum(c, f, 0))
    return { tag: 'repeat', off: base.off, times: null, test: null, each: { name, values } }
  }
  const test = c.takeWord('while') ? 'while' as const : c.takeWord('until') ? 'until' as const : null
  if (test !== null) return { tag: 'repeat', off: base.off, times: null, test: { word: test, condition: readExpression(c, f) }, each: null }
  const times = readValue(c, f)
  if (!c.takeWord('times')) {
    const end = times.range.to
    c.fail(say.expected('times', c.found()), c.here(), c.atEnd ? { title: 'Add times', from: end, to: end, text: ' times' } : null)
  }
  return { tag: 'repeat', off: base.off, times, test: null, each: null }
}

function readSet(c: Cursor, f: Findings, base: Base): StepHead {
  const name: Name = readName(c, 'a memory')
  let at: Expression | null = null
  if (c.isSign('(')) {
    const given = readGiven(c, f)
    if (given.length !== 1) c.fail(say.readingTakes(name.text, 1, given.length), name.range)
    at = given[0] ?? null
  }
  if (!c.takeSign('=')) {
    const t = c.peek()
    c.fail(say.expected('=', c.found()), c.here(), t?.type === 'word' && (t.text === 'to' || t.text === 'is') ? { title: 'Use =', from: t.range.from, to: t.range.to, text: '=' } : null)
  }
  // A truth may be set from a comparison: `set near = sonar.distance < 20 cm`.
  return { tag: 'set', ...base, name, at, value: readDrawn(c, f) }
}

/** Any value, or a `random` one. */
const readDrawn = (c: Cursor, f: Findings): Expression => c.isWord('random') ? readValue(c, f) : readExpression(c, f)

function readLocal(c: Cursor, f: Findings, base: Base): StepHead {
  const name = readName(c, 'a value')
  if (c.isSign('(')) c.fail(say.functionInBlock(name.text))
  if (!c.takeSign('=')) c.fail(say.expected('=', c.found()))
  return { tag: 'local', ...base, name, value: readDrawn(c, f) }
}

/** What stands behind `memory`: one value, `of color = VALUE`, or `= NUMBER of VALUE`. */
export function readRemembered(c: Cursor, f: Findings): Remembered {
  const name = readName(c, 'a memory')
  const perColor = c.takeWord('of')
  if (perColor && !c.takeWord('color')) c.fail(say.expected('color', c.found()))
  if (!c.takeSign('=')) c.fail(say.expected('=', c.found()))
  const value = readExpression(c, f)
  if (perColor || !c.takeWord('of')) return { name, perColor, count: null, value }
  return { name, perColor, count: value, value: readExpression(c, f) }
}

export function readAtMost(c: Cursor, f: Findings): Expression | null {
  if (!(c.isWord('at') && c.isWord('most', 1))) return null
  c.next()
  c.next()
  return readValue(c, f)
}

/** Tries each form that begins with the word; the one that gets furthest speaks when none fits. */
function readAction(cursor: Cursor, findings: Findings, forms: readonly StepForm[], base: Base): StepHead | null {
  let furthest: { reached: number, problem: ReturnType<Cursor['attempt']>['problem'] } | null = null
  for (const form of forms) {
    const mark = findings.list.length
    const tried = cursor.attempt(() => {
      const slots: Slot[] = []
      readParts(cursor, findings, form.parts, slots)
      const ends = readEnds(cursor, findings, form)
      if (!cursor.atEnd && !cursor.isSign('->')) cursor.fail(say.unexpectedInStep(cursor.found(), form.example))
      return { tag: 'action', form: form.id, slots, ...ends, late: null, ...base } satisfies Action
    })
    if (tried.value !== null) return tried.value
    findings.list.length = mark
    if (furthest === null || tried.reached > furthest.reached) furthest = tried
  }
  if (furthest !== null) cursor.adopt(furthest.problem)
  return null
}

function readEnds(c: Cursor, f: Findings, form: StepForm): { lasting: Expression | null, until: Condition | null, atMost: Expression | null } {
  let lasting: Expression | null = null
  let until: Condition | null = null
  if (form.mayLast && c.takeWord('for')) {
    lasting = readValue(c, f)
    if (c.isWord('until')) c.fail(say.forAndUntil())
  } else if (form.mayLast && c.takeWord('until')) {
    until = readCondition(c, f)
  }
  return { lasting, until, atMost: readAtMost(c, f) }
}

function readParts(c: Cursor, f: Findings, parts: readonly Part[], slots: Slot[]): void {
  for (const part of parts) {
    if (c.failed) return
    if (part.part !== 'clause') readPart(c, f, part, slots)
  }
  // Clauses in any order, each once.
  let left: readonly Part[] = parts
  for (let found = true; found && !c.failed && !c.atEnd;) {
    found = false
    for (const clause of left) {
      if (clause.part !== 'clause') continue
      const first = clause.parts[0]!
      if (first.part !== 'word' || !c.isWord(first.word) || c.isWord('most', 1)) continue
      left = left.filter(p => p !== clause)
      for (const inner of clause.parts) if (!c.failed) readPart(c, f, inner, slots)
      found = true
    }
  }
}

function readPart(c: Cursor, f: Findings, part: PlainPart, slots: Slot[]): void {
  const here = c.here()
  switch (part.part) {
    case 'word':
      if (!c.takeWord(part.word)) c.fail(say.expected(part.word, c.found()))
      return
    case 'flag': {
      if (!part.words.every((w, i) => c.isWord(w, i))) return
      part.words.forEach(() => c.next())
      slots.push({ name: part.slot, value: null, word: part.words.join(' '), range: c.since(here.from) })
      return
    }
    case 'choice': {
      const t = c.peek()
      if (t?.type === 'word' && part.words.includes(t.text)) {
        c.next()
        slots.push({ name: part.slot, value: null, word: t.text, range: t.range })
      } else c.fail(say.expectedOneOf(part.words, c.found()))
      return
    }
    case 'value':
      if (part.optional && !startsValue(c)) return
      slots.push({ name: part.slot, value: readValue(c, f), word: null, range: c.since(here.from) })
      return
    case 'device':
    case 'kept': {
      const name = readName(c, part.part === 'device' ? 'a device' : `a ${part.what}`)
      slots.push({ name: part.slot, value: null, word: name.text, range: name.range })
      return
    }
  }
}

/** Whether a value, rather than a clause or the end, stands next. */
function startsValue(c: Cursor): boolean {
  const t = c.peek()
  if (t === undefined) return false
  if (t.type === 'number' || t.type === 'text') return true
  if (t.type === 'sign') return t.text === '(' || t.text === '-'
  return !['for', 'until', 'at', 'turning', 'holding', 'without', 'within'].includes(t.text)
}

export const EMPTY_BLOCK: Block = { steps: [], tail: [], inline: false }
