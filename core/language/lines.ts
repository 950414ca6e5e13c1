import type { Findings } from './diagnostics'
import type { SourceLine } from './lexer'
import { say } from './wording'

/** A logical line with the lines indented under it. */
export interface LineTree {
  readonly line: SourceLine
  readonly under: readonly LineTree[]
}

/** How deep blocks may stand in one another; deeper ones are read as if at this depth. */
const MAX_DEPTH = 60

/** Groups lines by indentation. A line set back to no earlier level joins the nearest one, and is reported. */
export function nestLines(lines: readonly SourceLine[], findings: Findings): readonly LineTree[] {
  const roots: { line: SourceLine, under: LineTree[] }[] = []
  const stack: { indent: number, list: LineTree[] }[] = [{ indent: 0, list: roots }]
  let last: { line: SourceLine, under: LineTree[] } | null = null
  for (const line of lines) {
    const top = stack.at(-1)!
    if (last === null && line.indent > 0) {
      findings.error(say.indentedAtTop(), { from: line.range.from, to: line.range.to }, {
        title: 'Move to the margin', from: line.range.from - line.indent, to: line.range.from, text: '',
      })
    } else if (last !== null && line.indent > top.indent && stack.length < MAX_DEPTH) {
      stack.push({ indent: line.indent, list: last.under as LineTree[] })
    } else {
      while (stack.length > 1 && line.indent < stack.at(-1)!.indent) stack.pop()
      const level = stack.at(-1)!.indent
      if (line.indent !== level && stack.length < MAX_DEPTH) {
        findings.error(say.indentBetween(line.indent, level), { from: line.range.from, to: line.range.to }, {
          title: `Indent by ${level} spaces`, from: line.range.from - line.indent, to: line.range.from, text: ' '.repeat(level),
        })
      }
    }
    const node = { line, under: [] as LineTree[] }
    stack.at(-1)!.list.push(node)
    last = node
  }
  return roots
}
