import { answer, idOf, notFound } from '../../../utils/request'

export default answer(async (event, { robots }) => {
  if (!await robots.restore(idOf(event))) throw notFound('robot')
  return { deleted: false }
})
