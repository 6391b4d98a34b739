import { defineConfig } from 'vitest/config';

/** Half of the tests wait for other programs, so both of two cores are used. */
export default defineConfig({
  test: { include: ['{core,cli,demo}/src/**/*.test.ts', 'bench/**/*.test.ts'], testTimeout: 120_000, hookTimeout: 120_000, maxWorkers: 2 },
});
