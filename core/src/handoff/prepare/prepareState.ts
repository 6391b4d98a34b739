import {
  type AssetSource,
  type AssetState,
  findImage,
  findMaterial,
  type LoadedAsset,
  type ParcelImage,
} from '../../asset/asset.ts';
import { type MadeNote, makeMaps, type PasteEdit } from '../../asset/makeMaps.ts';
import { scanImage } from '../../asset/scanImages.ts';
import type { Destination } from '../../destinations/profile.ts';
import { replay } from '../../edits/log.ts';
import { decodeImage } from '../../images/decode.ts';
import { DecodedImages } from '../../images/decodedImages.ts';
import type { PixelBuffer } from '../../images/pixelBuffer.ts';
import { layingOf } from '../../materials/recipes/laying.ts';
import { completeParams } from '../../materials/recipes/recipe.ts';
import { recipeOf } from '../../materials/recipes/recipes.ts';
import { mayBeClassicMetal, shadingModelOf } from '../../materials/shadingModel.ts';
import type { ReadFile } from '../../parcel/fileSource.ts';
import type { Loss } from '../../scene/loss.ts';
import {
  type Channel,
  type ChannelName,
  type Material,
  showsColours,
  type Workflow,
} from '../../scene/material.ts';
import { pickedKey } from '../../scene/pickedImage.ts';

const RECIPE: Record<Workflow, string> = {
  metalRough: 'metal-rough',
  specGloss: 'spec-gloss',
  legacy: 'legacy',
};

/** The state as a destination's shading model wants it, with the images that were made on the way. */
export interface PreparedState {
  state: AssetState;
  images: readonly ParcelImage[];
  read: ReadFile;
  /** What was done, in words. */
  done: string[];
  /** What pixels that do not lie together cannot say in one image. */
  losses: Loss[];
  /** Of images that were made on the way: the parcel's own that they came from. */
  origins: ReadonlyMap<string, string[]>;
}

/** Which materials a destination needs in another shading model, or with their tint in the pixels. */
export function preparationsOf(
  state: AssetState,
  { workflow, whiteFactors }: Destination,
): { recipe: string; materials: string[] }[] {
  const other = state.materials.filter(
    (material) =>
      needsConversion(material, workflow) && recipeOf(RECIPE[workflow]).refuses(material) === null,
  );
  const tinted = whiteFactors
    ? state.materials.filter((material) => recipeOf('bake-tint').refuses(material) === null)
    : [];
  return [
    { recipe: 'bake-tint', materials: tinted.map(({ key }) => key) },
    { recipe: RECIPE[workflow], materials: other.map(({ key }) => key) },
  ].filter(({ materials }) => materials.length > 0);
}

/**
 * What the channels say and the destination does not. Classic colours are spec/gloss as they stand, and
 * metal/rough where nothing in them is a metal's.
 */
function needsConversion(material: Material, to: Workflow): boolean {
  const from = shadingModelOf(material);
  if (from === 'legacy') return to === 'metalRough' && mayBeClassicMetal(material);
  return from !== to;
}

/** Who hears of progress, and whether small copies suffice. */
export interface ConvertOptions {
  progress?: (share: number) => void;
  /**
   * For plans: recipes run on copies of so many pixels a side; sizes and origins are told as they will be.
   */
  sketch?: { maxSize: number; decode?(path: string): Promise<PixelBuffer> };
  /** Where images lie that were decoded before, for what is no sketch. */
  decoded?: DecodedImages;
}

/** Converts what the destination needs converted, in memory. The asset's own state stays as it is. */
export async function prepareState(
  { source, state: given, images, read }: LoadedAsset,
  destination: Destination,
  { progress = () => {}, sketch, decoded = new DecodedImages() }: ConvertOptions = {},
): Promise<PreparedState> {
  let state = given;
  let all = images;
  const files = new Map<string, Uint8Array>();
  const origins = new Map<string, string[]>();
  const readBoth: ReadFile = async (path) => files.get(path) ?? read(path);
  const done: string[] = [];
  const losses: Loss[] = [];
  const decode = sketch?.decode;
  const decodeBoth =
    decode &&
    ((path: string) => {
      const made = files.get(path);
      return made ? decodeImage(made, path) : decode(path);
    });
  const decodeWhole = async (path: string) => decoded.decode(await readBoth(path), path);
  for (const recipe of preparationsOf(state, destination).map((preparation) => preparation.recipe)) {
    // What one recipe did may leave the next with less, or more, to do.
    const { materials = [] } =
      preparationsOf(state, destination).find((preparation) => preparation.recipe === recipe) ?? {};
    const words: string[] = [];
    for (const [i, key] of materials.entries()) {
      const { state: usable, lacking } = withoutLostMaps(state, key, recipe);
      if (leavesNothingTo(recipe, usable, key)) continue;
      const {
        files: made,
        edit,
        notes,
      } = await makeMaps({ materials: [key], recipe, params: {} }, usable, readBoth, {
        progress: (share) => progress((i + share) / materials.length),
        ...(sketch ? { maxSize: sketch.maxSize, decode: decodeBoth } : { decode: decodeWhole }),
      });
      for (const { path, bytes } of made) {
        files.set(path, bytes);
        const scanned = await scanImage(path, bytes, null);
        const sources = sourcesOf(recipe, edit && madeFor(edit, path), { state: usable, images: all });
        origins.set(
          path,
          sources.flatMap((image) => origins.get(image.path) ?? [image.path]),
        );
        all = [...all.filter((image) => image.path !== path), sketch ? withSize(scanned, sources) : scanned];
      }
      losses.push(...laidApart(usable, edit, recipe), ...paintedOver(usable, edit, source.coloured));
      if (edit) state = applyTo(source, usable, edit, all);
      words.push(...notes.map((note) => preparedInWords(note, lacking)));
    }
    if (words.length > 0) done.push(`${recipeOf(recipe).title}: ${words.join(', ')}`);
  }
  return { state, images: all, read: readBoth, done, losses, origins };
}

