import { object, type Schema } from 'yup'
import { plainNumber } from '../../../core/document'
import { LEAST_BUDGET, MOST_BUDGET } from '../../../core/runs'
import { answer, readBodyOf } from '../../utils/request'

const schema = object({ megabytes: plainNumber().integer().min(LEAST_BUDGET).max(MOST_BUDGET).required() }).noUnknown() as Schema<{ megabytes: number }>

/** How much room all runs of all projects may take; the oldest without star and name go at once where they take more. */
export default answer(async (event, { runs }) => {
  const { megabytes } = await readBodyOf(event, schema)
  await runs.setBudget(megabytes)
  return { megabytes }
})
