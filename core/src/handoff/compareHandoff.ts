import { type Difference, difference } from '../compare/difference.ts';
import { compareModels } from '../compare/compareModels.ts';
import type { CompareOptions } from '../compare/compareMaterials.ts';
import type { MaterialDifference } from '../compare/verdict.ts';
import type { Destination } from '../destinations/profile.ts';
import { toKinkajouError } from '../errors.ts';
import { type FileSource, memorySource } from '../parcel/fileSource.ts';
import { type HandoffInputs, handOff } from './handoff.ts';
import { isSamePlace, readBySheet, sideOf } from './proof.ts';
import type { Sheet } from './sheet.ts';

/** The sheet of a package; null where there is none, or none that tells of its destination. */
export async function sheetOfPackage(files: FileSource): Promise<(Sheet & { profile: Destination }) | null> {
  if (!files.files.some(({ path }) => path === 'handoff.json')) return null;
  try {
    const sheet = JSON.parse(new TextDecoder().decode(await files.read('handoff.json'))) as Sheet;
    return sheet.handoff === 2 && Array.isArray(sheet.models) && sheet.profile ? { ...sheet, profile: sheet.profile } : null;
  } catch {
    return null;
  }
}

/**
 * Holds a package against what the asset would be handed off as now: it is made again by the destination that its sheet
 * names, and both are read as a receiver opens them, by their model files and images alone. Words of the sheets that are
 * not the same are differences, too.
 */
export async function comparePackage(
  inputs: Omit<HandoffInputs, 'destination' | 'choices'>,
  files: FileSource,
  sheet: Sheet & { profile: Destination },
  options: CompareOptions & { progress?: (done: number, total: number) => void } = {},
): Promise<{ differences: Difference[]; channels: MaterialDifference[] }> {
  const { variants } = sheet.profile;
  const made = await handOff({ ...inputs, destination: withoutVariant(sheet.profile), choices: { variant: variants[0] } });
  const wanted = memorySource('package', Object.fromEntries(made.files));
  const differences: Difference[] = compareSheets(made.sheet, sheet);
  const channels: MaterialDifference[] = [];
  for (const model of made.sheet.models) {
    if (!files.files.some(({ path }) => path === model)) {
      differences.push(difference('file.missing', `${model} is not there`, { measured: model }));
      continue;
    }
    try {
      const [one, two] = [await sideOf(wanted, model), await sideOf(files, model)];
      const plain = await compareModels(one, two, options);
      // What the format has no word for (components, ranges, spaces) is read by the sheet on both sides.
      const [wantedRead, foundRead] = [readBySheet({ side: one, sheet: made.sheet }), readBySheet({ side: two, sheet: made.sheet })];
      const followed = await compareModels(wantedRead.side, foundRead.side, { ...options, geometry: false });
      const more = [...foundRead.contradictions, ...followed.differences];
      differences.push(...plain.differences, ...more.filter((other) => !plain.differences.some((known) => isSamePlace(known, other))));
      channels.push(...followed.channels);
    } catch (error) {
      differences.push(difference('file.unreadable', `${model}: ${toKinkajouError(error).message}`, { measured: model }));
    }
  }
  return { differences, channels };
}

function withoutVariant(profile: Destination): Destination {
  const { variant: _variant, ...rest } = profile as Destination & { variant?: string };
  return rest;
}

/** What the sheets say of each material and image besides the model. */
function compareSheets(wanted: Sheet, found: Sheet): Difference[] {
  const out: Difference[] = [];
  const words = (sheet: Sheet) =>
    new Map(sheet.materials.flatMap((material) => wordsOf(material).map(([key, word]) => [`${material.name}\n${key}`, word] as const)));
  const [one, two] = [words(wanted), words(found)];
  for (const [key, word] of one) {
    const other = two.get(key);
    if (other === word) continue;
    const [material, what] = key.split('\n');
    const channel = what.startsWith('channel ') ? what.slice(8) : null;
    out.push(
      difference('sheet.contradicts', `${material}: the sheet says "${other ?? 'nothing'}" of ${what}, not "${word}"`, {
        material,
        channel,
        measured: other ?? null,
        allowed: word,
      }),
    );
  }
  return out;
}

function wordsOf({ alpha, doubleSided, shading, maps }: Sheet['materials'][number]): [string, string][] {
  return [
    ['alpha', alpha.mode === 'mask' ? `mask at ${alpha.cutoff}` : alpha.mode],
    ['sides', doubleSided ? 'two' : 'one'],
    ['shading', shading],
    ...maps.flatMap(({ file, space, channels }) =>
      channels.map(({ channel, component, inverted }): [string, string] => [
        `channel ${channel}`,
        `${component}${inverted ? ' inverted' : ''} of ${file}, ${space}`,
      ]),
    ),
  ];
}
