import { mkdir, readFile, stat, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { DESTINATIONS, findDestination } from '@kinkajou/core/destinations/destinations';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { KinkajouError } from '@kinkajou/core/errors';
import { listModels } from '@kinkajou/core/inspect';
import { folderSource } from '@kinkajou/core/parcel/folderSource';
import { MAKERS } from '../truth/makers.ts';
import { handedOff, type Parcel } from './failures.ts';
import { joinedParcel } from './joinedParcel.ts';
import { strangeFbx } from './strangeFbx.ts';
import { strangeModel } from './strangeModel.ts';

/**
 * `npm run receipts -- COUNT [FIRST]`: hands odd models to every destination, and the package of one destination
 * on to all others; tells which receipts do not hold, and why. Those models are kept under `.data/receipts`.
 *
 * `npm run receipts -- FOLDER [DESTINATION ...]`: the same with every model below a folder, as it is.
 *
 * `--edited` before these: with edits by lot, of every kind. `--joined` before a folder: each model with the next
 * one joined to it. `--fbx` before COUNT: odd models of FBX, not of glTF; `--known-usd`,
 * `--known-fbx`, `--known-obj`, `--known-gltf`: those whose maker knows what is in them.
 */
const flags = process.argv.slice(2).filter((word) => word.startsWith('--'));
const [edited, joined, ofFbx] = ['--edited', '--joined', '--fbx'].map((flag) => flags.includes(flag));
const known = MAKERS[flags.find((flag) => flag.startsWith('--known-'))?.slice('--known-'.length) ?? ''];
const [what = '20', ...more] = process.argv.slice(2 + flags.length);
const kept = join(fileURLToPath(new URL('../../', import.meta.url)), '.data', 'receipts');
const tally = { failed: 0, receipts: 0 };
if (Number.isNaN(Number(what))) await handOutFolder(what, more.map(destinationOf));
else await handOutStrange(Number(what), Number(more[0] ?? Date.now() % 1_000_000_000));
process.stdout.write(`${tally.failed} of ${tally.receipts} receipts do not hold\n`);

async function handOutStrange(count: number, first: number): Promise<void> {
  if (!(count > 0) || !Number.isInteger(first))
    throw new Error('npm run receipts -- COUNT [FIRST]: both are numbers');
  await mkdir(kept, { recursive: true });
  process.stdout.write(`${count} models from ${first}\n`);
  for (let seed = first; seed < first + count; seed += 1) {
    const parcel = await strange(seed);
    const via = DESTINATIONS[seed % DESTINATIONS.length];
    await handAround(parcel, `${seed}`, DESTINATIONS, seed);
    if (!edited) await handAround((await handedOff(parcel, via)).parcel, `${seed} by ${via.id}`);
  }
}

async function strange(seed: number): Promise<Parcel> {
  if (known) return known(seed);
  if (ofFbx) return { files: { 'strange.fbx': strangeFbx(seed) }, model: 'strange.fbx' };
  return { files: { 'strange.glb': await strangeModel(seed) }, model: 'strange.glb' };
}

function destinationOf(id: string): Destination {
  const destination = findDestination(id);
  if (!destination) throw new Error(`${id} is no destination`);
  return destination;
}

/** What is refused in words (a model of which nothing is left, say) is no fault. */
function refusal(error: unknown): { failures: string[] } {
  if (edited && error instanceof KinkajouError && error.code !== 'edit.invalid') return { failures: [] };
  throw error;
}

/** The same edits for a model whichever others there are. */
function seedOf(name: string): number {
  return [...name].reduce((sum, letter) => (Math.imul(sum, 31) + letter.charCodeAt(0)) >>> 0, 7);
}

/** Each model by itself, with what lies in its own folder; or with the next one joined to it. */
async function handOutFolder(folder: string, destinations: readonly Destination[]): Promise<void> {
  if (!(await stat(folder).catch(() => null))?.isDirectory()) throw new Error(`${folder} is no folder`);
  const models = listModels(await folderSource(folder));
  process.stdout.write(`${models.length} models\n`);
  for (const [i, model] of models.entries()) {
    const alone = await parcelOf(folder, model);
    const next = models[(i + 1) % models.length];
    const parcel = joined ? joinedParcel(alone, await parcelOf(folder, next), seedOf(model)) : alone;
    const chosen = destinations.length > 0 ? destinations : DESTINATIONS;
    await handAround(parcel, model, chosen, seedOf(model)).catch((error) => {
      // What is refused in words is no fault.
      if (!(error instanceof KinkajouError)) throw error;
      process.stdout.write(`${model}: ${error.code}, ${error.message}\n`);
    });
  }
}

/** A model with what lies in its own folder. */
async function parcelOf(folder: string, model: string): Promise<Parcel> {
  const own = dirname(model);
  const source = await folderSource(join(folder, own));
  const files: Record<string, Uint8Array> = {};
  for (const { path } of source.files) files[path] = await readFile(join(folder, own, path));
  return { files, model: own === '.' ? model : model.slice(own.length + 1) };
}

/** Hands a parcel to destinations; keeps it where a receipt does not hold. */
async function handAround(
  parcel: Parcel,
  name: string,
  destinations: readonly Destination[] = DESTINATIONS,
  seed = 0,
): Promise<void> {
  for (const destination of destinations) {
    const { failures } = await handedOff(parcel, destination, edited ? seed : null).catch(refusal);
    tally.receipts += 1;
    if (failures.length === 0) continue;
    tally.failed += 1;
    process.stdout.write(`${name} to ${destination.id}: ${failures.join('; ')}\n`);
    for (const [path, bytes] of Object.entries(parcel.files)) {
      const copy = join(kept, name, path);
      await mkdir(dirname(copy), { recursive: true });
      await writeFile(copy, bytes);
    }
  }
}
