import { idOf, notFound } from '../../../utils/request'
import { useStore } from '../../../utils/store'

/** Puts a kept robot away; `restore` brings it back. No project loses its copy. */
export default defineEventHandler(async (event) => {
  if (!await (await useStore()).robots.remove(idOf(event))) throw notFound('robot')
  return { deleted: true }
})
