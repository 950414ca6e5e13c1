import { answer, idOf, notFound, revisionOf } from '../../../../utils/request'

/** A revision's program and documents. */
export default answer(async (event, { projects }) => {
  const found = await projects.revision(idOf(event), revisionOf(event))
  if (found === null) throw notFound('revision')
  return found
})
