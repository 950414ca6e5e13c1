import { useStore } from '../utils/store'

/** Whether the server is up, and what a user has to know of its start. */
export default defineEventHandler(async () => {
  const { damaged } = await useStore()
  return { up: true, damaged }
})
