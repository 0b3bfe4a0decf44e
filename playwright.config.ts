import { defineConfig } from '@playwright/test';

const CHROMIUM = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];
const browser = (...more: string[]) => ({
  launchOptions: { executablePath: '/usr/bin/chromium', args: [...CHROMIUM, ...more] },
});

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
    // Recording takes about as long as what is recorded: a second try is, a first one is not.
    trace: process.env.CI === undefined ? 'retain-on-failure' : 'on-first-retry',
    contextOptions: { reducedMotion: 'reduce' },
  },
  projects: [
    { name: 'pages', testIgnore: /forms\.spec/, use: browser() },
    // Meshes are drawn by software where there is no graphics card; pages are then drawn so too, which takes a core.
    {
      name: 'meshes',
      testMatch: /forms\.spec/,
      use: browser('--use-angle=swiftshader', '--enable-unsafe-swiftshader'),
    },
  ],
});
