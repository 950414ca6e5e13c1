import { findUnit } from '../units'
import type { Range } from '../program'

/** The text that a program was made from: what an export takes over of it as it was written. */
export class Source {
  private readonly lines: readonly string[]

  constructor(private readonly text: string) {
    this.lines = text.split('\n')
  }

  /** How a number was written, where its unit is part of that: `35 cm` is 35 and cm. null where it came about otherwise. */
  written(value: number, range: Range | null): { readonly figure: string, readonly unit: string } | null {
    if (range === null) return null
    const match = /^(\d+(?:\.\d+)?)\s*(%|[A-Za-z][A-Za-z0-9/]*)$/.exec(this.text.slice(range.from, range.to))
    const unit = match === null ? undefined : findUnit(match[2]!)
    return unit !== undefined && Number(match![1]) * unit.scale === value ? { figure: match![1]!, unit: unit.name } : null
  }

  /** The line (from 1) that begins with these words; null where none does. */
  lineOf(...words: readonly string[]): number | null {
    const at = this.lines.findIndex(line => words.every((w, i) => line.trim().split(/\s+/)[i] === w))
    return at === -1 ? null : at + 1
  }

  /** A name as it was written in place of a number; null where something else stands there. */
  name(range: Range | null): string | null {
    const text = range === null ? '' : this.text.slice(range.from, range.to)
    return /^[A-Za-z_]\w*$/.test(text) ? text : null
  }

  /** The lines (from 1) that name something. */
  linesWith(name: string): readonly number[] {
    const word = new RegExp(`(?<![\\w.])${name}\\b`)
    return this.lines.flatMap((line, i) => word.test(withoutComment(line)) ? [i + 1] : [])
  }

  /** The line (from 1) in which a stretch begins. */
  lineAt(range: Range): number { return this.text.slice(0, range.from).split('\n').length }

  /** What stands there, in one line. */
  said(range: Range): string { return withoutComment(this.text.slice(range.from, range.to).split('\n')[0]!) }

  /** Its remarks, those on lines of their own above `line` (from 1) and that behind it; without their signs. */
  remarks(line: number): readonly string[] {
    const found: string[] = []
    const behind = commentIn(this.lines[line - 1] ?? '')
    if (behind !== null) found.push(behind)
    for (let above = line - 2; above >= 0; above--) {
      const text = this.lines[above]!.trim()
      if (!text.startsWith('#')) break
      found.unshift(text.slice(1).trim())
    }
    return found
  }
}

/** Where a remark begins in a line: a # outside of texts. -1 where none does. */
function commentAt(line: string): number {
  let within = false
  for (let i = 0; i < line.length; i++) {
    if (line[i] === '"') within = !within
    else if (line[i] === '#' && !within) return i
  }
  return -1
}
const withoutComment = (line: string): string => { const at = commentAt(line); return (at === -1 ? line : line.slice(0, at)).trim() }
const commentIn = (line: string): string | null => { const at = commentAt(line); return at === -1 ? null : line.slice(at + 1).trim() }
