import { defineConfig } from 'vitest/config'

export default defineConfig({
  resolve: { alias: { '~': new URL('./app', import.meta.url).pathname } },
  esbuild: { target: 'es2022', tsconfigRaw: { compilerOptions: { experimentalDecorators: true } } },
  test: {
    include: ['{core,kernels,shared,server,cli,host,app,tests}/**/*.test.ts'],
    exclude: ['tests/e2e/**', 'node_modules/**'],
    // They only end what hangs: how long a test takes depends on the machine, not on what it checks
    testTimeout: 300000,
    hookTimeout: 300000,
    globalSetup: ['tests/setup.ts'],
    setupFiles: ['tests/equal.ts'],
    pool: 'forks',
    maxWorkers: 2,
  },
})
