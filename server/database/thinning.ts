/** A revision as thinning sees it: its number, when it was saved, and whether it stays whatever its age. */
export interface Aged { readonly number: number, readonly at: string, readonly stays: boolean }

const HOUR = 3600_000
const DAY = 24 * HOUR

/**
 * The revisions that may go, by their numbers: all of the last day stay, then the last of each hour for a week, then the last of
 * each day. `all` in order of their numbers; the newest stays always.
 */
export function thinned(all: readonly Aged[], now: Date): readonly number[] {
  const slots = new Set<string>()
  const gone: number[] = []
  for (const { number, at, stays } of [...all].reverse()) {
    const age = now.getTime() - Date.parse(at)
    const slot = age <= DAY ? null : age <= 7 * DAY ? `hour ${Math.floor(Date.parse(at) / HOUR)}` : `day ${Math.floor(Date.parse(at) / DAY)}`
    const taken = slot !== null && slots.has(slot)
    if (slot !== null) slots.add(slot)
    if (taken && !stays && number !== all.at(-1)!.number) gone.push(number)
  }
  return gone
}
