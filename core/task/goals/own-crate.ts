import { object } from 'yup'
import { plainNumber, text } from '../../document'
import { REFLECTS } from '../../colors'
import { count, countsFields, countsWords, marginCounts, openGoal, settle, defineGoal, manyOf, tally } from './goal'
import { FAR_OFF, areaOf, lastWithin } from './places'

const schema = object({ kind: text().required(), count: plainNumber().integer().min(1).max(1000), ...countsFields('once', 0) })

/** Each piece of a kind lies in the crate that is painted like it; one in another crate fails the goal. */
export const ownCrate = defineGoal({
  goal: 'own-crate',
  summary: 'each piece in the crate of its colour',
  schema,
  sentence: p => `${manyOf(p.count, p.kind)} in the crate of its colour${countsWords(p)}`,
  about: p => [p.kind],
  begin: () => ({ ...openGoal(), memo: [-1] }),
  update(p, state, world) {
    if (state.status === 'met' || state.status === 'failed') return
    let right = 0
    let all = 0
    for (const piece of world.pieces) {
      if (piece.kind !== p.kind) continue
      all++
      if (world.holds(piece.name)) continue
      for (const crate of world.arena.crates) {
        const { px, py, pz } = piece.solid
        if (areaOf(world.arena, crate.name)?.holds(px, py, pz) !== true) continue
        if (piece.solid.surface.paint === REFLECTS[crate.color]) right++
        else {
          state.progress = `${piece.name} in ${crate.name}`
          settle(state, 'failed', world.time)
          return
        }
      }
    }
    const wanted = p.count ?? all
    state.progress = tally(right, wanted)
    count(state, p, wanted > 0 && right >= wanted, world.time)
  },
  margin: {
    counts: marginCounts, unit: 'm', much: () => FAR_OFF,
    now(p, _state, { pieces, arena }) {
      const all = pieces.filter(piece => piece.kind === p.kind)
      // Each by the nearest crate of its colour; one that none has can be in none.
      const within = all.map(({ solid }) => Math.max(-Infinity, ...arena.crates.filter(crate => REFLECTS[crate.color] === solid.surface.paint).map(crate => areaOf(arena, crate.name)!.within(solid.px, solid.py))))
      const last = lastWithin(within, p.count ?? all.length)
      return last === -Infinity ? null : last
    },
  },
})
