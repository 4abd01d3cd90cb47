import { defineConfig } from '@playwright/test'

export default defineConfig({
  testDir: '.',
  globalSetup: './demo.ts',
  outputDir: '../../TestResults/e2e',
  // Generous, for a busy machine: what must be fast is measured by ./dev bench, not by a test that times out.
  timeout: 300_000,
  expect: { timeout: 40_000 },
  workers: 2,
  fullyParallel: true,
  forbidOnly: true,
  // A test that passes on its second try has found a race: it fails here. On a machine of CI, whose processor others take too, it is
  // tried once more and named as flaky, with what stood on the page: to be looked at, not to be lost with all that passed.
  retries: process.env.CI ? 1 : 0,
  use: {
    viewport: { width: 1280, height: 800 },
    actionTimeout: 60_000,
    launchOptions: {
      executablePath: process.env.CHITON_CHROMIUM ?? '/usr/bin/chromium',
      // As root, as on build machines, Chromium runs only without its sandbox; the rest keeps it off the network.
      args: [
        ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
        '--disable-gpu',
        // The plain name of the room of tests: no secure context.
        '--host-resolver-rules=MAP bench.test 127.0.0.2',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
})
