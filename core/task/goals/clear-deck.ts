import { object } from 'yup'
import { text } from '../../document'
import { openGoal, settle, defineGoal, tally } from './goal'
import { FAR_OFF, onDeckBy } from './places'

const schema = object({ kind: text().required() })

/** A piece whose centre is this far below the deck has gone overboard, metres. */
const OVERBOARD = -0.03

/** Every piece of a kind is off the deck. */
export const clearDeck = defineGoal({
  goal: 'clear-deck',
  summary: 'every piece of a kind off the deck',
  schema,
  sentence: p => `every ${p.kind} off the deck`,
  about: p => [p.kind],
  begin: openGoal,
  update(p, state, world) {
    let all = 0
    let off = 0
    for (const piece of world.pieces) {
      if (piece.kind !== p.kind) continue
      all++
      if (piece.solid.pz < OVERBOARD || !world.onDeck(piece.solid.px, piece.solid.py)) off++
    }
    state.progress = tally(off, all)
    if (off === all) settle(state, 'met', world.time)
  },
  margin: {
    counts: () => 'last', unit: 'm', much: () => FAR_OFF,
    now(p, _state, { pieces, onDeck }) {
      const left = pieces.filter(x => x.kind === p.kind && x.solid.pz >= OVERBOARD && onDeck(x.solid.px, x.solid.py))
      // Met says enough: what is overboard may lie anywhere.
      return left.length === 0 ? null : -Math.max(...left.map(({ solid }) => onDeckBy(onDeck, solid.px, solid.py)))
    },
  },
})
