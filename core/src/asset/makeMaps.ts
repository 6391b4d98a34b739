import { chromaticitiesOf } from '../colour/primaries.ts';
import { KinkajouError } from '../errors.ts';
import { resizeBuffer } from '../images/components.ts';
import { decodeImage } from '../images/decode.ts';
import { encodeImage, encodePng } from '../images/encode.ts';
import { heatPicture } from '../images/heat.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { byMean, layingOf } from '../materials/recipes/laying.ts';
import {
  completeParams,
  type Figure,
  type MadeImage,
  type Params,
  type Progress,
  type RecipeInput,
  type RecipeInputs,
  type RecipeResult,
} from '../materials/recipes/recipe.ts';
import { recipeOf } from '../materials/recipes/recipes.ts';
import { sha256 } from '../parcel/hash.ts';
import type { Limits } from '../parcel/limits.ts';
import { cleanName } from '../parcel/names.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { type ChannelName, createMapUse, type Material, type Provenance } from '../scene/material.ts';
import { pickedKey } from '../scene/pickedImage.ts';
import { type AssetState, type Edit, findImage, findMaterial, type PastedSlot } from './asset.ts';
import { MADE_FOLDER } from './madeFiles.ts';

/** The edit that pastes copied slots. */
export type PasteEdit = Extract<Edit, { kind: 'pasteSlots' }>;

/** New images that a person or a mend asks for. */
export interface MakeRequest {
  materials: string[];
  recipe: string;
  params: Params;
}

/** A map that was made, as a file of the parcel. */
export interface MadeFile {
  path: string;
  channel: ChannelName;
  bytes: Uint8Array;
}

/** What is worth knowing of one material's result. */
export interface MadeNote {
  material: string;
  figures: Figure[];
  /** Channels that went in by their mean, since their images lie elsewhere than what they are taken with. */
  means?: ChannelName[];
  /** A PNG in colours from dark (nothing) to white (all), where the recipe tells how much was lost where. */
  heat: { title: string; bytes: Uint8Array } | null;
}

/**
 * What was made: new files beside the originals, and the one edit that puts them to use, so that one undo
 * takes it back.
 */
export interface Made {
  files: MadeFile[];
  /** Null where nothing was made. */
  edit: PasteEdit | null;
  notes: MadeNote[];
  /** Materials that were passed over, with the reason. */
  refused: { material: string; reason: string }[];
}

/** Bounds on images, who hears of progress, and whether small copies suffice. */
export interface MakeOptions {
  progress?: Progress;
  limits?: Limits;
  /** Longest side of what is read; 0 keeps the size. For previews. */
  maxSize?: number;
  /** Pixels that were decoded before, by path. */
  decode?(path: string): Promise<PixelBuffer>;
}

/**
 * Makes new images from the materials' own, at their full size and depth; of maps in tiles, one per tile. Of
 * several materials, those for which the recipe makes no sense are passed over. Throws `recipe.unknown`,
 * `recipe.material`, `recipe.refused` with the reason where none is left, `recipe.missing` while an image
 * that is needed is not linked, and the errors of decoding.
 */
export async function makeMaps(
  request: MakeRequest,
  state: AssetState,
  read: (path: string) => Promise<Uint8Array>,
  options: MakeOptions = {},
): Promise<Made> {
  const { fit, refused } = checkMake(request, state);
  const made: Made = { files: [], edit: null, notes: [], refused };
  const edits: PasteEdit[] = [];
  for (const [index, material] of fit.entries()) {
    const progress = (share: number) => options.progress?.((index + share) / fit.length);
    const { files, edit, note } = await makeFor(material, {
      request,
      state,
      read,
      options: { ...options, progress },
    });
    made.files.push(...files);
    made.notes.push(note);
    edits.push(edit);
  }
  const [first] = edits;
  made.edit = first && {
    ...first,
    slots: edits.flatMap(({ slots }) => slots),
    workflows: edits.flatMap(({ workflows = [] }) => workflows),
  };
  return made;
}

/** What is made, and what it is made from. */
interface Making {
  request: MakeRequest;
  state: AssetState;
  read: (path: string) => Promise<Uint8Array>;
  options: MakeOptions;
}

