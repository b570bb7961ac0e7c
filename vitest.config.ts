import { defineConfig } from 'vitest/config';

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'core',
          // Pure functions: nothing of one file is seen by another.
          isolate: false,
          include: ['core/src/**/*.test.ts', 'api/src/**/*.test.ts', 'demo/src/**/*.test.ts', 'web/src/**/*.test.ts'],
        },
      },
      {
        test: {
          name: 'screens',
          maxWorkers: 2,
          setupFiles: ['web/src/jsdom.setup.ts'],
          testTimeout: 20_000,
          include: ['web/src/**/*.test.tsx'],
        },
      },
      {
        test: {
          name: 'server',
          include: ['server/test/**/*.test.ts'],
          globalSetup: ['server/test/database.setup.ts'],
          testTimeout: 60_000,
          hookTimeout: 120_000,
          maxWorkers: 2,
          isolate: false,
        },
      },
    ],
  },
});
