import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'test',
  testMatch: ['browser/*.spec.ts', 'trials/*.spec.ts'],
  outputDir: 'test-results',
  // One instance serves all tests, and they change its drafts: one at a time, in order.
  workers: 1,
  retries: process.env.CI ? 1 : 0,
  fullyParallel: false,
  // Slow machines need several times as long. What never appears fails earlier, by the limits of single actions.
  timeout: 180_000,
  expect: { timeout: 15_000 },
  reporter: [
    ['list'],
    ...(process.env.BROWSER_REPORT ? [['json', { outputFile: process.env.BROWSER_REPORT }] as const] : []),
  ],
  use: {
    // A missing control fails the test in seconds; a slow test sets a longer timeout where it needs one.
    actionTimeout: 20_000,
    navigationTimeout: 30_000,
    baseURL: process.env.BASE_URL ?? 'http://127.0.0.1:4310',
    viewport: { width: 1280, height: 800 },
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
