import { log } from '../utils/log'
import { StoreTrouble } from '../database/trouble'
import { closeStore, useStore } from '../utils/store'
import { endStreams } from '../utils/streams'
import { closeTrials, useTrials } from '../utils/trials'

/** Ends with this status when the folder is another server's: there is nothing that this one could do. */
const IN_USE = 2

/** Opens the database when the server starts, goes on with trials that were under way, and closes both when it ends. Trouble is told; requests try again. */
export default defineNitroPlugin((nitro) => {
  useStore().then(useTrials).catch((error: unknown) => {
    log.error(error instanceof Error ? error.message : String(error))
    if (error instanceof StoreTrouble && error.kind === 'in-use') process.exit(IN_USE)
  })
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, endStreams)
  nitro.hooks.hook('close', async () => {
    await closeTrials()
    await closeStore()
  })
})
