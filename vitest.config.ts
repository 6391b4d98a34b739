import { defineConfig } from 'vitest/config';

export default defineConfig({ test: { include: ['{core,cli,demo}/src/**/*.test.ts'], testTimeout: 120_000, hookTimeout: 120_000 } });
