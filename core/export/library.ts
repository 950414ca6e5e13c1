/**
 * The runtime of exported programs, in pieces: one for each block at the margin, in the order in which they stand. A program is given
 * those only that it comes to.
 */
interface Piece { readonly names: readonly string[], readonly text: string, readonly uses: ReadonlySet<string> }

const WORD = /[A-Za-z_]\w*/g

/** How a language is taken apart. */
export interface Grammar {
  /** What a block defines, of its text without remarks. */
  names(code: string): readonly string[]
  /** What a remark begins with. */
  readonly remark: string
  /** What stands between blocks. */
  readonly between: string
}

/** Code without its remarks: what stands behind their sign in a text is none. */
export const withoutRemarks = (code: string, sign: string): string => code.split('\n').map((line) => {
  const at = withoutTexts(line).search(new RegExp(`(^|\\s)${sign} `))
  return (at === -1 ? line : line.slice(0, at)).trimEnd()
}).join('\n')

/** Code without its remarks, and spaces in its texts: what stands in either names nothing. */
export const bare = (code: string, sign: string): string => withoutTexts(withoutRemarks(code, sign))

const withoutTexts = (code: string): string => code.replace(/"(?:[^"\\\n]|\\.)*"/g, text => `"${' '.repeat(text.length - 2)}"`)

/** What may be drawn on: blocks with empty lines between, each with the remarks right above it. */
export class Library {
  private readonly pieces: readonly Piece[]
  private readonly of: ReadonlyMap<string, readonly Piece[]>

  constructor(parts: readonly string[], private readonly grammar: Grammar) {
    this.pieces = parts.flatMap(part => part.split(/\n{2,}(?=\S)/).map((block): Piece => {
      const text = block.trimEnd()
      const code = this.code(text)
      return { names: grammar.names(code), text, uses: new Set(code.match(WORD) ?? []) }
    }))
    const of = new Map<string, Piece[]>()
    for (const p of this.pieces) for (const name of p.names) of.set(name, [...of.get(name) ?? [], p])
    this.of = of
  }

  get names(): readonly string[] { return [...this.of.keys()] }

  /** The pieces that some code comes to, by the words that stand in it. */
  for(code: string): string {
    const wanted = new Set<Piece>()
    const reach = (words: Iterable<string>): void => {
      for (const word of words) {
        for (const piece of this.of.get(word) ?? []) {
          if (wanted.has(piece)) continue
          wanted.add(piece)
          reach(piece.uses)
        }
      }
    }
    reach(this.code(code).match(WORD) ?? [])
    return this.pieces.filter(p => wanted.has(p)).map(p => p.text).join(this.grammar.between)
  }

  private code(text: string): string { return bare(text, this.grammar.remark) }
}
