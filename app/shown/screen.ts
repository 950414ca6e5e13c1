import { LETTER, readScreen, type ScreenSize } from '~~/core/devices'
import { dotsOf, type DeviceFacts, type RobotFacts } from '~~/core/robot'
import type { Tape } from '~~/core/tape'

/** What each display showed, in order of time: read once from a tape's events, and on as they come. */
interface Shows { seen: number, readonly byDisplay: Map<string, { readonly tick: number, readonly kept: string }[]> }
const known = new WeakMap<Tape, Shows>()

/** What stood on a display in a tick, as `core/devices/screen.ts` writes it; '' where nothing did. */
export function screenAt(tape: Tape, display: string, tick: number): string {
  let shows = known.get(tape)
  if (shows === undefined || shows.seen > tape.events.length) {
    shows = { seen: 0, byDisplay: new Map() }
    known.set(tape, shows)
  }
  for (; shows.seen < tape.events.length; shows.seen++) {
    const event = tape.events[shows.seen]!
    if (event.type !== 'show') continue
    const list = shows.byDisplay.get(event.about) ?? []
    list.push({ tick: event.tick, kept: event.text })
    shows.byDisplay.set(event.about, list)
  }
  return shows.byDisplay.get(display)?.findLast(s => s.tick <= tick)?.kept ?? ''
}

/** Page pixels that one dot takes where a display is drawn by itself. */
const DOT = 2

/** A display's glass, drawn dot for dot; it is drawn anew only when something else stands on it. */
export class Glass {
  readonly canvas: HTMLCanvasElement
  private drawn: string | null = null
  private readonly size: ScreenSize

  constructor(display: DeviceFacts, private readonly pictures: RobotFacts['pictures'], canvas: HTMLCanvasElement = document.createElement('canvas')) {
    this.size = display.parameters as ScreenSize
    this.canvas = canvas
    canvas.width = this.size.columns * LETTER.width * DOT
    canvas.height = this.size.lines * LETTER.height * DOT
  }

  /** Draws what stands on it; true when that is something new. `dark` and `lit` are colours. */
  show(kept: string, dark: string, lit: string): boolean {
    const wanted = `${dark}${lit}${kept}`
    if (wanted === this.drawn) return false
    this.drawn = wanted
    const ctx = this.canvas.getContext('2d')!
    const { width, height } = this.canvas
    ctx.fillStyle = dark
    ctx.fillRect(0, 0, width, height)
    ctx.fillStyle = lit
    const { picture, lines } = readScreen(kept)
    const shown = this.pictures.find(p => p.name === picture)
    const dots = shown === undefined ? null : dotsOf(shown)
    if (shown !== undefined && dots !== null) {
      const left = Math.round((width / DOT - shown.size[0]) / 2)
      const top = Math.round((height / DOT - shown.size[1]) / 2)
      dots.forEach((dot, i) => { if (dot === 1) ctx.fillRect((left + i % shown.size[0]) * DOT, (top + Math.floor(i / shown.size[0])) * DOT, DOT, DOT) })
    }
    ctx.textBaseline = 'middle'
    ctx.textAlign = 'center'
    lines.forEach((line, at) => {
      if (line === null) return
      const scale = line.large ? 2 * DOT : DOT
      // What is written over a picture stands on a strip of its own.
      ctx.fillStyle = dark
      if (picture !== null) ctx.fillRect(0, at * LETTER.height * DOT, line.text.length * LETTER.width * scale, LETTER.height * scale)
      ctx.fillStyle = lit
      ctx.font = `600 ${LETTER.height * scale * 1.05}px "Atkinson Hyperlegible Mono Variable", ui-monospace, monospace`
      for (const [i, letter] of Array.from(line.text).entries()) ctx.fillText(letter, (i + 0.5) * LETTER.width * scale, at * LETTER.height * DOT + LETTER.height * scale * 0.57, LETTER.width * scale)
    })
    return true
  }
}
