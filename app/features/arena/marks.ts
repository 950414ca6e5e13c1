import type { Layout } from '~~/core/arena'
import type { Goal } from '~~/core/task'
import { cornersOf, type Point } from './things'

/** A goal on the plan: where its words stand, a ring or an outline. Metres. */
export interface GoalMark {
  readonly key: string
  readonly words: string
  readonly at: Point
  readonly radius: number | null
  readonly path: readonly Point[]
  readonly closed: boolean
}

/** Where the goals of a task lie in an arena as a seed lays it out: each with its number. Goals about no place have no mark. */
export function goalMarks(goals: readonly Goal[], layout: Layout): readonly GoalMark[] {
  return goals.flatMap((goal, i): readonly GoalMark[] => {
    const words = `${i + 1}`
    const p = goal.parameters as { area?: string, line?: string, of?: string, to?: string, distance?: number, within?: number }
    const { arena } = layout
    if (p.line !== undefined) {
      const line = arena.lines.find(l => l.name === p.line)
      return line === undefined ? [] : [{ key: `${i} line`, words, at: line.points.at(-1)!, radius: null, path: line.points, closed: false }]
    }
    if (p.area !== undefined) {
      const boxes = [...arena.areas.filter(a => a.name === p.area), ...arena.crates.filter(c => c.name === p.area), ...arena.patches.filter(x => x.color === p.area)]
      return boxes.map((b, k) => ({ key: `${i} area ${k}`, words, at: b.at, radius: null, closed: true, path: boxAround(b.at, b.size[0], b.size[1], 'turn' in b ? b.turn : 0) }))
    }
    const about = p.of ?? p.to
    if (about !== undefined) {
      const away = p.distance ?? p.within ?? 0
      const pieces = layout.pieces.filter(x => x.fed === null && (x.name === about || x.kind === about)).map(x => x.body.shape === 'box'
        ? { at: x.at, radius: null, path: boxAround(x.at, x.body.length + 2 * away, x.body.width + 2 * away, x.turn) }
        : { at: x.at, radius: x.body.diameter / 2 + away, path: [] })
      const visitors = arena.visitors.filter(v => v.name === about || v.kind === about).map(v => ({ at: v.path[0]!, radius: v.diameter / 2 + away, path: [] }))
      return [...pieces, ...visitors].map((m, k) => ({ key: `${i} thing ${k}`, words, at: m.at, radius: m.radius, path: m.path, closed: true }))
    }
    return []
  })
}

const boxAround = (at: Point, long: number, wide: number, turn: number): readonly Point[] => cornersOf({ shape: 'box', at, size: [long, wide], turn })
