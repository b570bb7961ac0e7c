import { defineConfig } from 'vitest/config';
import { forTests } from './commands/build-server.ts';

const onScreens = { maxWorkers: 2, setupFiles: ['web/src/jsdom.setup.ts'], testTimeout: 20_000 };

export default defineConfig({
  test: {
    projects: [
      {
        test: {
          name: 'core',
          // Pure functions: nothing of one file is seen by another.
          isolate: false,
          // Properties of hundreds of runs, beside whatever else a machine does.
          testTimeout: 20_000,
          include: ['core/src/**/*.test.ts', 'api/src/**/*.test.ts', 'demo/src/**/*.test.ts', 'web/src/**/*.test.ts'],
        },
      },
      {
        test: {
          name: 'screens',
          ...onScreens,
          // A screen's modules are read once for all; each test makes a store of its own.
          isolate: false,
          include: ['web/src/**/*.test.tsx'],
          exclude: ['web/src/parts/**'],
        },
      },
      {
        // Parts are tested with stand-ins for what is about them, which no other file may meet.
        test: { name: 'parts', ...onScreens, include: ['web/src/parts/**/*.test.tsx'] },
      },
      {
        plugins: [forTests()],
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
