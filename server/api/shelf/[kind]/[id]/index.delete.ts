import { answer, idOf, kindOf, notFound } from '../../../../utils/request'

/** Puts a kept document away; `restore` brings it back. No project loses its copy. */
export default answer(async (event, { shelf }) => {
  const kind = kindOf(event)
  if (!await shelf.remove(kind, idOf(event))) throw notFound(kind)
  return { deleted: true }
})
