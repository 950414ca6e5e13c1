import type { Diagnostic, Findings } from './diagnostics'
import type { Range } from './tree'
import { UNITS } from '../units'
import { say } from './wording'

export type Token =
  | { readonly type: 'number', readonly value: number, readonly figure: string, readonly unit: string | null, readonly range: Range }
  | { readonly type: 'word', readonly text: string, readonly range: Range }
  | { readonly type: 'text', readonly source: string, readonly range: Range }
  | { readonly type: 'sign', readonly text: string, readonly range: Range }

/** One logical line: its indentation in columns, its tokens, and what surrounds it. */
export interface SourceLine {
  readonly indent: number
  readonly tokens: readonly Token[]
  readonly above: readonly string[]
  readonly behind: string | null
  readonly gap: boolean
  readonly range: Range
}

export interface SourceLines {
  readonly text: string
  readonly lines: readonly SourceLine[]
  /** Comment lines after the last line, with their indentation. */
  readonly tail: readonly string[]
  /** What there was to say of some of them. */
  readonly said: ReadonlyMap<SourceLine, readonly Diagnostic[]>
}

/** Signs of one letter, and those of two by the letter with which they begin. */
const SIGNS = '<>=+-*/(),.'
const LONG_SIGNS: Readonly<Record<string, string>> = { '-': '->', '<': '<=', '>': '>=' }
/** Names of units by the letter with which they begin, longest first. */
const UNIT_NAMES = new Map<string, string[]>()
for (const { name } of UNITS.filter(u => u.inPrograms).sort((a, b) => b.name.length - a.name.length)) UNIT_NAMES.set(name[0]!, [...UNIT_NAMES.get(name[0]!) ?? [], name])
const NUMBER = /(?:\d+\.?\d*|\.\d+)/y
const PER = / +per +/y
const WORD = /[A-Za-z_]\w*/y
const WORD_PART = /[A-Za-z0-9_]/

