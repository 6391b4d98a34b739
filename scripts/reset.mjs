import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { isRunning, removePostgres } from './lib/postgres.mjs';
import { ROOT, say } from './lib/run.mjs';

/**
 * `npm run reset`: throws the demo's database and files away, after asking; `npm run reset -- --yes` does not
 * ask. While the demo runs nothing is thrown away, unless `--force` says so: one that died may have left its
 * database running.
 */
const dataFolder = process.env.KINKAJOU_DATA ?? join(ROOT, '.data', 'demo');
if (!process.argv.includes('--force') && (await isRunning('demo'))) {
  say('The demo is running: stop it with Ctrl-C first. "npm run reset -- --force" resets it all the same.');
  process.exit(1);
}
if (!process.argv.includes('--yes')) {
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  const answer = await terminal.question(
    `Throw away the database and all files in ${dataFolder}? Type yes: `,
  );
  terminal.close();
  if (answer.trim() !== 'yes') {
    say('Nothing was changed.');
    process.exit(0);
  }
}
await removePostgres('demo');
await rm(dataFolder, { recursive: true, force: true });
say('Gone. "npm run demo" or "npm run dev" begins anew.');
