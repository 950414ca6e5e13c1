import { answer, idOf, notFound } from '../../../utils/request'

/** Puts a run away; `restore` brings it back until its room is needed. */
export default answer(async (event, { runs }) => {
  if (!await runs.remove(idOf(event))) throw notFound('run')
  return { deleted: true }
})
