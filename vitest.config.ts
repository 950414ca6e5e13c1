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
        // The physics library in its quickly made form: most files run it for seconds, and would wait longer for the thoroughly made one.
        test: { name: 'unit', include: ['tests/unit/**/*.test.ts'], environment: 'node', testTimeout: 60_000, setupFiles: ['tests/unit/setup.ts'], execArgv: ['--liftoff-only'] },
      },
      {
        resolve: { alias },
        test: {
          name: 'e2e', include: ['tests/e2e/**/*.test.ts'], environment: 'node', globalSetup: ['tests/e2e/setup.ts'],
          fileParallelism: false, testTimeout: 90_000, hookTimeout: 90_000,
        },
      },
    ],
  },
})
