import { CHROMIUM } from './scripts/lib/chromium.mjs';
import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'e2e',
  timeout: 240_000,
  expect: { timeout: 20_000 },
  workers: 1,
  retries: process.env.CI ? 1 : 0,
  reporter: [['list'], ['json', { outputFile: process.env.FARLO_E2E_REPORT ?? 'test-results/report.json' }]],
  use: {
    baseURL: process.env.FARLO_E2E_URL ?? 'http://127.0.0.1:4870',
    viewport: { width: 1280, height: 800 },
    actionTimeout: 30_000,
    launchOptions: CHROMIUM,
  },
});
