import type { Tree } from '../language'
import { stepLists } from './places'

/** A mode as a place on a map. `name` '' stands for every mode of its lane. */
export interface MapMode { readonly lane: string, readonly name: string, readonly line: number }
/** A way between two modes of a lane: the rules that go there, as their lines. */
export interface MapWay { readonly lane: string, readonly from: string, readonly to: string, readonly lines: readonly number[] }
export interface ModeMap { readonly modes: readonly MapMode[], readonly ways: readonly MapWay[] }

/** Modes and the ways between them; ways through routines count as those of the rules that do them. */
export function modeMap(tree: Tree.Program, lineOf: (offset: number) => number): ModeMap {
  const routines = new Map(tree.items.flatMap(i => i.tag === 'routine' ? [[i.name.text, i.body] as const] : []))
  const modes: MapMode[] = []
  const ways = new Map<string, { lane: string, from: string, to: string, lines: number[] }>()
  const way = (lane: string, from: string, to: string, line: number): void => {
    const key = `${lane}\n${from}\n${to}`
    const known = ways.get(key)
    if (known === undefined) ways.set(key, { lane, from, to, lines: [line] })
    else if (!known.lines.includes(line)) known.lines.push(line)
  }
  const goes = (body: Tree.Block, seen = new Set<string>()): string[] => [...blocksIn(body)].flatMap(b => b.steps).flatMap((s) => {
    if (s.tag === 'go') return s.off ? [] : [s.mode.text]
    if (s.tag !== 'do' || s.off || seen.has(s.routine.text)) return []
    // Each routine is gone through once, also where they do one another many times over.
    seen.add(s.routine.text)
    const inner = routines.get(s.routine.text)
    return inner === undefined ? [] : goes(inner, seen)
  })
  const rules = (lane: string, from: string, items: readonly Tree.Item[]): void => {
    for (const item of items) {
      if ((item.tag !== 'rule' && item.tag !== 'start') || (item.tag === 'rule' && item.off)) continue
      for (const to of goes(item.body)) way(lane, from, to, lineOf(item.range.from))
    }
  }
  const lane = (name: string, items: readonly Tree.Item[]): void => {
    const own = items.filter(i => i.tag === 'mode')
    if (own.length === 0) return
    rules(name, '', items)
    for (const m of own) {
      modes.push({ lane: name, name: m.name.text, line: lineOf(m.range.from) })
      rules(name, m.name.text, m.items)
    }
    const above = items.find(i => i.tag === 'rule' || i.tag === 'start')
    if ([...ways.values()].some(w => w.lane === name && w.from === '') && above !== undefined) modes.push({ lane: name, name: '', line: lineOf(above.range.from) })
  }
  lane('', tree.items)
  for (const item of tree.items) if (item.tag === 'lane') lane(item.name.text, item.items)
  return { modes, ways: [...ways.values()].filter(w => modes.some(m => m.lane === w.lane && m.name === w.to)) }
}

/** A block and all within it. */
function* blocksIn(body: Tree.Block): Generator<Tree.Block> {
  const item = { tag: 'start', body, range: { from: 0, to: 0 }, trivia: { above: [], behind: null, gap: false } } as const
  for (const list of stepLists({ tag: 'program', items: [item], tail: [], range: { from: 0, to: 0 } })) yield list.body
}
