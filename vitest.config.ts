import { fileURLToPath } from 'node:url'
import { defineConfig } from 'vitest/config'

const alias = { '~~': fileURLToPath(new URL('.', import.meta.url)), '~': fileURLToPath(new URL('./app', import.meta.url)) }

export default defineConfig({
  test: {
    // All cores: whoever looks on has nothing to do meanwhile.
    maxWorkers: '100%',
    projects: [
      {
        resolve: { alias },
        // Files share a process, and what it has loaded: loading it anew for each takes a third of the time. The core keeps nothing between runs that could tell them apart.
        test: { name: 'unit', include: ['tests/unit/**/*.test.ts'], environment: 'node', testTimeout: 60_000, setupFiles: ['tests/unit/setup.ts'], isolate: false },
      },
      {
        resolve: { alias },
        test: {
          name: 'e2e', include: ['tests/e2e/**/*.test.ts'], environment: 'node', globalSetup: ['tests/e2e/setup.ts'],
          fileParallelism: false, testTimeout: 90_000, hookTimeout: 90_000,
          // What a browser shows, it shows when it comes to it: a busy machine is no failure.
          expect: { poll: { timeout: 20_000 } },
        },
      },
    ],
  },
})
