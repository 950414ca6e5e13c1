import { defineNuxtModule } from 'nuxt/kit'
import { build } from 'esbuild'
import { resolve } from 'node:path'

/** Threads of the server: its own, and those that do trials' jobs for it and for the command line. */
const WORKERS = { 'run.worker': 'server/workers/run.worker.ts', 'trials.worker': 'jobs/trials.worker.ts' }

/** Bundles them beside the server's entry: the server's own build does not see them. */
export default defineNuxtModule({
  meta: { name: 'server-workers' },
  setup(_options, nuxt) {
    if (nuxt.options._prepare) return
    nuxt.hook('nitro:init', (nitro) => {
      nitro.hooks.hook('compiled', async () => {
        await build({
          entryPoints: Object.entries(WORKERS).map(([out, path]) => ({ in: resolve(nuxt.options.rootDir, path), out })),
          outdir: nitro.options.output.serverDir, outExtension: { '.js': '.mjs' },
          bundle: true, platform: 'node', format: 'esm', target: 'node20', logLevel: 'warning',
        })
      })
    })
  },
})
