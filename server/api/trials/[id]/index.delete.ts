import { answer, idOf, notFound } from '../../../utils/request'
import { useTrials } from '../../../utils/trials'

/** Puts a plan away; it is cancelled where it was under way. */
export default answer(async (event, store) => {
  const id = idOf(event)
  await (await useTrials(store)).cancel(id)
  if (!await store.trials.remove(id)) throw notFound('plan')
  return { id }
})
