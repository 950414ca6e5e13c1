/**
 * What stands on a display: a picture, and texts on its lines. A controller keeps it as one text (`writeScreen`), so that it
 * is told on the tape whenever it changes: lines from the top, joined by line ends; large letters begin with one sign of
 * control, the name of a picture with another. Texts of programs hold neither.
 */
export interface Screen {
  /** Name of a picture that the robot keeps; null where there is none. */
  readonly picture: string | null
  /** From the top; what stands on a line, null where nothing does. */
  readonly lines: readonly (ScreenLine | null)[]
}
export interface ScreenLine { readonly text: string, readonly large: boolean }

/** Pixels of a small letter with the room about it; large ones are twice as wide and high. */
export const LETTER = { width: 6, height: 8 } as const

/** How many small letters go on a line, and how many lines: a display's settings. */
export interface ScreenSize { readonly columns: number, readonly lines: number }

const LARGE = '\u0001'
const PICTURE = '\u0002'

export function readScreen(kept: string): Screen {
  const parts = kept === '' ? [] : kept.split('\n')
  const picture = parts[0]?.startsWith(PICTURE) === true ? parts.shift()!.slice(1) : null
  return {
    picture,
    lines: parts.map(part => part === '' ? null : part.startsWith(LARGE) ? { text: part.slice(1), large: true } : { text: part, large: false }),
  }
}

/** '' for an empty display. */
export function writeScreen({ picture, lines }: Screen): string {
  const last = lines.findLastIndex(line => line !== null)
  const parts = lines.slice(0, last + 1).map(line => line === null ? '' : `${line.large ? LARGE : ''}${line.text}`)
  return [...picture === null ? [] : [`${PICTURE}${picture}`], ...parts].join('\n')
}

/** What stands on a display, for lists of what happened: its picture's name and its lines. */
export function screenWords(kept: string): string {
  const { picture, lines } = readScreen(kept)
  return [...picture === null ? [] : [`picture ${picture}`], ...lines.flatMap(line => line === null ? [] : [line.text])].join(' / ')
}

/** A text over the whole display, broken between words; what has no room is left away. */
export function filled(text: string, large: boolean, size: ScreenSize): Screen {
  const columns = large ? Math.floor(size.columns / 2) : size.columns
  const rows: string[] = []
  for (const word of text.split(' ')) {
    const last = rows.at(-1)
    if (last !== undefined && last.length + 1 + word.length <= columns) rows[rows.length - 1] = `${last} ${word}`
    else for (let at = 0; at === 0 || at < word.length; at += columns) rows.push(word.slice(at, at + columns))
  }
  const line = (row: string): ScreenLine | null => row === '' ? null : { text: row, large }
  return { picture: null, lines: rows.flatMap(row => large ? [line(row), null] : [line(row)]).slice(0, size.lines) }
}

/** A text on one line (from 1); the others stay, but for those that it reaches into, and large letters that reached into it. */
export function lined(screen: Screen, at: number, text: string, large: boolean, size: ScreenSize): Screen {
  const lines = Array.from({ length: size.lines }, (_, i) => screen.lines[i] ?? null)
  const i = at - 1
  if (lines[i - 1]?.large === true) lines[i - 1] = null
  if (large && i + 1 < lines.length) lines[i + 1] = null
  const cut = text.slice(0, large ? Math.floor(size.columns / 2) : size.columns)
  lines[i] = cut === '' ? null : { text: cut, large }
  return { picture: screen.picture, lines }
}
