import { answer, idOf, notFound } from '../../../utils/request'

/** Puts a project away; `restore` brings it back. */
export default answer(async (event, { projects }) => {
  if (!await projects.remove(idOf(event))) throw notFound()
  return { deleted: true }
})
