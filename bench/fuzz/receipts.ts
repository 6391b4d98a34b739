import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import { failuresOf } from './failures.ts';
import { strangeModel } from './strangeModel.ts';

/**
 * `npm run receipts -- COUNT [FIRST]`: hands odd models to every destination and tells which receipts do not
 * hold, and why. Those models are kept under `.data/receipts`.
 */
const count = Number(process.argv[2] ?? 20);
const first = Number(process.argv[3] ?? Date.now() % 1_000_000_000);
if (!(count > 0) || !Number.isInteger(first))
  throw new Error('npm run receipts -- COUNT [FIRST]: both are numbers');
const folder = join(fileURLToPath(new URL('../../', import.meta.url)), '.data', 'receipts');
await mkdir(folder, { recursive: true });
process.stdout.write(`${count} models from ${first}\n`);
let failed = 0;
for (let seed = first; seed < first + count; seed += 1) {
  const bytes = await strangeModel(seed);
  for (const destination of DESTINATIONS) {
    const failures = await failuresOf(bytes, destination);
    if (failures.length === 0) continue;
    failed += 1;
    await writeFile(join(folder, `${seed}.glb`), bytes);
    process.stdout.write(`${seed} to ${destination.id}: ${failures.join('; ')}\n`);
  }
}
process.stdout.write(`${failed} of ${count * DESTINATIONS.length} receipts do not hold\n`);
