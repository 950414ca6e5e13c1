/** A run of a program as the guide sees it. */
export interface RunSeen {
  readonly project: string
  readonly text: string
  /** Its rules as they are written, the most urgent first, without what spacing does. */
  readonly rules: readonly string[]
  /** Devices whose readings its conditions ask for. */
  readonly senses: readonly string[]
  readonly lanes: number
  /** Simulated seconds so far. */
  readonly seconds: number
  /** How many modes the lane that went through most of them was in. */
  readonly modes: number
}

/** What somebody did so far: their runs, the newest last, and what they did by hand. */
export interface Seen {
  readonly runs: readonly RunSeen[]
  /** How far the robot went in somebody's hands, metres. */
  readonly handled: number
  /** Whether they asked why. */
  readonly asked: boolean
}

export interface GuideStep {
  readonly id: string
  readonly title: string
  /** What to do and what to look for; keys and pieces of programs stand in `backticks`. */
  readonly says: readonly string[]
  /** The demo project that it is shown on. */
  readonly demo: string
  done(seen: Seen): boolean
}

/** A run counts from here on, simulated seconds. */
const A_WHILE = 1
const last = ({ runs }: Seen): RunSeen | undefined => runs.at(-1)
const longEnough = (run: RunSeen | undefined): run is RunSeen => run !== undefined && run.seconds >= A_WHILE
/** The run before the newest one of the same project. */
const before = ({ runs }: Seen): RunSeen | undefined => runs.slice(0, -1).findLast(r => r.project === runs.at(-1)?.project)
/** Whether the newest run has more of something than the one before, of the same project. */
function grew(seen: Seen, count: (run: RunSeen) => number, from: number): boolean {
  const [now, then] = [last(seen), before(seen)]
  return longEnough(now) && then !== undefined && count(now) >= from && count(now) > count(then)
}
const withoutNumbers = (text: string): string => text.replaceAll(/\d+(\.\d+)?/g, '0')

/** The work in its order; each is done by what somebody really did. */
export const GUIDE: readonly GuideStep[] = [
  {
    id: 'hands', title: 'Look before you write', demo: 'Kiss the fender',
    says: ['Press `H`: no program runs, the robot is in your hands. Drive with the arrow keys up to something and watch `sonar` in Sense.', 'At which number should it stop? Remember it.'],
    done: seen => seen.handled >= 0.2,
  },
  {
    id: 'smallest', title: 'The smallest program', demo: 'Kiss the fender',
    says: ['Go to the list of projects with `‹`, press `N`, then `Enter`: a project with an empty program. Take “Drive, and stop when something is there”.', 'Run it with `Ctrl Enter`. The rule in control is lit.'],
    done: (seen) => { const run = last(seen); return longEnough(run) && run.rules.length >= 1 && run.rules.length <= 3 && run.senses.length === 1 },
  },
  {
    id: 'tune', title: 'Tune a threshold', demo: 'Kiss the fender',
    says: ['Change the number in the condition, or the speed, and run again. In Rules a number is nudged with `↑` and `↓`.', 'The dashed line on the trace in Sense is your threshold.'],
    done: (seen) => { const [now, then] = [last(seen), before(seen)]; return longEnough(now) && then !== undefined && now.text !== then.text && withoutNumbers(now.text) === withoutNumbers(then.text) },
  },
  {
    id: 'sense', title: 'Add a sense', demo: 'Night rounds',
    says: ['A sonar misses thin things; a bumper does not. Add a rule that asks another device: `when bumper_left.pressed -> drive -10 cm`. Clicking a name in Sense puts it where the caret is.', 'Run it, and drag something in its way.'],
    done: seen => grew(seen, r => r.senses.length, 2),
  },
  {
    id: 'urgency', title: 'Order by urgency', demo: 'Night rounds',
    says: ['The rule that stands higher wins. Move one up or down: in Rules with `Alt ↑` and `Alt ↓`. Run again.', 'A rule that wants control but is outranked shows `◐`.'],
    done: (seen) => { const [now, then] = [last(seen), before(seen)]; return longEnough(now) && then !== undefined && now.rules.length > 1 && now.rules.join('\n') !== then.rules.join('\n') && [...now.rules].sort().join('\n') === [...then.rules].sort().join('\n') },
  },
  {
    id: 'why', title: 'Ask why', demo: 'Night rounds',
    says: ['Something surprised you? Drag along the Tape back to that instant and press `W`: which rule, which readings, and why not the others.'],
    done: seen => seen.asked,
  },
  {
    id: 'modes', title: 'Two modes', demo: 'Night rounds',
    says: ['What it does depends on what went before? Give the program two modes: `mode rounds` with the rules that there are, and `mode rest`; after a bump `go rest`, and there `wait 2 s`, then `go rounds`.', 'Run until it was in both. The Map shows the ways between them.'],
    done: seen => grew(seen, r => r.modes, 2),
  },
  {
    id: 'lane', title: 'A second lane', demo: 'Night rounds',
    says: ['What runs beside the rest has a lane of its own: under `lane lights` a lamp may follow the mood while the wheels do their work. Add one and run.', 'The Tape shows a band for each.'],
    done: seen => grew(seen, r => r.lanes, 2),
  },
]
