import { answer, idOf, notFound } from '../../../utils/request'

/** What is kept of a project, the newest first; no texts. */
export default answer(async (event, { projects }) => {
  const all = await projects.revisions(idOf(event))
  if (all === null) throw notFound()
  return all
})
