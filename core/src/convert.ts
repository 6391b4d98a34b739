import { initialState } from './asset/asset.ts';
import { toBytes } from './colour/quantise.ts';
import { webGltf } from './destinations/webGltf.ts';
import { KinkajouError } from './errors.ts';
import { WRITABLE, writeModel } from './formats/writeModel.ts';
import type { ImageTarget, WrittenModel } from './formats/written.ts';
import { bakeImage } from './handoff/bake/bake.ts';
import { planHandoff } from './handoff/plan/plan.ts';
import { writeGltf } from './handoff/write/writeGltf.ts';
import { decodeImage } from './images/decode.ts';
import { encodePng } from './images/encode.ts';
import type { OpenAsset } from './inspect.ts';
import { extensionOf, stemOf } from './parcel/fileSource.ts';
import { cleanName, createNamer } from './parcel/names.ts';
import { type AxisSystem, type SceneDocument, Y_UP, Z_UP } from './scene/document.ts';
import type { Loss } from './scene/loss.ts';
import { reorient } from './scene/reorient.ts';
import { TAKE_PARTS, type TakePart, takeOnly } from './scene/take.ts';
import { toTriangles } from './scene/triangulate.ts';

/** What a model becomes on its way to another format; what is left out stays as it is. */
export interface ConvertOptions {
  up?: 'Y' | 'Z';
  metresPerUnit?: number;
  triangulate?: boolean;
  /** Images inside the model where the format can hold them, else beside it in `maps/`. */
  embed?: boolean;
  only?: ReadonlySet<TakePart>;
  /** Folder for images beside the model: `maps` unless told. */
  mapsFolder?: string;
  /** FBX as text, USD looks in a layer of their own. */
  text?: boolean;
  splitLooks?: boolean;
}

const MAPS = 'maps';
/** Formats that state neither unit nor axis are written in these. */
const UNSTATED_METRES = 1;
const UNITS: Record<string, number> = {
  m: 1,
  metres: 1,
  cm: 0.01,
  mm: 0.001,
  dm: 0.1,
  km: 1000,
  in: 0.0254,
  ft: 0.3048,
  yd: 0.9144,
};
/** Image types that a USDZ package may hold. */
const PACKAGE_TYPES = new Set(['png', 'jpg', 'jpeg', 'exr']);

/** `cm`, `in` or metres as a number. Throws `call.unit` for anything else. */
export function parseUnit(text: string): number {
  const metres = UNITS[text.toLowerCase()] ?? Number(text);
  if (!(metres > 0) || !Number.isFinite(metres))
    throw new KinkajouError(
      'call.unit',
      `"${text}" is no unit`,
      {},
      `Use ${Object.keys(UNITS).join(', ')}, or metres as a number.`,
    );
  return metres;
}

/** `meshes,materials`. Throws `call.only` naming a part that is not known. */
export function parseParts(text: string): Set<TakePart> {
  const parts = new Set<TakePart>();
  for (const word of text
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean)) {
    const part = TAKE_PARTS.find((existing) => existing === word);
    if (!part)
      throw new KinkajouError(
        'call.only',
        `"${word}" is no part of a model`,
        {},
        `Use ${TAKE_PARTS.join(', ')}.`,
      );
    parts.add(part);
  }
  return parts;
}

/** The document as the options want it: only some parts, other axes or unit, triangles. */
export function prepareDocument(
  document: SceneDocument,
  extension: string,
  options: ConvertOptions,
): SceneDocument {
  const taken = options.only ? takeOnly(document, options.only) : document;
  const unstated = extension === 'obj';
  const axes: AxisSystem = statedAxes(options, unstated, document);
  const metres = options.metresPerUnit ?? (unstated ? UNSTATED_METRES : document.metresPerUnit);
  // USD knows Y or Z up alone.
  const placed = axesForFormat(extension, options, document, axes);
  const turned = reorient(taken, placed, metres);
  return options.triangulate ? { ...turned, meshes: turned.meshes.map(toTriangles) } : turned;
}

function statedAxes(options: ConvertOptions, unstated: boolean, document: SceneDocument): AxisSystem {
  if (options.up === 'Z') return Z_UP;
  return options.up === 'Y' || unstated ? Y_UP : document.axes;
}

function axesForFormat(
  extension: string,
  options: ConvertOptions,
  document: SceneDocument,
  axes: AxisSystem,
) {
  if (extension.startsWith('usd') && !options.up) return document.axes.up.axis === 2 ? Z_UP : Y_UP;
  return axes;
}

/**
 * Converts an asset, as its file has it, into the format of the file name's extension. Images that were found
 * go into `maps/` beside the model, or into it. Throws `model.format` for an extension that is not written.
 */
