import type { CompareOptions } from '../compare/compareMaterials.ts';
import { compareModels, type ModelSide } from '../compare/compareModels.ts';
import { type Difference, difference } from '../compare/difference.ts';
import type { MaterialDifference } from '../compare/verdict.ts';
import type { Destination } from '../destinations/profile.ts';
import { toKinkajouError } from '../errors.ts';
import { DecodedImages } from '../images/decodedImages.ts';
import { type FileSource, memorySource } from '../parcel/fileSource.ts';
import { type HandoffInputs, handOff } from './handoff.ts';
import { isSamePlace, readBySheet, sideOf } from './readBack/proof.ts';
import type { Sheet } from './write/sheet.ts';

/**
 * Holds a package against what the asset would be handed off as now: it is made again by the destination that
 * its sheet names, and both are read as a receiver opens them, by their model files and images alone. Words
 * of the sheets that are not the same are differences, too.
 */
export async function comparePackage(
  inputs: Omit<HandoffInputs, 'destination' | 'choices'>,
  files: FileSource,
  sheet: Sheet & { profile: Destination },
  options: CompareOptions & { progress?: (done: number, total: number) => void } = {},
): Promise<{ differences: Difference[]; channels: MaterialDifference[] }> {
  const { variants } = sheet.profile;
  const made = await handOff({
    ...inputs,
    destination: withoutVariant(sheet.profile),
    choices: { variant: variants[0] },
  });
  const expected = memorySource('package', Object.fromEntries(made.files));
  return comparePackages({ files: expected, sheet: made.sheet }, { files, sheet }, options);
}

/** A package with what its sheet says. */
export interface SheetedPackage {
  files: FileSource;
  sheet: Sheet;
}

/** Holds two packages of the same models against each other, each as a receiver opens it, and their sheets. */
export async function comparePackages(
  { files: expected, sheet: expectedSheet }: SheetedPackage,
  { files, sheet }: SheetedPackage,
  options: CompareOptions = {},
): Promise<{ differences: Difference[]; channels: MaterialDifference[] }> {
  const differences: Difference[] = compareSheets(expectedSheet, sheet);
  const channels: MaterialDifference[] = [];
  const sharing = { decoded: new DecodedImages(), ...options };
  for (const model of expectedSheet.models) {
    if (!files.files.some(({ path }) => path === model)) {
      differences.push(difference('file.missing', `${model} is not there`, { measured: model }));
      continue;
    }
    try {
      const [first, second] = [await sideOf(expected, model), await sideOf(files, model)];
      const plain = await compareModels(first, second, { ...sharing, names: true });
      // What the format has no word for (components, ranges, spaces) is read by the sheet on both sides.
      const [wantedRead, foundRead] = [
        readBySheet({ side: first, sheet: expectedSheet }),
        readBySheet({ side: second, sheet: expectedSheet }),
      ];
      const followed = await compareModels(wantedRead.side, foundRead.side, { ...sharing, geometry: false });
      const more = [
        ...foundRead.contradictions.map(({ difference }) => difference),
        ...followed.differences,
        ...(await compareClassic(first, second, sharing)),
      ];
      differences.push(
        ...plain.differences,
        ...more.filter((other) => !plain.differences.some((existing) => isSamePlace(existing, other))),
      );
      channels.push(...followed.channels);
    } catch (error) {
      differences.push(
        difference('file.unreadable', `${model}: ${toKinkajouError(error).message}`, { measured: model }),
      );
    }
  }
  return { differences, channels };
}

/** What a receiver has that knows the format's classic properties alone, where others stand beside them. */
async function compareClassic(a: ModelSide, b: ModelSide, options: CompareOptions): Promise<Difference[]> {
  const classic = (side: ModelSide): ModelSide => ({
    ...side,
    materials: side.document.classicMaterials ?? side.materials,
  });
  if (!a.document.classicMaterials) return [];
  const { differences } = await compareModels(classic(a), classic(b), { ...options, geometry: false });
  return differences.map((found) => ({ ...found, message: `${found.message}, by classic properties` }));
}

