import { mkdir, readdir, writeFile } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { LIBRARY_RULEBOOKS, quayLibrary } from './library.ts';

/**
 * `npm run library -- FOLDER`: writes the library of 520 assets, its rulebooks and what is true of each into
 * an empty folder.
 */
const [target] = process.argv.slice(2);
if (!target) {
  process.stderr.write('Name a folder that is empty or not there: npm run library -- FOLDER\n');
  process.exit(2);
}
const folder = resolve(target);
const there = await readdir(folder).catch(() => []);
if (there.length > 0) {
  process.stderr.write(`${folder} is not empty; nothing was written.\n`);
  process.exit(2);
}
const { files, truth } = await quayLibrary();
const made = new Set<string>();
for (const [path, bytes] of Object.entries(files)) {
  const parent = dirname(join(folder, 'props', path));
  if (!made.has(parent)) await mkdir(parent, { recursive: true });
  made.add(parent);
  await writeFile(join(folder, 'props', path), bytes);
}
for (const [i, book] of LIBRARY_RULEBOOKS.entries())
  await writeFile(join(folder, `house-${i + 1}.json`), `${JSON.stringify(book, null, 2)}\n`);
await writeFile(join(folder, 'truth.json'), `${JSON.stringify(truth, null, 2)}\n`);
process.stdout.write(
  `${truth.length} assets in ${join(folder, 'props')}, two rulebooks and truth.json beside them\n`,
);
