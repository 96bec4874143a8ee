import { defineConfig } from '@playwright/test'

export default defineConfig({
  testDir: '.',
  // Each has a server and a database of its own
  workers: 2,
  // They only end what hangs
  timeout: 240000,
  expect: { timeout: 40000 },
  reporter: [['list'], ['json']],
  forbidOnly: !!process.env.CI,
  outputDir: '../../test-results',
  use: {
    screenshot: 'only-on-failure',
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--headless=new',
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
})
