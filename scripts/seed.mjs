import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ROOT, run } from './lib/run.mjs';

/**
 * `npm run seed`: adds the harbour's parcels to the application that `npm run dev` or `npm run demo` has
 * started.
 */
const dataFolder = process.env.KINKAJOU_DATA ?? join(ROOT, '.data', 'demo');
const address = process.argv[2] ?? (await readFile(join(dataFolder, 'address'), 'utf8').catch(() => ''));
if (address === '') {
  process.stderr.write('Nothing runs here yet. Start it with "npm run dev", or give the address.\n');
  process.exit(1);
}
await run(process.execPath, ['--import', 'tsx', join(ROOT, 'demo/src/seed.ts'), address.trim(), dataFolder]);
