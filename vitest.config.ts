import { defineConfig } from 'vitest/config';
import { ensureKernel } from './scripts/lib/kernel.mjs';

ensureKernel(import.meta.dirname);

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'unit',
          include: ['core/**/*.test.ts', 'web/**/*.test.ts', 'api/**/*.test.ts'],
          testTimeout: 60_000,
          hookTimeout: 60_000,
          setupFiles: ['server/testing/setup.ts'],
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/**/*.test.ts'],
          globalSetup: ['server/testing/global-setup.ts'],
          setupFiles: ['server/testing/setup.ts'],
          testTimeout: 120_000,
          hookTimeout: 120_000,
        },
      },
    ],
  },
});
