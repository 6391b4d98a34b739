import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ensureDebianPackages, ensureNpmPackages } from './lib/packages.mjs';
import { freePort, ROOT, run, say } from './lib/run.mjs';

/**
 * `npm run demo`: sets up what is missing, starts everything, shows the address, stops everything on Ctrl-C.
 */
const PREFERRED_PORT = 4700;

await ensureDebianPackages({ chromium: true });
await ensureNpmPackages();
const { startPostgres } = await import('./lib/postgres.mjs');
const { ensureBuild, migrate, startApplication } = await import('./lib/application.mjs');

const dataFolder = process.env.KINKAJOU_DATA ?? join(ROOT, '.data', 'demo');
const stops = [];
let stopping = false;
async function stop(code) {
  if (stopping) return;
  stopping = true;
  say('\nStopping ...');
  for (const end of stops.reverse()) await end();
  process.exit(code);
}
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => void stop(0));

try {
  const database = await startPostgres('demo');
  stops.push(database.stop);
  await migrate({ DATABASE_URL: database.url });
  await ensureBuild();
  const port = process.env.PORT ? Number(process.env.PORT) : await freePort(PREFERRED_PORT);
  const application = await startApplication({ databaseUrl: database.url, dataFolder, port, onEnd });
  stops.push(application.stop);
  await writeFile(join(dataFolder, 'address'), application.address);
  // For "kinkajou backup" and its like; whoever may read it may use the database.
  await writeFile(join(dataFolder, 'database'), database.url, { mode: 0o600 });
  await run(process.execPath, [
    '--import',
    'tsx',
    join(ROOT, 'demo/src/seed.ts'),
    application.address,
    dataFolder,
  ]);
  say(`\nKinkajou is ready at ${application.address}\nCtrl-C stops it.`);
} catch (error) {
  process.stderr.write(`${error.message}\n`);
  await stop(1);
}

function onEnd({ label, logFile, reason, again }) {
  say(
    `The ${label} ended with ${reason}; ${again ? 'it is started again' : 'it ended too often'}. See ${logFile}`,
  );
  if (!again) void stop(1);
}
