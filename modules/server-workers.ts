import { defineNuxtModule } from 'nuxt/kit'
import { build } from 'esbuild'
import { resolve } from 'node:path'

/** Bundles `server/workers/*.worker.ts` beside the server's entry: the server's own build does not see them. */
export default defineNuxtModule({
  meta: { name: 'server-workers' },
  setup(_options, nuxt) {
    if (nuxt.options._prepare) return
    nuxt.hook('nitro:init', (nitro) => {
      nitro.hooks.hook('compiled', async () => {
        await build({
          entryPoints: [resolve(nuxt.options.rootDir, 'server/workers/run.worker.ts')],
          outfile: resolve(nitro.options.output.serverDir, 'run.worker.mjs'),
          bundle: true, platform: 'node', format: 'esm', target: 'node20', logLevel: 'warning',
        })
      })
    })
  },
})
