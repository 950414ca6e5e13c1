import type { Findings } from './diagnostics'
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
  readonly lines: readonly SourceLine[]
  /** Comment lines after the last line, with their indentation. */
  readonly tail: readonly string[]
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
      if (open) end = text.length
      const source = text.slice(at + 1, end)
      const whole = range(at, Math.min(end + 1, text.length))
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

/** Splits a text into logical lines with tokens; comments and blank lines become trivia. */
export function linesOf(text: string, findings: Findings): SourceLines {
  const lines: SourceLine[] = []
  let above: string[] = []
  let gap = false
  const physical = text.split('\n')
  const starts: number[] = []
  let sum = 0
  for (const line of physical) { starts.push(sum); sum += line.length + 1 }

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

  for (let i = 0; i < physical.length; i++) {
    const line = physical[i]!.replace(/\r$/, '')
    const start = starts[i]!
    if (line.trim() === '') { gap = true; continue }
    const comment = line.trimStart()
    if (comment.startsWith('#')) {
      if (gap && (above.length > 0 || lines.length > 0)) above.push('\n')
      gap = false
      above.push(comment.slice(1).trim())
      continue
    }
    const indent = indentOf(line, start)
    const lead = line.length - line.trimStart().length
    const first = tokensOf(line.slice(lead), start + lead, findings)
    const tokens = first.tokens
    let behind = first.comment
    let end = start + line.trimEnd().length
    for (let more = 0; continues(tokens) && i + 1 < physical.length && more < MAX_CONTINUATION; more++) {
      const next = physical[i + 1]!.replace(/\r$/, '')
      if (LINE_STARTERS.has(/^\s*(\w+)/.exec(next)?.[1] ?? '')) break
      i++
      const part = tokensOf(next, starts[i]!, findings)
      tokens.push(...part.tokens)
      if (part.comment !== null) {
        if (behind !== null) above.push(behind)
        behind = part.comment
      }
      end = starts[i]! + next.trimEnd().length
    }
    lines.push({ indent, tokens, above, behind, gap, range: { from: start + lead, to: end } })
    above = []
    gap = false
  }
  return { lines, tail: above }
}
