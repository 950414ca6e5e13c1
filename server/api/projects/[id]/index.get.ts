import { answer, idOf, notFound } from '../../../utils/request'

export default answer(async (event, { projects }) => {
  const project = await projects.find(idOf(event))
  if (project === null) throw notFound()
  return project
})