export async function convertAsset(
  asset: OpenAsset,
  fileName: string,
  options: ConvertOptions = {},
): Promise<WrittenModel> {
  const extension = extensionOf(fileName);
  if (extension === 'gltf' || extension === 'glb') return convertToGltf(asset, fileName, extension, options);
  if (!(WRITABLE as readonly string[]).includes(extension)) {
    throw new KinkajouError(
      'model.format',
      `models of type .${extension} cannot be written`,
      { file: fileName },
      `Write one of ${[...WRITABLE, 'gltf', 'glb'].join(', ')}.`,
    );
  }
  const document = prepareDocument(asset.document, extension, options);
  const inside = extension === 'usdz' || (options.embed === true && extension === 'fbx');
  const { targets, files, losses } = await gatherImages(asset, document, {
    forPackage: extension === 'usdz',
    folder: options.mapsFolder ?? MAPS,
  });
  if (options.embed && extension !== 'fbx' && extension !== 'usdz')
    losses.push({ code: 'image.beside', detail: extension });
  const written = writeModel(document, fileName, {
    form: options.text ? 'text' : 'binary',
    splitLooks: options.splitLooks,
    carried: files,
    targetOf: (image) => {
      const target = targets.get(image.key) as ImageTarget;
      return inside && extension === 'fbx'
        ? { path: target.path, embed: files.get(target.path) ?? null }
        : target;
    },
  });
  if (!inside) for (const [path, bytes] of files) written.files.set(path, bytes);
  return { files: written.files, losses: [...losses, ...written.losses] };
}

/** Where each image of the document goes, and the bytes of those that are there. */
async function gatherImages(
  asset: OpenAsset,
  document: SceneDocument,
  { forPackage, folder }: { forPackage: boolean; folder: string },
) {
  const targets = new Map<string, ImageTarget>();
  const files = new Map<string, Uint8Array>();
  const losses: Loss[] = [];
  const nameFile = createNamer();
  const byPath = new Map<string, string>();
  for (const image of document.images) {
    const source = asset.source.images.find((assetImage) => assetImage.key === image.key);
    const written = image.written.replaceAll('\\', '/');
    if (!source?.resolved) {
      losses.push({ code: 'image.missing', detail: image.written });
      targets.set(image.key, {
        path: `${folder}/${written.slice(written.lastIndexOf('/') + 1)}`,
        embed: null,
      });
      continue;
    }
    let path = byPath.get(source.resolved);
    if (path === undefined) {
      const bytes = await asset.read(source.resolved);
      const type = extensionOf(source.resolved) || 'png';
      const repack = forPackage && !PACKAGE_TYPES.has(type);
      path = `${folder}/${nameFile(stemOf(source.resolved), 'map')}.${repack ? 'png' : type}`;
      files.set(path, repack ? await encodePng(toBytes(await decodeImage(bytes, source.resolved))) : bytes);
      byPath.set(source.resolved, path);
    }
    targets.set(image.key, { path, embed: null });
  }
  return { targets, files, losses };
}

/** glTF's packed images are made by the same plan as its handoff. */
async function convertToGltf(
  asset: OpenAsset,
  fileName: string,
  variant: 'gltf' | 'glb',
  options: ConvertOptions,
): Promise<WrittenModel> {
  if (options.embed && variant === 'gltf')
    throw new KinkajouError(
      'call.embed',
      'a .gltf file lies beside its images',
      { file: fileName },
      'Write .glb to carry them inside.',
    );
  const document = prepareDocument(asset.document, variant, { ...options, up: 'Y', metresPerUnit: 1 });
  const state = initialState(asset.source);
  const plan = planHandoff({ ...state, materials: document.materials }, asset.images, {
    ...webGltf,
    folder: options.mapsFolder ?? MAPS,
  });
  const baked = new Map<string, Uint8Array>();
  for (const image of plan.images) baked.set(image.file, await bakeImage(image, asset.read));
  const { files, losses } = await writeGltf(document, plan, baked, {
    name: cleanName(stemOf(fileName), 'asset'),
    variant,
  });
  const fixed: Loss[] = options.up === 'Z' ? [{ code: 'up.fixed' }] : [];
  return { files: renameFirst(files, fileName), losses: [...plan.losses, ...losses, ...fixed] };
}

/** The model under the name asked for, even where the package would clean it. */
function renameFirst(files: Map<string, Uint8Array>, fileName: string): Map<string, Uint8Array> {
  const [first, ...rest] = files;
  return new Map([[fileName, first[1]], ...rest]);
}
