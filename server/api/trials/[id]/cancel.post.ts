import { answer, idOf } from '../../../utils/request'
import { useTrials } from '../../../utils/trials'

/** Ends a plan at once; what it has done stays. */
export default answer(async (event, store) => {
  const id = idOf(event)
  return { id, cancelled: await (await useTrials(store)).cancel(id) }
})