function withoutVariant(profile: Destination): Destination {
  const { variant: _variant, ...rest } = profile as Destination & { variant?: string };
  return rest;
}

/** What the sheets say of the whole, of each material and of each image besides the model. */
function compareSheets(expected: Sheet, actual: Sheet): Difference[] {
  const [first, second] = [byKey(sayingsOf(expected)), byKey(sayingsOf(actual))];
  return [...new Map([...first, ...second])].flatMap(([key, { material, channel, what }]) => {
    const [expectedSaying, found] = [first.get(key), second.get(key)];
    if (isSameSaying(expectedSaying, found)) return [];
    const [word, other] = [wordsOf(expectedSaying), wordsOf(found)];
    const message = `${material === null ? '' : `${material}: `}the sheet says "${other}" of ${what}, not "${word}"`;
    return [difference('sheet.contradicts', message, { material, channel, measured: other, allowed: word })];
  });
}

function isSameSaying(a: Saying | undefined, b: Saying | undefined): boolean {
  return a !== undefined && b !== undefined && a.word === b.word && isNear(a.numbers, b.numbers);
}

/** Numbers may have gone through single floats, as models keep them. */
function isNear(a: readonly number[], b: readonly number[]): boolean {
  return (
    a.length === b.length &&
    a.every((value, i) => Math.abs(value - b[i]) <= 1e-6 * Math.max(Math.abs(value), Math.abs(b[i])))
  );
}

/** As people read it. */
function wordsOf(saying: Saying | undefined): string {
  return saying ? [saying.word, ...saying.numbers].filter((part) => part !== '').join(' ') : 'nothing';
}

/** One thing that a sheet says, of the whole where it names no material. */
interface Saying {
  material: string | null;
  channel: string | null;
  what: string;
  word: string;
  numbers: readonly number[];
}

function byKey(sayings: readonly Saying[]): Map<string, Saying> {
  return new Map(sayings.map((saying) => [JSON.stringify([saying.material, saying.what]), saying]));
}

function sayingsOf({ models, upAxis, metresPerUnit, normalY, materials }: Sheet): Saying[] {
  const whole = (what: string, word: string, ...numbers: number[]): Saying => ({
    material: null,
    channel: null,
    what,
    word,
    numbers,
  });
  return [
    whole('the models', [...models].sort().join(', ')),
    whole('the upward axis', upAxis),
    whole('the metres per unit', '', metresPerUnit),
    whole('the direction of normals', normalY),
    ...materials.flatMap(sayingsOfMaterial),
  ];
}

function sayingsOfMaterial({
  name,
  alpha,
  doubleSided,
  shading,
  maps,
  values,
  height,
  copies,
}: Sheet['materials'][number]): Saying[] {
  const say = (what: string, word: string, more: Partial<Saying> = {}): Saying => ({
    material: name,
    channel: null,
    numbers: [],
    ...more,
    what,
    word,
  });
  return [
    say('alpha', alpha.mode, { numbers: alpha.mode === 'mask' ? [alpha.cutoff] : [] }),
    say('sides', doubleSided ? 'two' : 'one'),
    say('shading', shading),
    say('height', height?.unit ?? 'none', { numbers: height ? [height.amount, height.mid] : [] }),
    say('copies', copies.join(', ')),
    ...Object.entries(values).map(([channel, value]) =>
      say(`value ${channel}`, '', { channel, numbers: [value].flat() }),
    ),
    ...maps.flatMap(({ file, space, channels }) =>
      channels.map(({ channel, component, inverted }) =>
        say(`channel ${channel}`, `${component}${inverted ? ' inverted' : ''} of ${file}, ${space}`, {
          channel,
        }),
      ),
    ),
  ];
}
