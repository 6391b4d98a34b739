import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Parcel } from '../fuzz/failures.ts';
import { MAKERS } from './makers.ts';
import { wrongIn } from './wrongIn.ts';

/**
 * `npm run truths -- FORMAT COUNT [FIRST]`: reads made-up models of which their maker knows what is in them, hands
 * them to glTF and tells what came out otherwise, as another library reads it. Those models are kept under
 * `.data/truths`.
 */
const [format, ...numbers] = process.argv.slice(2);
const [count, first = Date.now() % 1_000_000_000] = numbers.map(Number);
const make = MAKERS[format];
if (!make || !(count > 0) || !Number.isInteger(first))
  throw new Error(
    `npm run truths -- FORMAT COUNT [FIRST]: one of ${Object.keys(MAKERS).join(', ')}, and numbers`,
  );
const kept = join(fileURLToPath(new URL('../../', import.meta.url)), '.data', 'truths');
let wrong = 0;
process.stdout.write(`${count} models from ${first}\n`);
for (let seed = first; seed < first + count; seed += 1) {
  const known = make(seed);
  const words = await wrongIn(known).catch((error: unknown) => [String(error)]);
  if (words.length === 0) continue;
  wrong += 1;
  process.stdout.write(`${seed}: ${words.join('; ')}\n`);
  await keep(known, `${format}-${seed}`);
}
process.stdout.write(`${wrong} of ${count} models came out otherwise\n`);

async function keep({ files }: Parcel, name: string): Promise<void> {
  for (const [path, bytes] of Object.entries(files)) {
    const copy = join(kept, name, path);
    await mkdir(dirname(copy), { recursive: true });
    await writeFile(copy, bytes);
  }
}
