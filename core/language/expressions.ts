import type { Cursor } from './cursor'
import { Findings } from './diagnostics'
import { tokensOf } from './lexer'
import { Cursor as TokenCursor } from './cursor'
import type { Arithmetic, Comparison, Condition, Expression, Inset, Name, Range, Text } from './tree'
import { say } from './wording'

/** How deep brackets and signs may nest; deeper text is reported, so that hostile input cannot exhaust the stack. */
const MAX_NESTING = 40

/** A condition: an expression, perhaps held `for` a time. */
export function readCondition(cursor: Cursor, findings: Findings): Condition {
  const from = cursor.here().from
  const expression = readExpression(cursor, findings)
  let held: Expression | null = null
  if (cursor.takeWord('for')) held = readSum(cursor, findings, 0)
  return { expression, held, range: cursor.since(from) }
}

/** Any expression: `or` and `and`, comparisons, sums. */
export function readExpression(cursor: Cursor, findings: Findings, depth = 0): Expression {
  const from = cursor.here().from
  const first = readComparison(cursor, findings, depth)
  const operator = cursor.isWord('and') ? 'and' : cursor.isWord('or') ? 'or' : null
  if (operator === null) return first
  const operands = [first]
  while (cursor.isWord('and') || cursor.isWord('or')) {
    const t = cursor.next()!
    if (t.type === 'word' && t.text !== operator) cursor.fail(say.andBesideOr(), t.range)
    operands.push(readComparison(cursor, findings, depth))
    if (cursor.failed) break
  }
  return { tag: 'logic', operator, operands, range: cursor.since(from) }
}

function readComparison(cursor: Cursor, findings: Findings, depth: number): Expression {
  const from = cursor.here().from
  if (cursor.takeWord('not')) {
    if (depth >= MAX_NESTING) { cursor.fail(say.tooDeep()); return { tag: 'missing', range: cursor.here() } }
    const of = readComparison(cursor, findings, depth + 1)
    return { tag: 'not', of, range: cursor.since(from) }
  }
  if (cursor.takeWord('heard')) {
    const signal = readName(cursor, 'a signal')
    return { tag: 'heard', signal, range: cursor.since(from) }
  }
  if (cursor.takeWord('every')) {
    const time = readSum(cursor, findings, depth)
    return { tag: 'every', time, range: cursor.since(from) }
  }
  const left = readSum(cursor, findings, depth)
  const t = cursor.peek()
  if (t?.type === 'sign' && (t.text === '<' || t.text === '>' || t.text === '<=' || t.text === '>=')) {
    cursor.next()
    const right = readSum(cursor, findings, depth)
    const again = cursor.peek()
    if (again?.type === 'sign' && ['<', '>', '<=', '>='].includes(again.text)) cursor.fail(say.chainedComparison(), again.range)
    return { tag: 'compare', operator: t.text as Comparison, left, right, range: cursor.since(from) }
  }
  if (t?.type === 'sign' && t.text === '=') {
    cursor.fail(say.equalsInCondition(), t.range, { title: 'Use is', from: t.range.from, to: t.range.to, text: 'is' })
    return left
  }
  if (cursor.takeWord('between')) {
    const low = readSum(cursor, findings, depth)
    if (!cursor.takeWord('and')) cursor.fail(say.expected('and', cursor.found()))
    const high = readSum(cursor, findings, depth)
    return { tag: 'between', value: left, low, high, range: cursor.since(from) }
  }
  if (cursor.takeWord('is')) {
    const negated = cursor.takeWord('not')
    const options = [readSum(cursor, findings, depth)]
    while (cursor.takeSign(',')) options.push(readSum(cursor, findings, depth))
    return { tag: 'is', value: left, negated, options, range: cursor.since(from) }
  }
  return left
}

/** A value as steps take it: a sum, or `random` from one sum to another. */
export function readValue(cursor: Cursor, findings: Findings): Expression {
  const from = cursor.here().from
  if (cursor.takeWord('random')) {
    const low = readSum(cursor, findings, 0)
    if (!cursor.takeWord('to')) cursor.fail(say.expected('to', cursor.found()))
    const high = readSum(cursor, findings, 0)
    return { tag: 'random', low, high, range: cursor.since(from) }
  }
  return readSum(cursor, findings, 0)
}

export function readSum(cursor: Cursor, findings: Findings, depth: number): Expression {
  return readChain(cursor, ['+', '-'], () => readChain(cursor, ['*', '/'], () => readUnary(cursor, findings, depth)))
}

function readChain(cursor: Cursor, operators: readonly Arithmetic[], read: () => Expression): Expression {
  const from = cursor.here().from
  let left = read()
  for (let t = cursor.peek(); t?.type === 'sign' && (operators as readonly string[]).includes(t.text); t = cursor.peek()) {
    cursor.next()
    const right = read()
    left = { tag: 'arithmetic', operator: t.text as Arithmetic, left, right, range: cursor.since(from) }
    if (cursor.failed) break
  }
  return left
}

function readUnary(cursor: Cursor, findings: Findings, depth: number): Expression {
  const from = cursor.here().from
  if (depth >= MAX_NESTING) { cursor.fail(say.tooDeep()); return { tag: 'missing', range: cursor.here() } }
  if (cursor.takeSign('-')) {
    const of = readUnary(cursor, findings, depth + 1)
    return { tag: 'minus', of, range: cursor.since(from) }
  }
  return readPrimary(cursor, findings, depth)
}