async function makeFor(
  material: Material,
  making: Making,
): Promise<{ files: MadeFile[]; edit: PasteEdit; note: MadeNote }> {
  const { request, state, options } = making;
  const tiles = tilesOf(material, request, state);
  const files: MadeFile[] = [];
  const results: RecipeResult[] = [];
  let heat: MadeNote['heat'] = null;
  for (const [index, tile] of tiles.entries()) {
    const progress = (share: number) => options.progress?.((index + share * 0.85) / tiles.length);
    const result = await runOn(material, tile, { ...making, options: { ...options, progress } });
    for (const { channel, extension, bytes } of await Promise.all(result.images.map(encoded)))
      files.push({ path: `${channel}${tile === null ? '' : `.${tile}`}.${extension}`, channel, bytes });
    if (result.heat && !heat)
      heat = { title: result.heat.title, bytes: await encodePng(heatPicture(result.heat.pixels)) };
    results.push({
      ...result,
      images: result.images.map((image) => ({ ...image, pixels: NOTHING })),
      heat: undefined,
    });
    await options.progress?.((index + 1) / tiles.length);
  }
  const placed = placeFiles(material, files);
  const means = layingOf(material, recipeOf(request.recipe), request.params).elsewhere;
  const note = {
    material: material.key,
    figures: averaged(results.map(({ figures }) => figures)),
    ...(means.length > 0 ? { means } : {}),
    heat,
  };
  return { files: placed, edit: editOf(material.key, request, results[0], placed), note };
}

/** One run without encoding, for previews: of the first material and the first tile. */
export async function previewMaps(
  request: MakeRequest,
  state: AssetState,
  read: (path: string) => Promise<Uint8Array>,
  options: MakeOptions,
): Promise<RecipeResult> {
  const [material] = checkMake(request, state).fit;
  return runOn(material, tilesOf(material, request, state)[0], { request, state, read, options });
}

/**
 * Which of the materials the recipe fits. Throws what {@link makeMaps} would throw before it looks at pixels.
 */
export function checkMake(
  { materials: keys, recipe: id, params }: MakeRequest,
  state: AssetState,
): { fit: Material[]; refused: Made['refused'] } {
  const recipe = recipeOf(id);
  const fit: Material[] = [];
  const refused: Made['refused'] = [];
  for (const key of keys) {
    const material = findMaterial(state, key);
    if (!material) throw new KinkajouError('recipe.material', `there is no material "${key}"`);
    const reason = recipe.refuses(material, completeParams(recipe.params, params));
    if (reason) refused.push({ material: key, reason });
    else fit.push(material);
  }
  if (fit.length > 0) return { fit, refused };
  const why = refused[0] ? `for ${refused[0].material}: ${refused[0].reason}` : 'without a material';
  throw new KinkajouError('recipe.refused', `"${recipe.title}" is not possible ${why}`);
}

/** Pixels of a result are let go once they are encoded. */
const NOTHING: PixelBuffer = { width: 0, height: 0, components: 1, data: new Uint8Array(0) };

/**
 * Paths carry the mark of the content: what an earlier edit names is never overwritten, and equal work gives
 * equal paths.
 */
function placeFiles(material: Material, files: readonly MadeFile[]): MadeFile[] {
  const mark = sha256(new TextEncoder().encode(files.map(({ bytes }) => sha256(bytes)).join())).slice(0, 6);
  return files.map((file) => ({
    ...file,
    path: `${MADE_FOLDER}/${cleanName(material.key)}_${mark}.${file.path}`,
  }));
}

function tilesOf(
  material: Material,
  { recipe: id, params }: MakeRequest,
  state: AssetState,
): (number | null)[] {
  const recipe = recipeOf(id);
  const numbers = new Set<number>();
  for (const channel of recipe.reads(material, completeParams(recipe.params, params))) {
    const use = material.channels[channel]?.map;
    const entry = use && findImage(state, use.image);
    for (const tile of entry?.tiles ?? []) numbers.add(tile.number);
  }
  return numbers.size > 1 ? [...numbers].sort((a, b) => a - b) : [null];
}

