import { type AssetSource, type AssetState, type Edit, findImage, findMaterial, type ParcelImage } from '../asset/asset.ts';
import { makeMaps, type PasteEdit } from '../asset/makeMaps.ts';
import { scanImage } from '../asset/scanImages.ts';
import type { Destination } from '../destinations/profile.ts';
import { replay } from '../edits/log.ts';
import { KinkajouError } from '../errors.ts';
import { decodeImage } from '../images/decode.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { completeParams } from '../materials/recipes/recipe.ts';
import { recipeOf } from '../materials/recipes/recipes.ts';
import type { Material, Workflow } from '../scene/material.ts';
import type { ReadFile } from './bake.ts';

const RECIPE: Record<Workflow, string> = { metalRough: 'metal-rough', specGloss: 'spec-gloss', legacy: 'legacy' };

/** The state as a destination's shading model wants it, with the images that were made on the way. */
export interface PreparedState {
  state: AssetState;
  images: readonly ParcelImage[];
  read: ReadFile;
  /** What was done, in words. */
  done: string[];
  /** Of images that were made on the way: the parcel's own that they came from. */
  origins: ReadonlyMap<string, string[]>;
}

/** Which materials a destination needs in another shading model, or with their tint in the pixels. */
export function preparationsOf(state: AssetState, { workflow, whiteFactors }: Destination): { recipe: string; materials: string[] }[] {
  const other = state.materials.filter((material) => needsConversion(material, workflow) && recipeOf(RECIPE[workflow]).refuses(material) === null);
  const tinted = whiteFactors ? state.materials.filter((material) => recipeOf('bake-tint').refuses(material) === null) : [];
  return [
    { recipe: 'bake-tint', materials: tinted.map(({ key }) => key) },
    { recipe: RECIPE[workflow], materials: other.map(({ key }) => key) },
  ].filter(({ materials }) => materials.length > 0);
}

/** A legacy material without a specular image is read as metal/rough by its values; pixels are converted. */
function needsConversion({ workflow: from, channels }: Material, to: Workflow): boolean {
  if (from === 'legacy' && to === 'metalRough') return Boolean(channels.specularColor?.map) && !channels.metalness?.map;
  return from !== to;
}

export interface PrepareOptions {
  progress?: (share: number) => void;
  /** For plans: recipes run on copies of so many pixels a side; sizes and origins are told as they will be. */
  sketch?: { maxSize: number; decode?(path: string): Promise<PixelBuffer> };
}

/** Converts what the destination needs converted, in memory. The asset's own state stays as it is. */
export async function prepareState(
  source: AssetSource,
  given: AssetState,
  images: readonly ParcelImage[],
  read: ReadFile,
  destination: Destination,
  { progress = () => {}, sketch }: PrepareOptions = {},
): Promise<PreparedState> {
  let state = given;
  let all = images;
  const files = new Map<string, Uint8Array>();
  const origins = new Map<string, string[]>();
  const readBoth: ReadFile = async (path) => files.get(path) ?? read(path);
  const done: string[] = [];
  for (;;) {
    const [next] = preparationsOf(state, destination).filter(({ recipe }) => !done.some((line) => line.startsWith(recipeOf(recipe).title)));
    if (!next) return { state, images: all, read: readBoth, done, origins };
    try {
      const decode =
        sketch?.decode &&
        ((path: string) => (files.has(path) ? decodeImage(files.get(path) as Uint8Array, path) : (sketch.decode as NonNullable<typeof sketch.decode>)(path)));
      const { files: made, edit } = await makeMaps({ ...next, params: {} }, state, readBoth, {
        progress,
        ...(sketch ? { maxSize: sketch.maxSize, decode } : {}),
      });
      for (const { path, bytes } of made) {
        files.set(path, bytes);
        const scanned = await scanImage(path, bytes, null);
        const sources = sourcesOf(next, path, state, all, edit);
        origins.set(
          path,
          sources.flatMap((image) => origins.get(image.path) ?? [image.path]),
        );
        all = [...all.filter((image) => image.path !== path), sketch ? withSize(scanned, sources) : scanned];
      }
      if (edit) state = applyTo(source, state, edit, all);
      done.push(`${recipeOf(next.recipe).title}: ${next.materials.join(', ')}`);
    } catch (error) {
      // An image that is missing is told as a loss by the plan; the material goes out with its values.
      if (!(error instanceof KinkajouError) || error.code !== 'recipe.missing') throw error;
      done.push(`${recipeOf(next.recipe).title}: not done, ${error.message}`);
    }
  }
}

/** The images that a recipe read for what it made: those of the material that the new image went to. */
function sourcesOf({ recipe: id }: { recipe: string }, path: string, state: AssetState, images: readonly ParcelImage[], edit: PasteEdit | null): ParcelImage[] {
  const key = edit?.slots.find(({ content }) => content?.map?.image === `parcel:${path}`)?.material;
  const material = key === undefined ? undefined : findMaterial(state, key);
  if (!material) return [];
  const recipe = recipeOf(id);
  const paths = recipe.reads(material, completeParams(recipe.params, {})).map((channel) => {
    const use = material.channels[channel]?.map;
    return use ? findImage(state, use.image)?.resolved : null;
  });
  return images.filter((image) => paths.includes(image.path));
}

/** A sketch stands for an image as large as the largest that it was made from. */
function withSize(image: ParcelImage, sources: readonly ParcelImage[]): ParcelImage {
  const [first] = sources.flatMap(({ info }) => (info ? [info] : [])).sort((a, b) => b.width * b.height - a.width * a.height);
  return first && image.info ? { ...image, info: { ...image.info, width: first.width, height: first.height } } : image;
}

function applyTo(source: AssetSource, state: AssetState, edit: Edit, images: readonly ParcelImage[]): AssetState {
  return replay({ ...source, materials: state.materials, images: state.images }, [edit], images).state;
}
