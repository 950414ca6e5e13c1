import { closePool } from '../utils/run-pool'

/** Ends the worker threads with the server. */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('close', closePool)
})