async function runOn(
  material: Material,
  tile: number | null,
  { request, state, read, options }: Making,
): Promise<RecipeResult> {
  const { recipe: id, params } = request;
  const { progress, limits, maxSize = 0, decode } = options;
  const recipe = recipeOf(id);
  const complete = completeParams(recipe.params, params);
  const inputs: RecipeInputs = Object.fromEntries(
    Object.entries(material.channels).map(([channel, { value, map }]) => [
      channel,
      { value, map, pixels: null },
    ]),
  );
  const existing = new Map<string, PixelBuffer>();
  for (const channel of recipe.reads(material, complete)) {
    const { value, map } = material.channels[channel] ?? { value: 1, map: null };
    const entry = map && findImage(state, map.image);
    const path =
      tile === null
        ? entry?.resolved
        : (entry?.tiles?.find(({ number }) => number === tile)?.path ?? entry?.resolved);
    if (!path)
      throw new KinkajouError(
        'recipe.missing',
        `the map of ${channelInWords(channel)} is missing`,
        { file: entry?.written },
        'Link it first.',
      );
    let pixels = existing.get(path);
    if (!pixels) {
      pixels = shrunk(
        decode ? await decode(path) : await decodeImage(await read(path), path, { maxSize, limits }),
        maxSize,
      );
      existing.set(path, pixels);
    }
    inputs[channel] = { value, map, pixels };
  }
  for (const channel of layingOf(material, recipe, params).elsewhere)
    inputs[channel] = byMean(channel, inputs[channel] as RecipeInput);
  return recipe.make(material, inputs, complete, async (share) => {
    await new Promise((resolve) => setImmediate(resolve));
    await progress?.(share);
  });
}

function shrunk(pixels: PixelBuffer, maxSize: number): PixelBuffer {
  const longest = Math.max(pixels.width, pixels.height);
  if (maxSize === 0 || longest <= maxSize) return pixels;
  const side = (length: number) => Math.max(1, Math.round((length * maxSize) / longest));
  return resizeBuffer(pixels, side(pixels.width), side(pixels.height));
}

async function encoded({
  channel,
  pixels,
  space,
}: MadeImage): Promise<{ channel: ChannelName; extension: string; bytes: Uint8Array }> {
  if (pixels.data instanceof Float32Array)
    return {
      channel,
      extension: 'exr',
      bytes: await encodeImage(pixels, 'exr', { depth: 32, primaries: chromaticitiesOf(space) }),
    };
  return { channel, extension: 'png', bytes: await encodePng(pixels) };
}

function editOf(
  material: string,
  request: MakeRequest,
  result: RecipeResult,
  files: readonly MadeFile[],
): PasteEdit {
  const numbers = Object.values(request.params).join(' ');
  const origin: Provenance = {
    from: 'hand',
    detail: `${recipeOf(request.recipe).title}${numbers === '' ? '' : `: ${numbers}`}`,
  };
  const slots = result.slots.map(({ channel, value, map }): PastedSlot => {
    if (value === null) return { material, channel, content: null };
    if (map === null || (typeof map === 'object' && !('made' in map)))
      return { material, channel, content: { value, map } };
    const from = map === 'made' ? channel : map.made;
    const image = result.images.find((image) => image.channel === from) as MadeImage;
    const file = files.find((file) => file.channel === from) as MadeFile;
    if (map !== 'made')
      return { material, channel, content: { value, map: { ...map.use, image: pickedKey(file.path) } } };
    const { uvSet, transform, wrap, filter } = image.like;
    const use = createMapUse(pickedKey(file.path), channel, {
      space: image.space,
      uvSet,
      transform,
      wrap,
      ...(filter ? { filter } : {}),
      normalY: image.normalY ?? 'Y+',
    });
    return { material, channel, content: { value, map: use } };
  });
  const { workflow, exponent = null } = result;
  const workflows = workflow ? [{ material, workflow, exponent }] : [];
  return { kind: 'pasteSlots', slots, workflows, what: `${recipeOf(request.recipe).title}:`, origin };
}

/** Mean over the tiles; what is the largest stays the largest. */
function averaged(all: readonly Figure[][]): Figure[] {
  const [first = []] = all;
  return first.map((figure, i) => {
    const values = all.map((figures) => figures[i].value);
    const value =
      figure.over === 'most'
        ? Math.max(...values)
        : values.reduce((sum, value) => sum + value, 0) / values.length;
    return { ...figure, value };
  });
}
