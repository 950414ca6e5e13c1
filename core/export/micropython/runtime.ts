import board from './drivers/board.py?raw'
import motors from './drivers/motors.py?raw'
import senses from './drivers/senses.py?raw'
import signs from './drivers/signs.py?raw'
import lanes from './meaning/lanes.py?raw'
import motions from './meaning/motions.py?raw'
import steps from './meaning/steps.py?raw'
import texts from './meaning/texts.py?raw'
import values from './meaning/values.py?raw'

/**
 * The runtime of exported programs, in pieces: one for each name that it defines at its outermost level, in the order in which
 * they stand. A program is given those only that it comes to.
 */
interface Piece { readonly names: readonly string[], readonly text: string, readonly uses: ReadonlySet<string> }

const WORD = /[A-Za-z_]\w*/g

/** What may be drawn on, one piece for each name at the margin, with the remarks right above it. */
class Library {
  private readonly pieces: readonly Piece[]
  private readonly of: ReadonlyMap<string, Piece>

  constructor(parts: readonly string[]) {
    this.pieces = parts.flatMap(part => part.split(/\n{2,}(?=\S)/).map((block): Piece => {
      const text = block.trimEnd()
      const code = codeOf(text)
      const names = [...code.matchAll(/^(?:(?:def|class) (\w+)|(\w+(?:, \w+)*) = )/gm)].flatMap(m => (m[1] ?? m[2]!).split(', '))
      return { names, text, uses: new Set(code.match(WORD) ?? []) }
    }))
    this.of = new Map(this.pieces.flatMap(p => p.names.map((name): [string, Piece] => [name, p])))
  }

  get names(): readonly string[] { return [...this.of.keys()] }

  /** The pieces that some code comes to, by the words that stand in it. */
  for(code: string): string {
    const wanted = new Set<Piece>()
    const reach = (words: Iterable<string>): void => {
      for (const word of words) {
        const piece = this.of.get(word)
        if (piece === undefined || wanted.has(piece)) continue
        wanted.add(piece)
        reach(piece.uses)
      }
    }
    reach(codeOf(code).match(WORD) ?? [])
    return this.pieces.filter(p => wanted.has(p)).map(p => p.text).join('\n\n\n')
  }
}

/** Without its remarks. */
const codeOf = (text: string): string => text.split('\n').map(line => line.replace(/(^|\s)# .*$/, '')).join('\n')

let meaning: Library | null = null
let hardware: Library | null = null

/** What a program means. */
export const meaningLibrary = (): Library => meaning ??= new Library([lanes, steps, values, motions, texts])
/** How its parts are reached. */
export const driverLibrary = (): Library => hardware ??= new Library([board, senses, motors, signs])
