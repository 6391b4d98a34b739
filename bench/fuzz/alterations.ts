import { mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { DESTINATIONS } from '@kinkajou/core/destinations/destinations';
import { alterPackage } from './alterPackages.ts';

/**
 * `npm run alterations -- COUNT [FIRST [DESTINATION]]`: changes one number or word at a time in packages of odd
 * models, by other means than our writers, and tells what Compare did not notice. What changes the look or the
 * shape and is listed is a fault; such packages are kept under `.data/alterations`.
 */
const [count = '20', first = `${Date.now() % 1_000_000_000}`, only = ''] = process.argv.slice(2);
const EACH = 40;
/** Lines that are shown of each place. */
const SHOWN = 3;
const kept = join(fileURLToPath(new URL('../../', import.meta.url)), '.data', 'alterations');
const destinations = DESTINATIONS.filter(({ id }) => only === '' || id === only);
if (!(Number(count) > 0) || !Number.isInteger(Number(first)) || destinations.length === 0)
  throw new Error(
    'npm run alterations -- COUNT [FIRST [DESTINATION]]: two numbers, and the id of a destination',
  );

const tally = new Map<string, { noticed: number; passed: string[] }>();
process.stdout.write(`${count} models from ${first}\n`);
for (let seed = Number(first); seed < Number(first) + Number(count); seed += 1) {
  const destination = destinations[seed % destinations.length];
  const outcomes = await alterPackage(seed, destination, EACH);
  for (const [i, { noticed, place, change, excused, path, whole, bytes }] of outcomes.entries()) {
    const entry = tally.get(place) ?? { noticed: 0, passed: [] };
    tally.set(place, entry);
    if (noticed) {
      entry.noticed += 1;
      continue;
    }
    const name = `${seed}-${destination.id}-${i}`;
    entry.passed.push(`${name} ${path}: ${change}${excused.map((words) => ` [${words}]`).join('')}`);
    await keep(join(kept, name, 'whole'), whole);
    await keep(join(kept, name, 'altered'), new Map([...whole, [path, bytes]]));
  }
}

const all = [...tally].sort(([a], [b]) => (a < b ? -1 : 1));
const noticed = all.reduce((sum, [, entry]) => sum + entry.noticed, 0);
const passed = all.reduce((sum, [, entry]) => sum + entry.passed.length, 0);
for (const [place, entry] of all)
  if (entry.passed.length > 0)
    process.stdout.write(
      `${place}: ${entry.noticed} noticed, ${entry.passed.length} not\n   ${entry.passed.slice(0, SHOWN).join('\n   ')}\n`,
    );
process.stdout.write(`${noticed} of ${noticed + passed} alterations noticed\n`);

async function keep(folder: string, files: ReadonlyMap<string, Uint8Array>): Promise<void> {
  for (const [path, bytes] of files) {
    const copy = join(folder, path);
    await mkdir(dirname(copy), { recursive: true });
    await writeFile(copy, bytes);
  }
}
