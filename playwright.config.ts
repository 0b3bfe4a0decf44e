import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'tests/browser',
  // Other tests go on beside these: a slow answer is no wrong one.
  timeout: 240_000,
  expect: { timeout: 25_000 },
  workers: 1,
  fullyParallel: false,
  // A second try is shown as flaky; a machine that stutters is no reason not to land.
  retries: process.env.CI === undefined ? 0 : 1,
  reporter: [['list']],
  outputDir: 'test-results',
  use: {
    baseURL: process.env.ZERO_LATCH_ADDRESS ?? 'http://127.0.0.1:4310',
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        // Meshes are drawn by software where there is no graphics card.
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
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
