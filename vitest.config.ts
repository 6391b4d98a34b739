import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

/** A machine may be slow, or busy with something else: what goes on for ever is stopped, nothing is timed. */
const patient = {
  testTimeout: 240_000,
  hookTimeout: 240_000,
  expect: { poll: { timeout: 100_000, interval: 20 } },
};

/** What sets up its process in another way, before anything of the server is loaded. */
const APART = ['web/worker/otherMachine.test.ts'];
const web = {
  resolve: { alias: { '@': fileURLToPath(new URL('./web', import.meta.url)) } },
  test: { globalSetup: ['web/server/test/database.mjs'], fileParallelism: false, ...patient },
};

/**
 * Half of the tests wait for other programs, so both of two cores are used. What the server does is tested
 * against a PostgreSQL of its own, one file after the other. Files share what they load, which keeps nothing
 * between them.
 */
export default defineConfig({
  test: {
    maxWorkers: 2,
    projects: [
      {
        test: {
          name: 'core',
          isolate: false,
          include: ['{core,cli,demo}/src/**/*.test.ts', 'bench/**/*.test.ts'],
          ...patient,
        },
      },
      {
        ...web,
        test: {
          ...web.test,
          name: 'web',
          sequence: { groupOrder: 1 },
          isolate: false,
          include: ['web/**/*.test.ts'],
          exclude: [...APART, '**/node_modules/**', '**/.next/**'],
        },
      },
      { ...web, test: { ...web.test, name: 'apart', sequence: { groupOrder: 2 }, include: APART } },
    ],
  },
});
