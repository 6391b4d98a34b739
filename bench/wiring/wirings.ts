import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createRandom } from '@kinkajou/demo/noise';
import { ASSET_NAMES } from '@kinkajou/demo/scramble/assets';
import type { Measured } from '@kinkajou/demo/scramble/measure';
import { RARE_SCHEMES, SCHEMES } from '@kinkajou/demo/scramble/schemes';
import {
  type Format,
  type Loss,
  type Relation,
  type ScrambleCase,
  type ScrambledParcel,
  scramble,
} from '@kinkajou/demo/scramble/scramble';
import { RELATIONS } from '@kinkajou/demo/scramble/table';
import { recover } from '../recovery.ts';
import { FAULTS, pick } from './faults.ts';

/**
 * `npm run wirings -- COUNT [FIRST]`: models that are wired wrongly in one or two ways by lot, some with images
 * that lie elsewhere besides; each is handed off by the command line with safe mends alone, and the pixels of the
 * package are compared with the truth. Tells what came out otherwise than it was painted, and whether that is
 * told. Parcels with what is wrong in silence are kept under `.data/wirings`.
 */
const KEPT = join(fileURLToPath(new URL('../../', import.meta.url)), '.data', 'wirings');

const FORMATS: readonly Format[] = ['fbx', 'obj', 'usd', 'gltf'];
/** Schemes whose images glTF's own slots can read. */
const PACKED = ['engine', 'arm'];
const LOSSES: readonly Loss[] = [
  'none',
  'none',
  'none',
  'windows',
  'moved',
  'type',
  'case',
  'version',
  'oneLost',
];
/** Those that names settle, and harder ones. */
const ALL_RELATIONS: readonly Relation[] = [...RELATIONS, 'reordered', 'numbered', 'layout'];

/** One parcel that was wired wrongly. */
export interface Wired {
  id: string;
  /** What was done to it. */
  faults: string[];
  measured: Measured[];
  /** Findings that ask, in words. */
  asked: string[];
  parcel: ScrambledParcel;
}

/** Draws one parcel and hands it off in a folder; equal seeds give equal parcels. */
export async function tryWiring(seed: number, folder: string): Promise<Wired> {
  const random = createRandom(seed * 7919 + 1);
  for (let i = 0; i < 3; i += 1) random();
  const format = pick(FORMATS, random);
  const of: ScrambleCase = {
    kind: `w${seed}`,
    scheme: format === 'gltf' ? pick(PACKED, random) : pick([...SCHEMES, ...RARE_SCHEMES], random).id,
    asset: pick(ASSET_NAMES, random),
    relation: pick(ALL_RELATIONS, random),
    loss: pick(LOSSES, random),
    format,
  };
  const faults: string[] = [];
  const parcel = await scramble(of, (materials) => {
    const count = random() < 0.5 ? 1 : 2;
    for (let i = 0; i < count; i += 1) {
      const fault = FAULTS[pick(Object.keys(FAULTS), random)](materials, random);
      if (fault) faults.push(fault);
    }
  });
  const { measured, questions } = await recover(of, folder, parcel);
  const asked = questions.map(({ code, subject, message }) => `${code} ${subject}: ${message}`);
  return { id: parcel.id, faults, measured, asked, parcel };
}

/** What came out otherwise than it was painted, without a word. */
export function silentOf({ measured }: Wired): Measured[] {
  return measured.filter(({ outcome, told }) => outcome !== 'right' && !told);
}

async function keep(seed: number, { files }: ScrambledParcel): Promise<void> {
  for (const [path, bytes] of Object.entries(files)) {
    const file = join(KEPT, String(seed), path);
    await mkdir(dirname(file), { recursive: true });
    await writeFile(file, bytes);
  }
}

async function run(count: number, first: number): Promise<void> {
  if (!(count > 0) || !Number.isInteger(first))
    throw new Error('npm run wirings -- COUNT [FIRST]: both are numbers');
  const folder = await mkdtemp(join(tmpdir(), 'kinkajou-wirings-'));
  let [channels, right, silent] = [0, 0, 0];
  for (let seed = first; seed < first + count; seed += 1) {
    const wired = await tryWiring(seed, folder);
    const bad = wired.measured.filter(({ outcome }) => outcome !== 'right');
    channels += wired.measured.length;
    right += wired.measured.length - bad.length;
    silent += silentOf(wired).length;
    if (silentOf(wired).length > 0) await keep(seed, wired.parcel);
    if (bad.length + wired.asked.length === 0) continue;
    console.log(`${wired.id}: ${wired.faults.join('; ') || 'nothing'}`);
    for (const { material, channel, outcome, told } of bad)
      console.log(`  ${told ? '' : 'SILENT '}${material}, ${channel}: ${outcome}`);
    for (const line of wired.asked) console.log(`  asked: ${line}`);
  }
  await rm(folder, { recursive: true, force: true });
  console.log(`${channels} channels from ${first}: ${right} right, ${silent} otherwise in silence`);
}

if (process.argv[1]?.endsWith('wirings.ts')) {
  const [count = 20, first = Date.now() % 1_000_000] = process.argv.slice(2).map(Number);
  await run(count, first);
}
