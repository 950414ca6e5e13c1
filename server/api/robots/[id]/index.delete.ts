import { answer, idOf, notFound } from '../../../utils/request'

/** Puts a kept robot away; `restore` brings it back. No project loses its copy. */
export default answer(async (event, { robots }) => {
  if (!await robots.remove(idOf(event))) throw notFound('robot')
  return { deleted: true }
})
