import { answer, idOf } from '../../../../utils/request'
import { TRIAL_THREADS, useTrials } from '../../../../utils/trials'

/** The trial plans of a project, the newest first; how many threads do them, and how much simulated time they do a second, s/s (null before anything was done); why nothing can be done at present (null while all is well). */
export default answer(async (event, store) => {
  const engine = await useTrials(store)
  const plans = await store.trials.list(idOf(event))
  return { plans: plans.map(p => ({ ...p, progress: engine.progressOf(p.id) })), threads: TRIAL_THREADS, pace: engine.pace, trouble: engine.trouble }
})
