import type { Board } from '../hardware'
import type { Cycles } from './arduino/time'

/** What a language's files take of a board, as far as that is known without running them. */
export interface Takes {
  /** Bytes of memory that stand all the time, and those that are wanted besides at times: for calls, or while it starts. */
  readonly memory: number
  readonly besides: number
  /** What the latter are for. */
  readonly why: string
  /** Bytes of flash; null where files are no matter there. */
  readonly flash: number | null
  /** Clock cycles of a tick that the program itself takes; null where that is not known. */
  readonly cycles: Cycles | null
}

/** What a program needs of something that a board has, in words, and whether there is enough of it. */
export interface Need { readonly says: string, readonly enough: boolean }

/** What it takes against what the board has. `looks`: seconds of a tick that its looks take; `tick`: seconds. */
export function needsOn({ memory, besides, why, flash, cycles }: Takes, board: Board, looks: number, tick: number): readonly Need[] {
  const need = (says: string, enough: boolean): Need => ({ says: enough ? says : `${says}: more than there is`, enough })
  const ms = (seconds: number): string => (seconds * 1000).toFixed(1)
  const seconds = (of: number): number => of / board.clock
  // What is not known may take half of it.
  const left = cycles === null ? tick / 2 : tick - seconds(cycles.longest)
  const reckons = cycles === null ? '' : `, the program itself about ${ms(seconds(cycles.usual))} ms, and ${ms(seconds(cycles.longest))} ms when much begins at once`
  return [
    need(`memory: about ${memory} of ${board.room} bytes, and some ${besides} ${why}`, memory + besides <= board.room),
    ...flash === null ? [] : [need(`flash: about ${flash} of ${board.flash} bytes, give or take a tenth`, flash <= board.flash)],
    need(`time: looks take about ${ms(looks)} ms of a tick of ${(tick * 1000).toFixed(0)} ms${reckons}`, looks <= left),
  ]
}
