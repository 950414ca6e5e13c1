import { object } from 'yup'
import { text } from '../../document'
import { count, countsFields, countsWords, marginCounts, openGoal, defineGoal } from './goal'
import { FAR_OFF, areaOf, lastWithin } from './places'

const schema = object({ area: text().required(), kind: text().default(''), ...countsFields('at the end', 0.5) })

/** No piece, or none of a kind, is in an area. */
export const emptyArea = defineGoal({
  goal: 'empty-area',
  summary: 'nothing left in an area',
  schema,
  sentence: p => `no ${p.kind === '' ? 'piece' : p.kind} in ${p.area}${countsWords(p)}`,
  about: p => p.kind === '' ? [] : [p.kind],
  places: p => [p.area],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    const area = areaOf(world.arena, p.area)
    let inside = 0
    for (const { kind, name, solid } of world.pieces) {
      if ((p.kind === '' || kind === p.kind || name === p.kind) && area?.holds(solid.px, solid.py, solid.pz) === true) inside++
    }
    state.progress = inside === 0 ? 'empty' : `${inside} left`
    count(state, p, inside === 0, world.time)
  },
  margin: {
    counts: marginCounts, unit: 'm', much: () => FAR_OFF,
    now(p, _state, world) {
      const area = areaOf(world.arena, p.area)
      const all = world.pieces.filter(x => p.kind === '' || x.kind === p.kind || x.name === p.kind)
      return area === null ? null : lastWithin(all.map(({ solid }) => -area.within(solid.px, solid.py)), all.length)
    },
  },
})
