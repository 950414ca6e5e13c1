import type { Board } from '../hardware'
import type { Needs } from './arduino'

/** Bytes that a program's calls need on the stack while it runs (docs/hardware.md has what those of the demo projects do). */
export const CALLS = 300

/** What a program needs of something that a board has, in words, and whether there is enough of it. */
export interface Need { readonly says: string, readonly enough: boolean }

/** As far as that is known beforehand: memory and flash where they are, and the time that its looks take of a tick, both in seconds. */
export function needsOn(needs: Needs | null, board: Board, looks: number, tick: number): readonly Need[] {
  const need = (says: string, enough: boolean): Need => ({ says: enough ? says : `${says}: more than there is`, enough })
  const time = need(`time: looks take about ${(looks * 1000).toFixed(1)} ms of a tick of ${(tick * 1000).toFixed(0)} ms`, looks <= tick / 2)
  return needs === null ? [time] : [
    need(`memory: about ${needs.memory} of ${board.memory} bytes, and some ${CALLS} for its calls`, needs.memory + CALLS <= board.memory),
    need(`flash: about ${needs.flash} of ${board.flash} bytes, give or take a tenth`, needs.flash <= board.flash),
    time,
  ]
}
