import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { ensureNpmPackages } from './lib/packages.mjs';
import { ROOT, say } from './lib/run.mjs';

/**
 * `npm run worker`: one more worker, on any machine that reaches the database of DATABASE_URL and the store
 * of KINKAJOU_BLOBS.
 */
if (!process.env.DATABASE_URL) {
  process.stderr.write('DATABASE_URL is not set. Name the database of the server that this worker is for.\n');
  process.exit(2);
}
if (!process.env.KINKAJOU_BLOBS && !process.env.KINKAJOU_DATA) {
  process.stderr.write(
    'Where contents lie is not said: set KINKAJOU_BLOBS to a bucket, or KINKAJOU_DATA to the folder of the server.\n',
  );
  process.exit(2);
}
await ensureNpmPackages();
const { supervise } = await import('./lib/application.mjs');
const { workerArguments } = await import('./lib/serverBuild.mjs');
const { untilTold } = await import('./lib/untilTold.mjs');

const dataFolder = process.env.KINKAJOU_DATA ?? join(ROOT, '.data', 'worker');
await mkdir(dataFolder, { recursive: true });
await untilTold(async (stop) => {
  const onEnd = ({ logFile, reason, again }) => {
    say(
      `The worker ended with ${reason}; ${again ? 'it is started again' : 'it ended too often'}. See ${logFile}`,
    );
    if (!again) void stop(1);
  };
  const args = await workerArguments();
  const env = { ...process.env, NODE_ENV: 'production', KINKAJOU_DATA: dataFolder };
  const worker = await supervise({ label: `worker-${process.pid}`, args, cwd: ROOT, env, dataFolder, onEnd });
  say(`A worker is at work; it writes to ${worker.logFile}\nCtrl-C stops it.`);
  return worker.stop;
});
