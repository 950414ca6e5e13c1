import { object } from 'yup'
import { plainNumber, text } from '../../document'
import { count, countsFields, countsWords, marginCounts, openGoal, defineGoal, manyOf, tally } from './goal'
import { FAR_OFF, areaOf, lastWithin, slow } from './places'

const schema = object({
  kind: text().required(),
  area: text().required(),
  /** How many are needed; all when left out. */
  count: plainNumber().integer().min(1).max(1000),
  ...countsFields('at the end', 0.5),
})

/** Pieces of a kind (or one by its name) lie in an area or a crate, let go and at rest. */
export const inArea = defineGoal({
  goal: 'in-area',
  summary: 'pieces in an area, a crate or on paint',
  schema,
  sentence: p => `${manyOf(p.count, p.kind)} in ${p.area}${countsWords(p)}`,
  about: p => [p.kind],
  places: p => [p.area],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    if (state.status === 'met' || state.status === 'failed') return
    const area = areaOf(world.arena, p.area)
    let all = 0
    let inside = 0
    for (const { kind, name, solid } of world.pieces) {
      if (kind !== p.kind && name !== p.kind) continue
      all++
      if (area !== null && area.holds(solid.px, solid.py, solid.pz) && !world.holds(name)) inside++
    }
    const wanted = p.count ?? all
    state.progress = tally(inside, wanted)
    count(state, p, inside >= wanted && wanted > 0 && slow(world), world.time)
  },
  margin: {
    counts: marginCounts, unit: 'm', much: () => FAR_OFF,
    now(p, _state, world) {
      const area = areaOf(world.arena, p.area)
      const all = world.pieces.filter(x => x.kind === p.kind || x.name === p.kind)
      return area === null ? null : lastWithin(all.map(({ solid }) => area.within(solid.px, solid.py)), p.count ?? all.length)
    },
  },
})
