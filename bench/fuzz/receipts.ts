import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import { handedOff, type Parcel } from './failures.ts';
import { strangeModel } from './strangeModel.ts';

/**
 * `npm run receipts -- COUNT [FIRST]`: hands odd models to every destination, and the package of one destination
 * on to all others; tells which receipts do not hold, and why. Those models are kept under `.data/receipts`.
 */
const count = Number(process.argv[2] ?? 20);
const first = Number(process.argv[3] ?? Date.now() % 1_000_000_000);
if (!(count > 0) || !Number.isInteger(first))
  throw new Error('npm run receipts -- COUNT [FIRST]: both are numbers');
const folder = join(fileURLToPath(new URL('../../', import.meta.url)), '.data', 'receipts');
await mkdir(folder, { recursive: true });
process.stdout.write(`${count} models from ${first}\n`);
let [failed, receipts] = [0, 0];
for (let seed = first; seed < first + count; seed += 1) {
  const parcel = { files: { 'strange.glb': await strangeModel(seed) }, model: 'strange.glb' };
  const via = DESTINATIONS[seed % DESTINATIONS.length];
  await handAround(parcel, `${seed}`);
  await handAround((await handedOff(parcel, via)).parcel, `${seed} by ${via.id}`);
}
process.stdout.write(`${failed} of ${receipts} receipts do not hold\n`);

/** Hands a parcel to every destination; keeps it where a receipt does not hold. */
async function handAround(parcel: Parcel, name: string): Promise<void> {
  for (const destination of DESTINATIONS) {
    receipts += 1;
    const { failures } = await handedOff(parcel, destination);
    if (failures.length === 0) continue;
    failed += 1;
    process.stdout.write(`${name} to ${destination.id}: ${failures.join('; ')}\n`);
    for (const [path, bytes] of Object.entries(parcel.files)) {
      const kept = join(folder, name, path);
      await mkdir(dirname(kept), { recursive: true });
      await writeFile(kept, bytes);
    }
  }
}
