import type { LineTree } from './lines'

/** Words that begin something at the margin of a program, lane or mode, and never a step. */
export const MARGIN_WORDS: readonly string[] = ['when', 'otherwise', 'start', 'mode', 'lane', 'routine', 'dial', 'program']
/** Those of them that stand in a mode. */
const IN_MODE: readonly string[] = ['when', 'otherwise', 'start']

/**
 * How far (spaces) a line that begins with a word of the margin has to be set in, below the lines above it (the nearest last): beside
 * the rule that it follows, or the mode, or at the very margin. null where it stands well already, or no such word begins it.
 */
export function marginFor(above: readonly string[], line: string): number | null {
  const [, spaces = '', word = ''] = /^( *)(?:off +)?([a-z]+)\b/.exec(line) ?? []
  if (!MARGIN_WORDS.includes(word)) return null
  const indent = spaces.length
  // Headings that the line stands under, from the innermost out.
  let within = indent
  for (let i = above.length - 1; i >= 0; i--) {
    const [, inset = '', head = ''] = /^( *)(?:off +)?([a-z]+)\b/.exec(above[i]!) ?? []
    if (head === '' || inset.length >= within) continue
    within = inset.length
    if (IN_MODE.includes(word) && (IN_MODE.includes(head) || head === 'routine')) return inset.length
    if (IN_MODE.includes(word) && (head === 'mode' || head === 'lane')) return null
    if (word === 'mode' && head === 'lane') return null
    if (word === 'mode' && head === 'mode') return inset.length
  }
  return IN_MODE.includes(word) || indent === 0 ? null : 0
}

/** The text of a line and of all under it, set out to an indentation, without spaces behind its lines. */
export function setOut(source: string, tree: LineTree, indent: number): { readonly from: number, readonly to: number, readonly text: string } {
  let last = tree
  while (last.under.length > 0) last = last.under.at(-1)!
  const from = tree.line.range.from - tree.line.indent
  const to = last.line.range.to
  const by = tree.line.indent - indent
  return { from, to, text: source.slice(from, to).split('\n').map(l => l.slice(Math.min(by, l.length - l.trimStart().length)).trimEnd()).join('\n') }
}
