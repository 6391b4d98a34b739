import type { AssetState, Edit, ParcelImage } from '../asset/asset.ts';
import { makeMaps } from '../asset/makeMaps.ts';
import { scanImage } from '../asset/scanImages.ts';
import type { Destination } from '../destinations/profile.ts';
import { replay } from '../edits/log.ts';
import { KinkajouError } from '../errors.ts';
import { recipeOf } from '../materials/recipes/recipes.ts';
import type { Workflow } from '../scene/material.ts';
import type { AssetSource } from '../asset/asset.ts';
import type { ReadFile } from './bake.ts';

const RECIPE: Record<Workflow, string> = { metalRough: 'metal-rough', specGloss: 'spec-gloss', legacy: 'legacy' };

/** The state as a destination's shading model wants it, with the images that were made on the way. */
export interface PreparedState {
  state: AssetState;
  images: readonly ParcelImage[];
  read: ReadFile;
  /** What was done, in words. */
  done: string[];
}

/** Which materials a destination needs in another shading model, or with their tint in the pixels. */
export function preparationsOf(state: AssetState, { workflow, whiteFactors }: Destination): { recipe: string; materials: string[] }[] {
  const other = state.materials.filter((material) => needsConversion(material.workflow, workflow) && recipeOf(RECIPE[workflow]).refuses(material) === null);
  const tinted = whiteFactors ? state.materials.filter((material) => recipeOf('bake-tint').refuses(material) === null) : [];
  return [
    { recipe: 'bake-tint', materials: tinted.map(({ key }) => key) },
    { recipe: RECIPE[workflow], materials: other.map(({ key }) => key) },
  ].filter(({ materials }) => materials.length > 0);
}

/** A legacy material is read as metal/rough by its values; pixels are converted between the two modern models. */
function needsConversion(from: Workflow, to: Workflow): boolean {
  return from !== to && !(from === 'legacy' && to === 'metalRough');
}

/** Converts what the destination needs converted, in memory. The asset's own state stays as it is. */
export async function prepareState(
  source: AssetSource,
  given: AssetState,
  images: readonly ParcelImage[],
  read: ReadFile,
  destination: Destination,
  progress: (share: number) => void = () => {},
): Promise<PreparedState> {
  let state = given;
  let all = images;
  const files = new Map<string, Uint8Array>();
  const readBoth: ReadFile = async (path) => files.get(path) ?? read(path);
  const done: string[] = [];
  for (;;) {
    const [next] = preparationsOf(state, destination).filter(({ recipe }) => !done.some((line) => line.startsWith(recipeOf(recipe).title)));
    if (!next) return { state, images: all, read: readBoth, done };
    try {
      const { files: made, edit } = await makeMaps({ ...next, params: {} }, state, readBoth, { progress });
      for (const { path, bytes } of made) {
        files.set(path, bytes);
        all = [...all.filter((image) => image.path !== path), await scanImage(path, bytes, null)];
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

function applyTo(source: AssetSource, state: AssetState, edit: Edit, images: readonly ParcelImage[]): AssetState {
  return replay({ ...source, materials: state.materials, images: state.images }, [edit], images).state;
}
