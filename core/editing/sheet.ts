import { STEP_FORMS } from '../devices'
import { parseProgram, type Parsed, type Tree } from '../language'

/** One change of a text: what stands from here to there is put in its place. Offsets of the text before all changes. */
export interface Change {
  readonly from: number
  readonly to: number
  readonly insert: string
}

/** A program as it is edited by its parts: the text stays the document, the tree says where what stands. */
export interface Sheet {
  readonly text: string
  readonly tree: Tree.Program
  /** How many lines could not be read. */
  readonly problems: number
}

/** The last texts that were read: what an edit reads to see whether it may be is read again when it was made. */
const RECENT = 2
const recent: { readonly sheet: Sheet, readonly parsed: Parsed }[] = []

export function sheetOf(text: string): Sheet {
  const known = recent.find(r => r.sheet.text === text)
  if (known !== undefined) return known.sheet
  const parsed = parseProgram(text, STEP_FORMS, recent[0]?.parsed ?? null)
  const sheet = { text, tree: parsed.tree, problems: parsed.diagnostics.length }
  recent.unshift({ sheet, parsed })
  recent.length = Math.min(recent.length, RECENT)
  return sheet
}

/** The text after some changes, which do not overlap. */
export function applyChanges(text: string, changes: readonly Change[]): string {
  let out = text
  for (const c of [...changes].sort((a, b) => b.from - a.from || b.to - a.to)) out = out.slice(0, c.from) + c.insert + out.slice(c.to)
  return out
}

/** Offset at which the line of an offset begins, and at which it ends, before its line break. */
export function lineStart(text: string, at: number): number { return text.lastIndexOf('\n', at - 1) + 1 }
export function lineEnd(text: string, at: number): number {
  const end = text.indexOf('\n', at)
  return end === -1 ? text.length : end
}

/** Spaces before the first word of the line of an offset. */
export function indentAt(text: string, at: number): number {
  const start = lineStart(text, at)
  let n = 0
  while (text[start + n] === ' ') n++
  return n
}

const isComment = (line: string): boolean => line.trimStart().startsWith('#')

/** The whole lines that a node takes, with the comment lines that stand right above it: from a line's start to behind a line break. */
export interface Block { readonly from: number, readonly own: number, readonly to: number }

export function blockOf(text: string, range: Tree.Range): Block {
  const own = lineStart(text, range.from)
  let from = own
  while (from > 0) {
    const before = lineStart(text, from - 1)
    if (!isComment(text.slice(before, from - 1))) break
    from = before
  }
  const end = lineEnd(text, range.to)
  return { from, own, to: Math.min(text.length, end + 1) }
}

/** The lines of a block with another indentation; the last always ends in a line break. */
export function indented(lines: string, by: number): string {
  const text = lines.endsWith('\n') ? lines : `${lines}\n`
  if (by === 0) return text
  return text.slice(0, -1).split('\n').map((line) => {
    if (line.trim() === '') return line
    return by > 0 ? ' '.repeat(by) + line : line.slice(Math.min(-by, line.length - line.trimStart().length))
  }).join('\n').concat('\n')
}

/** Lines to insert at a line's start, on a line of their own even where the text before has no line break at its end. */
export function insertLines(text: string, at: number, lines: string): Change {
  const open = at > 0 && text[at - 1] !== '\n'
  return { from: at, to: at, insert: `${open ? '\n' : ''}${lines}` }
}

/** Where a comment that stands behind something on the lines of a range begins; they are listed with their texts, without `#`. */
export function commentsIn(text: string, from: number, to: number): readonly string[] {
  const found: string[] = []
  for (const line of text.slice(from, to).split('\n')) {
    const at = commentAt(line)
    if (at !== -1) found.push(line.slice(at + 1).trim())
  }
  return found
}

/** Where a line's comment begins; -1 where it has none. */
export function commentAt(line: string): number {
  let quoted = false
  for (let i = 0; i < line.length; i++) {
    if (line[i] === '"') quoted = !quoted
    else if (line[i] === '#' && !quoted) return i
  }
  return -1
}

/** An offset on a line, set back to before the line's comment and the spaces before that. */
export function codeEnd(text: string, at: number): number {
  const start = lineStart(text, at)
  const hash = commentAt(text.slice(start, lineEnd(text, at)))
  const end = hash === -1 ? at : Math.min(at, start + hash)
  return start + text.slice(start, end).trimEnd().length
}
