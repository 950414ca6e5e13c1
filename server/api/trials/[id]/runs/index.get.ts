import { createError, getQuery } from 'h3'
import { answer, idOf } from '../../../../utils/request'

/** What came of a plan's runs after a mark (`?after=`, 0 for all), and the mark after those. */
export default answer((event, { trials }) => {
  const after = Number(getQuery(event)['after'] ?? 0)
  if (!Number.isSafeInteger(after) || after < 0) throw createError({ statusCode: 400, statusMessage: 'after is a mark, a whole number from 0' })
  return trials.answers(idOf(event), after)
})