function readPrimary(cursor: Cursor, findings: Findings, depth: number): Expression {
  const t = cursor.peek()
  if (t === undefined) {
    cursor.fail(say.expectedValue(cursor.found()))
    return { tag: 'missing', range: cursor.here() }
  }
  switch (t.type) {
    case 'number':
      cursor.next()
      return { tag: 'number', value: t.value, figure: t.figure, unit: t.unit, range: t.range }
    case 'text':
      cursor.next()
      return readText(t.source, t.range, findings)
    case 'sign':
      if (t.text === '(') {
        cursor.next()
        const inner = readExpression(cursor, findings, depth + 1)
        if (!cursor.takeSign(')')) {
          const end = cursor.since(t.range.from).to
          cursor.fail(say.bracketNotClosed(cursor.found()), t.range, { title: 'Add )', from: end, to: end, text: ')' })
        }
        return { tag: 'bracket', inner, range: cursor.since(t.range.from) }
      }
      cursor.fail(say.expectedValue(cursor.found()))
      return { tag: 'missing', range: cursor.here() }
    case 'word':
      return readWord(cursor, findings, depth)
  }
}

/** Words after which a value has clearly not been written. */
const NEVER_VALUES = new Set(['for', 'until', 'once', 'at', 'to', 'from', 'turning', 'holding', 'and', 'or', 'is', 'between', 'then', 'times', 'by', 'without'])

function readWord(cursor: Cursor, findings: Findings, depth: number): Expression {
  const t = cursor.peek() as { text: string, range: Range }
  if (NEVER_VALUES.has(t.text)) {
    cursor.fail(say.expectedValue(t.text))
    return { tag: 'missing', range: { from: t.range.from, to: t.range.from } }
  }
  if (t.text === 'random') {
    cursor.fail(say.randomHere(), t.range)
    cursor.next()
    return { tag: 'missing', range: t.range }
  }
  cursor.next()
  if (t.text === 'true' || t.text === 'false') return { tag: 'truth', value: t.text === 'true', range: t.range }
  if (cursor.isSign('.')) {
    cursor.next()
    const reading = readName(cursor, `a reading of ${t.text}`)
    const given = cursor.isSign('(') ? readGiven(cursor, findings, depth) : null
    return { tag: 'reading', device: { text: t.text, range: t.range }, reading, given, range: cursor.since(t.range.from) }
  }
  if (cursor.isSign('(')) {
    const given = readGiven(cursor, findings, depth)
    return { tag: 'call', name: { text: t.text, range: t.range }, given, range: cursor.since(t.range.from) }
  }
  return { tag: 'name', name: t.text, range: t.range }
}

/** Values in brackets, with commas between. `drawn`: each may be `random`. */
export function readGiven(cursor: Cursor, findings: Findings, depth = 0, drawn = false): readonly Expression[] {
  const given: Expression[] = []
  const open = cursor.here()
  cursor.takeSign('(')
  if (cursor.takeSign(')')) return given
  do given.push(drawn && cursor.isWord('random') ? readValue(cursor, findings) : readExpression(cursor, findings, depth + 1))
  while (!cursor.failed && cursor.takeSign(','))
  if (!cursor.takeSign(')')) {
    const end = cursor.since(open.from).to
    cursor.fail(say.bracketNotClosed(cursor.found()), open, { title: 'Add )', from: end, to: end, text: ')' })
  }
  return given
}

/** A word that names something; an empty name, and a problem, where there is none. */
export function readName(cursor: Cursor, what: string): Name {
  const t = cursor.peek()
  if (t?.type === 'word') {
    cursor.next()
    return { text: t.text, range: t.range }
  }
  cursor.fail(say.expectedName(what, cursor.found()))
  return { text: '', range: cursor.here() }
}

/** What stands in braces: a value, and perhaps how it is to be written. `inside` begins at the offset `from`. */
function readInset(cursor: Cursor, inside: string, from: number, findings: Findings): Inset {
  const of = readExpression(cursor, findings)
  if (cursor.takeWord('to')) return { of, unit: null, step: readSum(cursor, findings, 0) }
  if (!cursor.takeWord('in')) return { of, unit: null, step: null }
  // A unit may be of several words and signs: deg/s.
  const begin = cursor.here().from
  while (!cursor.atEnd) cursor.next()
  const text = inside.slice(begin - from).trimEnd()
  return { of, unit: { text, range: { from: begin, to: begin + text.length } }, step: null }
}

/** A text with the values in its braces. */
export function readText(source: string, range: Range, findings: Findings): Text {
  const parts: (string | Inset)[] = []
  let at = 0
  while (at < source.length) {
    const open = source.indexOf('{', at)
    if (open === -1) break
    const close = source.indexOf('}', open)
    const place = { from: range.from + 1 + open, to: range.from + 1 + (close === -1 ? source.length : close + 1) }
    if (close === -1) {
      findings.error(say.braceNotClosed(), place, { title: 'Add }', from: place.to, to: place.to, text: '}' })
      break
    }
    if (open > at) parts.push(source.slice(at, open))
    const inside = source.slice(open + 1, close)
    const lexed = tokensOf(inside, place.from + 1, findings)
    const cursor = new TokenCursor(lexed.tokens, place.to - 1)
    const inset = readInset(cursor, inside, place.from + 1, findings)
    if (!cursor.atEnd) cursor.fail(say.expected('}', cursor.found()))
    cursor.report(findings)
    if (cursor.failed) parts.push(source.slice(open, close + 1))
    else parts.push(inset)
    at = close + 1
  }
  if (at < source.length) parts.push(source.slice(at))
  return { tag: 'text', parts, range }
}
