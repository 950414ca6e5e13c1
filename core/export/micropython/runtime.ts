import lanes from './lanes.py?raw'
import motions from './motions.py?raw'
import texts from './texts.py?raw'
import values from './values.py?raw'

/**
 * The runtime of exported programs, in pieces: one for each name that it defines at its outermost level, in the order in which
 * they stand. A program is given those only that it comes to.
 */
interface Piece { readonly names: readonly string[], readonly text: string, readonly uses: ReadonlySet<string> }

const PARTS = [lanes, values, motions, texts]

const WORD = /[A-Za-z_]\w*/g

let pieces: readonly Piece[] | null = null

function allPieces(): readonly Piece[] {
  pieces ??= PARTS.flatMap((part) => {
    // A piece begins at the margin, with the remarks right above it.
    const found: Piece[] = []
    for (const block of part.split(/\n{2,}(?=\S)/)) {
      const text = block.trimEnd()
      const code = text.split('\n').filter(line => !line.trimStart().startsWith('#')).join('\n')
      const names = [...code.matchAll(/^(?:(?:def|class) (\w+)|(\w+(?:, \w+)*) = )/gm)].flatMap(m => (m[1] ?? m[2]!).split(', '))
      found.push({ names, text, uses: new Set(code.match(WORD) ?? []) })
    }
    return found
  })
  return pieces
}

/** Names that the runtime defines: a program may not take them for its own. */
export function runtimeNames(): readonly string[] { return allPieces().flatMap(p => p.names) }

/** The runtime with all that a program comes to, by the words that stand in it; `heading` stands above. */
export function runtimeFor(program: string, heading: string): string {
  const all = allPieces()
  const of = new Map(all.flatMap(p => p.names.map((name): [string, Piece] => [name, p])))
  const wanted = new Set<Piece>()
  const reach = (words: Iterable<string>): void => {
    for (const word of words) {
      const piece = of.get(word)
      if (piece === undefined || wanted.has(piece)) continue
      wanted.add(piece)
      reach(piece.uses)
    }
  }
  reach(program.match(WORD) ?? [])
  return `${heading}import math\n\n\n${all.filter(p => wanted.has(p)).map(p => p.text).join('\n\n\n')}\n`
}
