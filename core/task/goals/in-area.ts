import { object } from 'yup'
import { plainNumber, quantity, text } from '../../document'
import { openGoal, settle, type GoalKind } from './goal'
import { areaOf, slow, type NamedArea } from './places'

const schema = object({
  kind: text().required(),
  area: text().required(),
  /** How many are needed; all when left out. */
  count: plainNumber().integer().min(1).max(1000),
  hold: quantity('time', { min: 0, max: 600 }).default(0.5),
})
interface Parameters { kind: string, area: string, count?: number, hold: number }

/** Pieces of a kind (or one by its name) lie in an area or a crate, let go and at rest. */
export const inArea: GoalKind<Parameters> = {
  goal: 'in-area',
  schema: schema as unknown as GoalKind<Parameters>['schema'],
  sentence: p => `${p.count === undefined ? 'every' : String(p.count)} ${p.kind} in ${p.area}`,
  about: p => [p.kind],
  places: p => [p.area],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    if (state.status !== 'open') return
    const area: NamedArea | null = areaOf(world.arena, p.area)
    const all = world.pieces.filter(x => x.kind === p.kind || x.name === p.kind)
    const wanted = p.count ?? all.length
    const inside = all.filter(x => area !== null && !world.holds(x.name) && area.holds(x.solid.px, x.solid.py, x.solid.pz)).length
    state.progress = `${inside} of ${wanted}`
    if (inside < wanted || wanted === 0 || !slow(world)) { state.memo[0] = -1; return }
    if (state.memo[0]! < 0) state.memo[0] = world.time
    if (world.time - state.memo[0]! >= p.hold - 1e-9) settle(state, 'met', world.time)
  },
}
