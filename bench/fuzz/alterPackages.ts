import { initialState } from '@kinkajou/core/asset/asset';
import type { Destination } from '@kinkajou/core/destinations/profile';
import { comparePackages, type SheetedPackage } from '@kinkajou/core/handoff/compareHandoff';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { openAsset } from '@kinkajou/core/inspect';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { altered } from './alteration.ts';
import { generator } from './damage.ts';
import { strangeModel } from './strangeModel.ts';

/** What Compare said of a package in which one number or word is another. */
export interface Outcome {
  noticed: boolean;
  /** Kind of file and place in it, without numbers. */
  place: string;
  change: string;
  /** Differences that a loss explains, in words. */
  excused: string[];
  path: string;
  /** All files of the package before, and the one that was changed. */
  whole: ReadonlyMap<string, Uint8Array>;
  bytes: Uint8Array;
}

/** Text where a format has it, so that what is changed can be read. */
const TEXT_FORMS: Partial<Record<Destination['format'], Destination['variants'][number]>> = {
  usd: 'usda',
  gltf: 'glb',
};

/** Hands an odd model to a destination, and changes its package `count` times, each time at one place. */
export async function alterPackage(
  seed: number,
  destination: Destination,
  count: number,
): Promise<Outcome[]> {
  const { bytes: whole, ...sheeted } = await packageOf(seed, destination);
  const random = generator(seed);
  const paths = [...whole.keys()].filter((path) => /\.(fbx|obj|mtl|usda|glb|png|tif)$/.test(path));
  const outcomes: Outcome[] = [];
  for (let i = 0; i < count; i += 1) {
    const path = paths[Math.floor(random() * paths.length)];
    const alteration = await altered(path, whole.get(path) as Uint8Array, random);
    if (!alteration) continue;
    const { bytes, place, change } = alteration;
    const files = memorySource('package', Object.fromEntries([...whole, [path, bytes]]));
    const { differences } = await comparePackages(sheeted, { files, sheet: sheeted.sheet });
    outcomes.push({
      noticed: differences.some(({ exempt }) => exempt === null),
      place: `${path.replace(/.*\./, '')} ${place}`,
      change,
      excused: differences.map(({ exempt, message }) => `${exempt}: ${message}`),
      path,
      whole,
      bytes,
    });
  }
  return outcomes;
}

async function packageOf(
  seed: number,
  destination: Destination,
): Promise<SheetedPackage & { bytes: Map<string, Uint8Array> }> {
  const model = 'strange.glb';
  const opened = await openAsset(memorySource('strange', { [model]: await strangeModel(seed) }), model);
  const variant = TEXT_FORMS[destination.format];
  const made = await handOff({
    ...opened,
    state: initialState(opened.source),
    edits: [],
    findings: [],
    threads: 1,
    destination,
    choices: variant && destination.variants.includes(variant) ? { variant } : {},
  });
  const bytes = new Map(made.files);
  return { files: memorySource('package', Object.fromEntries(bytes)), sheet: made.sheet, bytes };
}
