import { idOf, notFound } from '../../../utils/request'
import { useStore } from '../../../utils/store'

export default defineEventHandler(async (event) => {
  if (!await (await useStore()).robots.restore(idOf(event))) throw notFound('robot')
  return { deleted: false }
})
