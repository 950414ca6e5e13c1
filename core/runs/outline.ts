import type { RunEnd, Simulation } from '../simulation'
import type { GoalState } from '../task'
import type { Compared } from './difference'
import { stuckIn, type Stuck } from './stuck'

/** What a run came to, in numbers: for a list of runs and to compare them. SI. */
export interface RunOutline {
  readonly ended: RunEnd['ended'] | 'left'
  readonly reason: string
  /** Seconds that it went on; of one that went on from another, the time of that counts. */
  readonly time: number
  readonly goals: readonly { readonly name: string, readonly status: GoalState['status'], readonly at: number | null, readonly progress: string }[]
  /** Metres that the robot's middle moved on the plan, and from where it began to where it ended. */
  readonly path: number
  readonly away: number
  /** How often it began to touch something, by what: the most frequent first. */
  readonly contacts: readonly { readonly what: string, readonly times: number }[]
  readonly falls: number
  /** How often another rule took over. */
  readonly takeovers: number
  /** How much of the time each rule had control, 0 to 1, in the order of the program; rules that never had it among them. */
  readonly rules: readonly { readonly lane: string, readonly mode: string, readonly urgency: number, readonly line: number, readonly share: number }[]
  /** When it got nowhere for a time. */
  readonly stuck: readonly Stuck[]
  readonly notes: number
  readonly pokes: number
}

/** How a run stands, as the referee has it. */
export interface Standing { readonly end: RunEnd | null, readonly goals: readonly { readonly name: string, readonly state: GoalState }[] }

export const standingOf = ({ end, goals, input }: Simulation): Standing => ({ end, goals: (input.task?.goals ?? []).map((goal, i) => ({ name: goal.sentence, state: { ...goals[i]!, memo: [] } })) })

/** Sums up a tape; of a run that was left before its end, as far as it came. */
export function outlineOf({ tape, facts, program }: Compared, { end, goals }: Standing): RunOutline {
  const { layout, events, first, rows } = tape
  const control = layout.laneNames.map((_, lane) => layout.lanes + 4 * lane + 2)
  const had = new Float64Array(layout.ruleCount)
  const before = control.map(() => -1)
  let [path, takeovers, x, y] = [0, 0, 0, 0]
  for (let tick = first; tick < rows; tick++) {
    const row = tape.at(tick)
    const [nx, ny] = [row[layout.body]!, row[layout.body + 1]!]
    if (tick > first) path += distance(nx - x, ny - y)
    ;[x, y] = [nx, ny]
    for (let lane = 0; lane < control.length; lane++) {
      const rule = row[control[lane]!]!
      if (rule < 0) continue
      had[rule]!++
      if (rule !== before[lane]) { if (before[lane] !== -1) takeovers++; before[lane] = rule }
    }
  }
  const begun = rows > first ? tape.at(first) : null
  const count = (type: string): number => events.filter(e => e.type === type).length
  const touched = new Map<string, number>()
  for (const e of events) if (e.type === 'contact') touched.set(kindOf(e.about), (touched.get(kindOf(e.about)) ?? 0) + 1)
  const ticks = Math.max(1, rows - first)
  return {
    ended: end?.ended ?? 'left', reason: end?.reason ?? 'it was left', time: end?.time ?? rows * layout.dt,
    goals: goals.map(({ name, state }) => ({ name, status: state.status, at: state.at, progress: state.progress })),
    path, away: begun === null ? 0 : distance(x - begun[layout.body]!, y - begun[layout.body + 1]!),
    contacts: [...touched].map(([what, times]) => ({ what, times })).sort((a, b) => b.times - a.times || a.what.localeCompare(b.what)),
    falls: count('fall'), takeovers,
    rules: (program?.rules ?? []).map((r, i) => ({ lane: program!.lanes[r.lane]?.name ?? '', mode: r.mode, urgency: r.urgency, line: r.line, share: had[i]! / ticks })),
    stuck: stuckIn(tape, facts), notes: count('note'), pokes: count('poke'),
  }
}

/** Seconds in which it got nowhere. */
export const stuckFor = ({ stuck }: RunOutline): number => stuck.reduce((sum, s) => sum + s.time, 0)

/** How many goals were met, and how often it touched anything. */
export const metIn = ({ goals }: RunOutline): number => goals.filter(g => g.status === 'met').length
export const touchesIn = ({ contacts }: RunOutline): number => contacts.reduce((sum, c) => sum + c.times, 0)

const distance = (dx: number, dy: number): number => Math.sqrt(dx * dx + dy * dy)

/** Pieces of a kind are told apart by a number behind their name. */
const kindOf = (name: string): string => name.replace(/[_:]\d+$/, '')
