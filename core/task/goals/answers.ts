import { object } from 'yup'
import { nameText, plainNumber, quantity, text } from '../../document'
import { findUnit, formatQuantity } from '../../units'
import { defineGoal, gapBetween, openGoal, settle, tally } from './goal'

const schema = object({
  /** A device of the robot. */
  by: nameText().required(),
  to: text().required(),
  from: quantity('length', { min: 0, max: 10 }).default(0),
  within: quantity('length', { min: 0.01, max: 10 }).required(),
  times: plainNumber().integer().min(1).max(1000).default(1),
  /** How much farther something must be for an answer to be one to nothing. */
  slack: quantity('length', { min: 0, max: 5 }).default(0.2),
})

/** A device of the robot answers when something comes near, a number of times, and never when nothing is. */
export const answers = defineGoal({
  goal: 'answers',
  summary: 'a device acts when something is near',
  example: { within: '60 cm' },
  schema,
  sentence: p => `${p.by} acts ${p.times === 1 ? 'once' : `${p.times} times`} while ${p.to} is ${p.from > 0 ? `${cm(p.from)} to ${cm(p.within)}` : `within ${cm(p.within)}`} away, and never when it is beyond ${cm(p.within + p.slack)}`,
  about: p => [p.to],
  devices: p => [p.by],
  // How often it answered, and whether it is at work.
  begin: () => ({ ...openGoal(), memo: [0, 0] }),
  update(p, state, world) {
    if (state.status === 'failed') return
    const acts = world.acts(p.by)
    const begins = acts && state.memo[1] === 0
    state.memo[1] = acts ? 1 : 0
    if (begins) {
      const gap = Math.min(Infinity, ...[...world.visitors, ...world.pieces].filter(x => x.name === p.to || x.kind === p.to).map(x => gapBetween(world.hull, x.solid)))
      if (gap > p.within + p.slack) {
        state.progress = `${p.by} acted with nothing near`
        settle(state, 'failed', world.time)
        return
      }
      if (gap >= p.from && gap <= p.within) state.memo[0] = state.memo[0]! + 1
    }
    state.progress = tally(state.memo[0]!, p.times)
    // Done often enough it holds; one answer to nothing still breaks it.
    if (state.status === 'open' && state.memo[0]! >= p.times) state.status = 'held'
  },
  // An answer to nothing says nothing of how near it was to none.
  margin: { counts: () => 'last', unit: 'times', much: p => p.times, now: (p, state) => state.status === 'open' ? state.memo[0]! - p.times : null },
})

const cm = (x: number): string => formatQuantity(x, findUnit('cm')!)
