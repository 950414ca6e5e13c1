import { idOf, notFound } from '../../../utils/request'
import { useStore } from '../../../utils/store'

export default defineEventHandler(async (event) => {
  const project = await (await useStore()).projects.find(idOf(event))
  if (project === null) throw notFound()
  return project
})
