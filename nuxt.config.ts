import { defineNuxtConfig } from 'nuxt/config'
import { controls } from './app/controls'
import { themes } from './app/theme'

/**
 * The physics library looks for a file of its own where it is given none; it always is, its four megabytes stand in its text.
 * Vite takes each `new URL` for one to follow, with a pattern that goes through all that text and at times runs out of stack on it.
 */
const physicsIsWhole = () => ({
  name: 'physics-is-whole',
  enforce: 'pre',
  transform: {
    filter: { id: /rapier3d-deterministic-compat/ },
    handler(this: { error: (message: string) => never }, code: string) {
      const looksElsewhere = /new URL\("rapier_wasm3d_bg\.wasm", ?"<deleted>"\)/
      return looksElsewhere.test(code) ? { code: code.replace(looksElsewhere, 'undefined'), map: null } : this.error('the physics library no longer asks for a file where it did; see nuxt.config.ts')
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
  vite: { worker: { format: 'es', plugins: () => [physicsIsWhole()] }, build: { target: 'es2022' } },
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
