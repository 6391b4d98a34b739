import { join } from 'node:path';
import { ensureNpmPackages } from './lib/packages.mjs';
import { freePort, ROOT, say } from './lib/run.mjs';

/**
 * `npm start`: server and workers against the database of DATABASE_URL and the store of KINKAJOU_BLOBS, or a
 * folder of KINKAJOU_DATA. Its shape is brought up to date first. KINKAJOU_WORKERS says how many workers this
 * machine has.
 */
if (!process.env.DATABASE_URL) {
  process.stderr.write(
    'DATABASE_URL is not set. Name a PostgreSQL database, or try everything with "npm run demo".\n',
  );
  process.exit(2);
}
const workers = Number(process.env.KINKAJOU_WORKERS ?? 1);
if (!Number.isInteger(workers) || workers < 0 || workers > 64) {
  process.stderr.write(
    `KINKAJOU_WORKERS must be a whole number from 0 to 64; it is "${process.env.KINKAJOU_WORKERS}".\n`,
  );
  process.exit(2);
}
await ensureNpmPackages();
const { ensureBuild, migrate, startApplication } = await import('./lib/application.mjs');
const { untilTold } = await import('./lib/untilTold.mjs');

const dataFolder = process.env.KINKAJOU_DATA ?? join(ROOT, '.data', 'server');
await untilTold(async (stop) => {
  await migrate({ DATABASE_URL: process.env.DATABASE_URL });
  await ensureBuild();
  const port = process.env.PORT ? Number(process.env.PORT) : await freePort(4700);
  const onEnd = ({ label, logFile, reason, again }) => {
    say(
      `The ${label} ended with ${reason}; ${again ? 'it is started again' : 'it ended too often'}. See ${logFile}`,
    );
    if (!again) void stop(1);
  };
  const application = await startApplication({
    databaseUrl: process.env.DATABASE_URL,
    dataFolder,
    port,
    workers,
    onEnd,
  });
  say(`Kinkajou is ready at ${application.address}\nCtrl-C stops it.`);
  return application.stop;
});