/** The state without the images that a recipe would read and that are not there; the values stand alone. */
function withoutLostMaps(
  state: AssetState,
  key: string,
  recipeId: string,
): { state: AssetState; lacking: ChannelName[] } {
  const material = findMaterial(state, key);
  if (!material) return { state, lacking: [] };
  const recipe = recipeOf(recipeId);
  const lacking = recipe.reads(material, completeParams(recipe.params, {})).filter((channel) => {
    const use = material.channels[channel]?.map;
    return use && !findImage(state, use.image)?.resolved;
  });
  if (lacking.length === 0) return { state, lacking };
  const channels = { ...material.channels };
  for (const channel of lacking) channels[channel] = { ...(channels[channel] as Channel), map: null };
  return {
    state: {
      ...state,
      materials: state.materials.map((other) => (other === material ? { ...other, channels } : other)),
    },
    lacking,
  };
}

/** Whether the recipe was for the lost images alone: a tint without pixels stays the value that it is. */
function leavesNothingTo(recipeId: string, usable: AssetState, key: string): boolean {
  const material = findMaterial(usable, key);
  return material === undefined || recipeOf(recipeId).refuses(material) !== null;
}

/** What was made of images that do not lie in the same place, or do not go on alike beyond their edges. */
function laidApart(usable: AssetState, edit: PasteEdit | null, recipeId: string): Loss[] {
  const recipe = recipeOf(recipeId);
  return (edit?.slots ?? []).flatMap(({ material: key, channel, content }): Loss[] => {
    const material = findMaterial(usable, key);
    if (!material || !content) return [];
    const { elsewhere, beyond } = layingOf(material, recipe);
    const loss = { material: key, channel };
    return [
      ...elsewhere.map((other): Loss => ({ code: 'made.mean', ...loss, detail: other })),
      // Values have no edges.
      ...(content.map ? beyond : []).map((other): Loss => ({ code: 'made.edges', ...loss, detail: other })),
    ];
  });
}

/** Colours of points tint the light of what is painted; where metals take part, they would be part of the sum. */
function paintedOver(usable: AssetState, edit: PasteEdit | null, coloured: readonly string[] = []): Loss[] {
  return (edit?.workflows ?? []).flatMap(({ material: key, workflow }): Loss[] => {
    const material = findMaterial(usable, key);
    if (!edit || !material || !coloured.includes(key) || !showsColours(material)) return [];
    const made = edit.slots.find((slot) => slot.material === key && slot.channel === 'metalness')?.content;
    if (![material.channels.metalness, made].some((metal) => metal?.map || metal?.value)) return [];
    const channels: ChannelName[] =
      workflow === 'metalRough' ? ['baseColor', 'metalness'] : ['specularColor'];
    return channels.map((channel): Loss => ({ code: 'made.colours', material: key, channel }));
  });
}

/** `Hull (mean residual 0.4%, largest residual 3.1%)`. */
function preparedInWords({ material, figures }: MadeNote, lacking: readonly ChannelName[]): string {
  const residuals = figures
    .filter(({ of }) => of === 'residual')
    .map(({ title, value }) => `${title} ${value.toFixed(1)}%`);
  const notes = [
    ...residuals,
    ...(lacking.length > 0 ? [`the image of ${lacking.join(' and ')} is missing`] : []),
  ];
  return notes.length === 0 ? material : `${material} (${notes.join(', ')})`;
}

/** The material that a new image went to. */
function madeFor({ slots }: PasteEdit, path: string): string | undefined {
  return slots.find(({ content }) => content?.map?.image === pickedKey(path))?.material;
}

/** The images that a recipe read for what it made: those of the material that the new image went to. */
function sourcesOf(
  id: string,
  key: string | null | undefined,
  { state, images }: { state: AssetState; images: readonly ParcelImage[] },
): ParcelImage[] {
  const material = key ? findMaterial(state, key) : undefined;
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
  const [first] = sources
    .flatMap(({ info }) => (info ? [info] : []))
    .sort((a, b) => b.width * b.height - a.width * a.height);
  return first && image.info
    ? { ...image, info: { ...image.info, width: first.width, height: first.height } }
    : image;
}

/** An edit of slots on top of a state; what that says of parts, numbers and intake stays. */
function applyTo(
  source: AssetSource,
  state: AssetState,
  edit: PasteEdit,
  images: readonly ParcelImage[],
): AssetState {
  const from = { ...source, materials: state.materials, images: state.images };
  const made = replay(from, [edit], images).state;
  return { ...state, materials: made.materials, images: made.images };
}
