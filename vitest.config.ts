import { defineConfig } from 'vitest/config'
import { BUNDLES, bundled } from './tests/bundled'

export default defineConfig({
  plugins: [bundled],
  test: {
    include: ['{core,kernels,shared,server,cli,host,app,tests}/**/*.test.ts'],
    exclude: ['tests/e2e/**', 'node_modules/**'],
    // They only end what hangs: how long a test takes depends on the machine, not on what it checks
    testTimeout: 300000,
    hookTimeout: 300000,
    globalSetup: ['tests/setup.ts'],
    server: { deps: { external: [new RegExp(`^${BUNDLES}/`)] } },
    setupFiles: ['tests/equal.ts'],
    pool: 'forks',
    maxWorkers: 2,
  },
})
