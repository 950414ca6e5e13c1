import { idOf, notFound } from '../../../utils/request'
import { useStore } from '../../../utils/store'

/** Puts a project away; `restore` brings it back. */
export default defineEventHandler(async (event) => {
  if (!await (await useStore()).projects.remove(idOf(event))) throw notFound()
  return { deleted: true }
})
