import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

/** A machine may be slow, or busy with something else: what goes on for ever is stopped, nothing is timed. */
const patient = { testTimeout: 240_000, hookTimeout: 240_000, expect: { poll: { timeout: 100_000, interval: 20 } } };

/**
 * Half of the tests wait for other programs, so both of two cores are used. What the server does is tested against a
 * PostgreSQL of its own, one file after the other. Tests of the core share their modules, which keep nothing between files.
 */
export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      { test: { name: 'core', isolate: false, include: ['{core,cli,demo}/src/**/*.test.ts', 'bench/**/*.test.ts'], ...patient } },
      {
        resolve: { alias: { '@': fileURLToPath(new URL('./web', import.meta.url)) } },
        test: { name: 'web', include: ['web/**/*.test.ts'], globalSetup: ['web/server/test/database.mjs'], fileParallelism: false, ...patient },
      },
    ],
  },
});
