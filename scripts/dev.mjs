import { spawn } from 'node:child_process';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ensureDebianPackages, ensureNpmPackages } from './lib/packages.mjs';
import { freePort, ROOT, say } from './lib/run.mjs';

/**
 * `npm run dev`: database, worker and pages in watch mode, over the demo's data, which stay. What is changed
 * in the code shows at once; `npm run seed` adds the harbour's parcels, `npm run reset` begins anew.
 */
await ensureDebianPackages({});
await ensureNpmPackages();
const { startPostgres } = await import('./lib/postgres.mjs');
const { migrate } = await import('./lib/application.mjs');

const dataFolder = process.env.KINKAJOU_DATA ?? join(ROOT, '.data', 'demo');
await mkdir(dataFolder, { recursive: true });
const database = await startPostgres('demo');
await migrate({ DATABASE_URL: database.url });
const port = process.env.PORT ? Number(process.env.PORT) : await freePort(4701);
const env = {
  ...process.env,
  NEXT_TELEMETRY_DISABLED: '1',
  DATABASE_URL: database.url,
  KINKAJOU_DATA: dataFolder,
};
const start = (args, cwd) => spawn(process.execPath, args, { cwd, env, stdio: 'inherit' });
const children = [
  start(
    [join(ROOT, 'node_modules/next/dist/bin/next'), 'dev', '-p', String(port), '-H', '127.0.0.1'],
    join(ROOT, 'web'),
  ),
  start(['--watch', '--import', 'tsx', join(ROOT, 'web/worker/main.ts')], ROOT),
];
await writeFile(join(dataFolder, 'address'), `http://127.0.0.1:${port}`);
say(`Kinkajou is at http://127.0.0.1:${port}; Ctrl-C stops it.`);

let stopping = false;
async function stop(code) {
  if (stopping) return;
  stopping = true;
  for (const child of children) child.kill('SIGTERM');
  await database.stop();
  process.exit(code);
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop(0));
for (const child of children) child.once('exit', (code) => void stop(code ?? 1));
