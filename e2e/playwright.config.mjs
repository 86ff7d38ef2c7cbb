import { defineConfig } from '@playwright/test'
import { args, executablePath } from './lib/browser.mjs'
import { address, keeper, run } from './lib/house.mjs'

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
    // The database server of the tests' own; whatever an earlier run left is forgotten.
    command: 'bin/lanternrow stop; scripts/reset.sh; exec bin/lanternrow serve',
    cwd: '..',
    url: `http://${keeper}/api/v1/health`,
    timeout: 240_000,
    env: { LANTERNROW_RUN: run, LANTERNROW_ADDRESS: keeper, LANTERNROW_SCHEDULES: 'false' },
    gracefulShutdown: { signal: 'SIGTERM', timeout: 15_000 },
  },
  globalSetup: './lib/setup.mjs',
})
