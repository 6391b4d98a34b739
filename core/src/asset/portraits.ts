import type { PixelFacts } from '../maps/pixelFacts.ts';
import { SKETCH, sketchPlane } from '../maps/sketch.ts';
import { fileName, folderOf } from '../parcel/fileSource.ts';
import type { AssetSource, PortraitFolder } from './asset.ts';

/** Models that have an image of their name in a folder, from which on it is one of portraits. */
const FEWEST = 2;
/** More images that no model is called like make it a folder of something else. */
const MOST_OTHERS = 20;

/** The folders of an archive of models where each has an image of its name, and hardly anything else lies. */
export function portraitFolders(models: readonly string[], images: readonly string[]): PortraitFolder[] {
  if (models.length < FEWEST) return [];
  const names = new Set(models.flatMap(namesOfModel));
  const folders = new Map<string, { named: Set<string>; others: string[] }>();
  for (const path of images) {
    const folder = folderOf(path);
    const there = folders.get(folder) ?? { named: new Set(), others: [] };
    folders.set(folder, there);
    const name = plainName(path);
    if (names.has(name)) there.named.add(name);
    else if (there.others.length <= MOST_OTHERS) there.others.push(fileName(path));
  }
  return [...folders].flatMap(([folder, { named, others }]) =>
    named.size >= FEWEST && others.length <= Math.min(MOST_OTHERS, named.size) ? [{ folder, others }] : [],
  );
}

/** What of an asset tells whose portrait an image is. */
export type Portrayed = Pick<AssetSource, 'model' | 'materials' | 'portraits'>;

/**
 * Tells whose name an image bears where images are called like models: this one's or one of its materials', or
 * another's; null for one that bears none.
 */
export function portraitsFor({
  model,
  materials,
  portraits = [],
}: Portrayed): (path: string) => 'own' | 'other' | null {
  const folders = new Map(portraits.map(({ folder, others }) => [folder, new Set(others)]));
  const own = new Set(namesOfModel(model));
  const known = new Set(materials.map(({ name }) => letters(name)));
  return (path) => {
    const others = folders.get(folderOf(path));
    if (!others || others.has(fileName(path))) return null;
    const name = plainName(path);
    if (own.has(name)) return 'own';
    return known.has(name) ? 'own' : 'other';
  };
}

/** Colours along the border may differ by this much, in 0..1, and be one; a picture differs more within. */
const EVEN = 0.03;
const BUSY = 0.1;
/** Alpha below this is not there. */
const CLEAR = 0.05;
/** What is shown may reach the border of its picture here and there, the corners never. */
const MOST_OF_BORDER = 0.6;

/** Pictures in a list are hardly larger, in pixels; images that a surface wears hardly smaller. */
const SMALL = 512;
/** A larger one may be a leaf on a card as well. */
const PERHAPS = 0.5;

/** How likely an image that bears the model's name is a picture of it, in 0..1, by its pixels. */
export function portraitIn(facts: PixelFacts): number {
  if (!isFramed(facts)) return 0;
  return Math.max(facts.width, facts.height) <= SMALL ? 1 : PERHAPS;
}

/** Whether an image shows something before a clear or plain ground, as the picture of a thing does. */
function isFramed({ sketch, components }: PixelFacts): boolean {
  const alpha = components === 4 || components === 2 ? sketchPlane(sketch, components - 1) : null;
  if (alpha && surrounds(alpha, (value) => value < CLEAR)) return alpha.some((value) => value >= CLEAR);
  const colours = [0, 1, 2].flatMap((k) => {
    const plane = k < Math.min(3, components) ? sketchPlane(sketch, k) : null;
    return plane ? [plane] : [];
  });
  return (
    colours.every((plane) => surrounds(plane, (value) => Math.abs(value - plane[0]) <= EVEN)) &&
    colours.some((plane) => plane.some((value) => Math.abs(value - plane[0]) >= BUSY))
  );
}

/** Whether all corners of a sketch, and most of its border, are of the ground. */
function surrounds(plane: Float64Array, isGround: (value: number) => boolean): boolean {
  const last = SKETCH - 1;
  const corners = [0, last, SKETCH * last, SKETCH * SKETCH - 1];
  if (!corners.every((i) => isGround(plane[i]))) return false;
  const border = [...plane.keys()].filter(
    (i) => i % SKETCH === 0 || i % SKETCH === last || i < SKETCH || i >= SKETCH * last,
  );
  return border.filter((i) => isGround(plane[i])).length >= MOST_OF_BORDER * border.length;
}

/** What an image must be called to bear a model's name: as its file, or as the folder that it lies in. */
function namesOfModel(model: string): string[] {
  return [plainName(model), letters(fileName(folderOf(model)))].filter((name) => name !== '');
}

function plainName(path: string): string {
  return letters(fileName(path).replace(/\.[^.]*$/, ''));
}

function letters(text: string): string {
  return text.toLowerCase().replaceAll(/[^\p{L}\p{N}]+/gu, '');
}
