import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: '.',
  testMatch: '*.journey.ts',
  globalSetup: './seed.setup.ts',
  timeout: 240_000,
  expect: { timeout: 15_000 },
  // Each file has an installation of its own; two at once is what two cores carry.
  workers: 2,
  fullyParallel: false,
  reporter: 'list',
  outputDir: '../test-results',
  use: {
    viewport: { width: 1280, height: 800 },
    locale: 'en-GB',
    timezoneId: 'Europe/Lisbon',
    actionTimeout: 15_000,
    trace: 'off',
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
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
});
