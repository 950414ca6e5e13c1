import { answer, idOf, notFound } from '../../../utils/request'

export default answer(async (event, { projects }) => {
  if (!await projects.restore(idOf(event))) throw notFound()
  return { deleted: false }
})
