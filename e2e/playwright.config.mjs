import { defineConfig } from '@playwright/test'
import { args, executablePath } from './lib/browser.mjs'

const address = '127.0.0.1:8092'
export default defineConfig({
  testDir: 'specs',
  workers: 1,
  // One more try on a loaded machine; what needed it is named in the output as flaky.
  retries: process.env.CI ? 1 : 0,
  // A shared machine may give this one a quarter of its time.
  timeout: process.env.CI ? 300_000 : 90_000,
  expect: { timeout: process.env.CI ? 30_000 : 10_000 },
  reporter: [['list'], ['./lib/reporter.mjs']],
  outputDir: 'out',
  use: { baseURL: `http://${address}`, viewport: { width: 1280, height: 800 }, launchOptions: { executablePath, args }, trace: 'off', screenshot: 'only-on-failure' },
  webServer: {
    // A fresh demo of the tests' own; whatever an earlier run left is forgotten.
    command: 'bin/lanternrow stop; scripts/reset.sh; exec bin/lanternrow demo',
    cwd: '..',
    url: `http://${address}/api/v1/health`,
    timeout: 240_000,
    env: { LANTERNROW_RUN: '.run/e2e', LANTERNROW_ADDRESS: address, LANTERNROW_SCHEDULES: 'false' },
    gracefulShutdown: { signal: 'SIGTERM', timeout: 15_000 },
  },
})
