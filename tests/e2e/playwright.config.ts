import { defineConfig } from '@playwright/test'

export default defineConfig({
  testDir: '.',
  outputDir: '../../TestResults/e2e',
  // Generous, for a busy machine: what must be fast is measured by ./dev bench, not by a test that times out.
  timeout: 300_000,
  expect: { timeout: 40_000 },
  workers: 2,
  fullyParallel: true,
  forbidOnly: true,
  // One more try where nobody is there to look: a browser that did not start is no fault of the change.
  retries: process.env.CI ? 1 : 0,
  use: {
    viewport: { width: 1280, height: 800 },
    screenshot: 'only-on-failure',
    actionTimeout: 60_000,
    launchOptions: {
      executablePath: process.env.CHITON_CHROMIUM ?? '/usr/bin/chromium',
      // As root, as on build machines, Chromium runs only without its sandbox; the rest keeps it off the network.
      args: [...(process.getuid?.() === 0 ? ['--no-sandbox'] : []), '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
    },
  },
})
