import { answer, idOf, kindOf, notFound } from '../../../../utils/request'

export default answer(async (event, { shelf }) => {
  const kind = kindOf(event)
  if (!await shelf.restore(kind, idOf(event))) throw notFound(kind)
  return { deleted: false }
})
