import { useStore } from '../utils/store'

/** Opens the database when the server starts, and closes it when it ends. */
export default defineNitroPlugin((nitro) => {
  void useStore()
  nitro.hooks.hook('close', async () => (await useStore()).close())
})
