import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureDebianPackages, ensureNpmPackages } from './lib/packages.mjs';
import { ROOT, run } from './lib/run.mjs';

/**
 * `npm run bench:workers`: how long 1, 2 and 4 workers take to read parcels and hand them off, on a database
 * of its own.
 */
await ensureDebianPackages({});
await ensureNpmPackages();
const { startPostgres } = await import('./lib/postgres.mjs');
const { migrate } = await import('./lib/application.mjs');
const database = await startPostgres('bench', { throwaway: true });
const folder = await mkdtemp(join(tmpdir(), 'kinkajou-bench-workers-'));
try {
  const env = { ...process.env, DATABASE_URL: database.url, KINKAJOU_DATA: folder };
  await migrate(env);
  await run(process.execPath, ['--import', 'tsx', join(ROOT, 'web/worker/bench.ts')], { env });
} finally {
  await database.stop();
  await rm(folder, { recursive: true, force: true });
}
