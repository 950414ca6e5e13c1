import { defineNuxtConfig } from 'nuxt/config'
import { controls } from './app/controls'
import { themes } from './app/theme'

/** Where the physics library's text of its code ends. */
const END = '").buffer'

/**
 * The physics library carries its code, four megabytes, as a text in its own, and takes it from there. Taken out, the code is a file beside it: workers
 * are read sooner, browsers compile it as it comes, and keep what they made of it. Vite finds the file by the `new URL`.
 */
const physicsApart = () => ({
  name: 'physics-apart',
  enforce: 'pre',
  transform: {
    filter: { id: /rapier3d-deterministic-compat/ },
    handler(this: { error: (message: string) => never }, code: string) {
      const looksElsewhere = /new URL\("rapier_wasm3d_bg\.wasm", ?"<deleted>"\)/
      // By hand: a pattern over four megabytes runs out of stack at times.
      const begins = /\w+\.toByteArray\("AGFz/.exec(code)?.index ?? -1
      const ends = code.indexOf(END, begins)
      if (begins === -1 || ends === -1 || !looksElsewhere.test(code)) return this.error('the physics library no longer has its code where it had; see nuxt.config.ts')
      return { code: `${code.slice(0, begins)}new URL("./rapier_wasm3d_bg.wasm", import.meta.url)${code.slice(ends + END.length)}`.replace(looksElsewhere, 'undefined'), map: null }
    },
  },
}) as const

export default defineNuxtConfig({
  compatibilityDate: '2026-11-01',
  ssr: false,
  // Views are fetched when somebody goes there: the first page stays small.
  experimental: { defaults: { nuxtLink: { prefetch: false } } },
  telemetry: false,
  devtools: { enabled: false },
  // A view is a folder of features; what several of them use stands beside.
  components: ['~/features', '~/draft', '~/components'].map(path => ({ path, pathPrefix: false, extensions: ['vue'] })),
  modules: ['vuetify-nuxt-module', '@pinia/nuxt', './modules/server-workers'],
  css: [
    '@fontsource-variable/atkinson-hyperlegible-next/wght.css',
    '@fontsource-variable/atkinson-hyperlegible-mono/wght.css',
    '~/assets/base.css',
    '~/assets/controls.css',
  ],
  app: {
    // Menus, notes and sheets stand in it (app/controls.ts): there before the first of them is.
    teleportTag: 'section',
    teleportId: 'overlays',
    teleportAttrs: { 'aria-label': 'Menus and notes' },
    head: {
      title: 'Mindpath',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/icon.svg' }],
    },
  },
  vuetify: {
    moduleOptions: { styles: true },
    vuetifyOptions: {
      icons: { defaultSet: 'unset' } as never,
      theme: { defaultTheme: 'paper', themes },
      defaults: controls as never,
    },
  },
  // Nobody debugs the built server.
  sourcemap: false,
  vite: {
    worker: { format: 'es', plugins: () => [physicsApart()] },
    build: { target: 'es2022' },
    // While developing: what is met only as one goes on would be made ready then, and the page it is met on would fail to load.
    optimizeDeps: {
      include: [
        '@codemirror/autocomplete', '@codemirror/commands', '@codemirror/language', '@codemirror/lint', '@codemirror/state', '@codemirror/view', '@dagrejs/dagre', '@dimforge/rapier3d-deterministic-compat',
        '@vueuse/core', 'chart.js', 'color-string', 'diff', 'fflate', 'marked', 'ofetch', 'pinia', 'saxes', 'simple-statistics', 'svgpath', 'three', 'yup',
      ],
    },
  },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
  nitro: {
    // Gzip alone: brotli takes time in every build to save what a local line does not notice.
    compressPublicAssets: { gzip: true, brotli: false },
    esbuild: { options: { target: 'node20' } },
    // Wires to boards go to the page by a socket.
    experimental: { websocket: true },
    typescript: { strict: true },
  },
  routeRules: {
    // Answers are data: nothing in them may be run, framed or guessed to be something else.
    '/api/**': { headers: { 'content-security-policy': "default-src 'none'; frame-ancestors 'none'", 'x-content-type-options': 'nosniff', 'referrer-policy': 'no-referrer', 'cross-origin-resource-policy': 'same-origin' } },
    // A worker obeys the policy of its own response; the physics library is compiled in one.
    '/_nuxt/**': { headers: { 'content-security-policy': "default-src 'none'; script-src 'self' 'wasm-unsafe-eval'; connect-src 'self'", 'cache-control': 'public, max-age=31536000, immutable' } },
  },
  hooks: {
    'build:manifest'(manifest: Record<string, { prefetch?: boolean }>) {
      for (const part of Object.values(manifest)) part.prefetch = false
    },
  },
  $development: {
    hooks: {
      'vite:extendConfig'(config: { build?: { rollupOptions?: { input?: Record<string, string> } } }, { isClient }: { isClient: boolean }) {
        const input = config.build?.rollupOptions?.input
        if (isClient && input?.['entry'] !== undefined) input['server'] ??= input['entry']
      },
    },
  },
} as Parameters<typeof defineNuxtConfig>[0])