const startsWord = (c: string): boolean => (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c === '_'

/** Length of the unit that starts at `at`, 0 when none does: longest first, and never half of a word. */
function unitAt(text: string, at: number): number {
  for (const name of UNIT_NAMES.get(text[at] ?? '') ?? []) {
    if (!text.startsWith(name, at)) continue
    const next = text[at + name.length] ?? ''
    if (name === '%' || !WORD_PART.test(next)) return name.length
  }
  return 0
}

/** The unit behind a number, gains included; `end` is where it stops. A word that is no unit is left alone. */
function readUnit(text: string, from: number): { readonly unit: string | null, readonly end: number } {
  let at = from
  while (text[at] === ' ') at++
  const length = unitAt(text, at)
  if (length === 0 || (text.slice(at, at + length) === 'in' && text[at + length] === '(')) return { unit: null, end: from }
  const unit = text.slice(at, at + length)
  const end = at + length
  PER.lastIndex = end
  const per = PER.exec(text)
  if (per !== null) {
    const under = unitAt(text, end + per[0].length)
    if (under > 0) {
      const start = end + per[0].length
      return { unit: `${unit} per ${text.slice(start, start + under)}`, end: start + under }
    }
  }
  return { unit, end }
}

/** Tokens of one piece of text (a line without its comment, or an expression within a text). */
export function tokensOf(text: string, offset: number, findings: Findings): { readonly tokens: Token[], readonly comment: string | null } {
  const tokens: Token[] = []
  let at = 0
  const range = (from: number, to: number): Range => ({ from: offset + from, to: offset + to })
  while (at < text.length) {
    const c = text[at]!
    if (c === ' ' || c === '\t' || c === '\r') { at++; continue }
    if (c === '#') return { tokens, comment: text.slice(at + 1).trim() }
    if (c === '"') {
      let end = text.indexOf('"', at + 1)
      const open = end === -1
      // One that is left open ends with what is written on the line.
      if (open) end = text.trimEnd().length
      const source = text.slice(at + 1, end)
      const whole = range(at, open ? end : end + 1)
      if (open) {
        findings.error(say.textNotClosed(), whole, { title: 'Close the text with "', from: whole.to, to: whole.to, text: '"' })
      }
      tokens.push({ type: 'text', source, range: whole })
      at = end + 1
      continue
    }
    NUMBER.lastIndex = at
    const number = (c >= '0' && c <= '9') || c === '.' ? NUMBER.exec(text) : null
    if (number !== null) {
      const figure = number[0]
      const { unit, end } = readUnit(text, at + figure.length)
      tokens.push({ type: 'number', value: Number(figure), figure, unit, range: range(at, end) })
      at = end
      continue
    }
    if (startsWord(c)) {
      WORD.lastIndex = at
      const found = WORD.exec(text)![0]
      tokens.push({ type: 'word', text: found, range: range(at, at + found.length) })
      at += found.length
      continue
    }
    if (SIGNS.includes(c)) {
      const long = LONG_SIGNS[c]
      const sign = long !== undefined && text.startsWith(long, at) ? long : c
      tokens.push({ type: 'sign', text: sign, range: range(at, at + sign.length) })
      at += sign.length
      continue
    }
    const width = text.codePointAt(at)! > 0xffff ? 2 : 1
    const strange = text.slice(at, at + width)
    findings.error(say.strangeSign(strange), range(at, at + width), { title: `Remove ${strange}`, from: offset + at, to: offset + at + width, text: '' })
    at += width
  }
  return { tokens, comment: null }
}

/** Whether a logical line goes on below: a bracket is open, or it ends in `and` or `or`. */
function continues(tokens: readonly Token[]): boolean {
  let open = 0
  for (const t of tokens) if (t.type === 'sign') open += t.text === '(' ? 1 : t.text === ')' ? -1 : 0
  const last = tokens.at(-1)
  return open > 0 || (last?.type === 'word' && (last.text === 'and' || last.text === 'or'))
}

/** How many lines one logical line may run over: a bracket left open must not swallow the program. */
const MAX_CONTINUATION = 12

/** Words that begin a line and never go on an expression: where one stands, an open bracket was forgotten. */
const LINE_STARTERS = new Set(['when', 'otherwise', 'mode', 'lane', 'routine', 'start', 'dial', 'memory', 'let', 'program'])

const sameTexts = (a: readonly string[], b: readonly string[]): boolean => a.length === b.length && a.every((text, i) => text === b[i])

/** How many letters two texts begin with alike. */
function sameHead(a: string, b: string): number {
  let same = 0
  while (same < a.length && same < b.length && a.charCodeAt(same) === b.charCodeAt(same)) same++
  return same
}

/** From where on two texts of one length are alike; the end where they are not as long. */
function sameTail(a: string, b: string): number {
  let from = b.length
  if (a.length === b.length) while (from > 0 && a.charCodeAt(from - 1) === b.charCodeAt(from - 1)) from--
  return from
}

/** How many of a text's logical lines end before another physical line is over that is the same as well: which goes on is told by the one below. */
function sameLines({ text, lines }: SourceLines, head: number): number {
  const changed = text.lastIndexOf('\n', head - 1)
  const before = changed === -1 ? -1 : text.lastIndexOf('\n', changed - 1)
  let low = 0
  for (let high = lines.length; low < high;) {
    const middle = (low + high) >> 1
    if (lines[middle]!.range.to <= before) low = middle + 1
    else high = middle
  }
  return low
}

/**
 * Splits a text into logical lines with tokens; comments and blank lines become trivia. What is the same as in a text that was read
 * `before` is not read again: a line that stands at its place is the same object.
 */
export function linesOf(text: string, findings: Findings, before: SourceLines | null = null): SourceLines {
  const lines: SourceLine[] = before === null ? [] : before.lines.slice(0, sameLines(before, sameHead(before.text, text)))
  const tail = before === null ? text.length : sameTail(before.text, text)
  const said = new Map<SourceLine, readonly Diagnostic[]>()
  /** What was said of lines that are taken from before holds of them still. */
  const sayAgain = (from: number, end: number): void => {
    for (const [line, told] of before?.said ?? []) {
      if (line.range.from < from || line.range.from >= end) continue
      said.set(line, told)
      findings.list.push(...told)
    }
  }
  let next = lines.length
  let above: string[] = []
  let gap = false
  let at = 0
  const nextLine = (): string => {
    const end = text.indexOf('\n', at)
    const line = text.slice(at, end === -1 ? text.length : end)
    at = end === -1 ? text.length + 1 : end + 1
    return line.endsWith('\r') ? line.slice(0, -1) : line
  }
  if (lines.length > 0) {
    at = lines.at(-1)!.range.to
    nextLine()
    sayAgain(0, at)
  }

  const indentOf = (line: string, start: number): number => {
    let spaces = 0
    while (line[spaces] === ' ') spaces++
    if (line[spaces] !== '\t') return spaces
    const lead = /^[ \t]*/.exec(line)![0]
    findings.error(say.tab(), { from: start, to: start + lead.length }, {
      title: 'Use two spaces for the tab', from: start, to: start + lead.length, text: lead.replaceAll('\t', '  '),
    })
    return lead.replaceAll('\t', '  ').length
  }

  while (at <= text.length) {
    const start = at
    const written = nextLine()
    const comment = written.trimStart()
    if (comment === '') { gap = true; continue }
    if (comment.startsWith('#')) {
      if (gap && (above.length > 0 || lines.length > 0)) above.push('\n')
      gap = false
      above.push(comment.slice(1).trim())
      continue
    }
    const mark = findings.list.length
    const indent = indentOf(written, start)
    const lead = written.length - comment.length
    const first = tokensOf(comment, start + lead, findings)
    const tokens = first.tokens
    let behind = first.comment
    let end = start + written.trimEnd().length
    for (let more = 0; continues(tokens) && at <= text.length && more < MAX_CONTINUATION; more++) {
      const from = at
      const below = nextLine()
      if (LINE_STARTERS.has(/^\s*(\w+)/.exec(below)?.[1] ?? '')) { at = from; break }
      const part = tokensOf(below, from, findings)
      tokens.push(...part.tokens)
      if (part.comment !== null) {
        if (behind !== null) above.push(behind)
        behind = part.comment
      }
      end = from + below.trimEnd().length
    }
    const line = { indent, tokens, above, behind, gap, range: { from: start + lead, to: end } }
    lines.push(line)
    if (findings.list.length > mark) said.set(line, findings.list.slice(mark))
    above = []
    gap = false
    if (before === null || line.range.from < tail) continue
    // From here on the text is as it was: so are the lines behind this one, if it was one then too. What moved is read anew: every word of it tells where it stands.
    while (next < before.lines.length && before.lines[next]!.range.from < line.range.from) next++
    const there = before.lines[next]
    if (there?.range.from !== line.range.from) continue
    if (there.indent === indent && there.gap === line.gap && sameTexts(there.above, line.above) && !said.has(line)) lines[lines.length - 1] = there
    for (let i = next + 1; i < before.lines.length; i++) lines.push(before.lines[i]!)
    sayAgain(before.lines[next + 1]?.range.from ?? Infinity, Infinity)
    return { text, lines, tail: before.tail, said }
  }
  return { text, lines, tail: above, said }
}
