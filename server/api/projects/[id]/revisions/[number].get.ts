import { answer, idOf, notFound } from '../../../../utils/request'

/** A revision's program and robot. */
export default answer(async (event, { projects }) => {
  const text = event.context.params?.['number'] ?? ''
  const found = /^[1-9]\d{0,8}$/.test(text) ? await projects.revision(idOf(event), Number(text)) : null
  if (found === null) throw notFound('revision')
  return found
})
