import { idOf, notFound } from '../../../utils/request'
import { useStore } from '../../../utils/store'

export default defineEventHandler(async (event) => {
  if (!await (await useStore()).projects.restore(idOf(event))) throw notFound()
  return { deleted: false }
})
