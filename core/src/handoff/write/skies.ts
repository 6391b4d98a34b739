import { KinkajouError } from '../../errors.ts';
import { decodeImage } from '../../images/decode.ts';
import { encodePng } from '../../images/encode.ts';
import { encodeExr } from '../../images/exr.ts';
import { formatOfPath } from '../../images/format.ts';
import { drawEnvironment, ENVIRONMENTS, isEnvironmentKey } from '../../maps/environments.ts';
import { extensionOf, fileName, type ReadFile, stemOf } from '../../parcel/fileSource.ts';
import { cleanName, createNamer } from '../../parcel/names.ts';
import type { Light, SceneDocument } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import type { ImageEntry } from '../../scene/material.ts';
import { STAGE_ENVIRONMENT, type StageChoice } from '../../scene/stage.ts';
import type { HandoffPlan } from '../plan/plan.ts';
import { pathInPackage } from './destinationDocument.ts';
import type { PackageFiles } from './writeGltf.ts';

/**
 * What domes show, as it lies in the package: also beside models whose format has no dome, for people to
 * take.
 */
export interface Skies {
  images: ImageEntry[];
  files: PackageFiles;
  losses: Loss[];
  /** The document whose domes show what is there. */
  document: SceneDocument;
}

/** Where the pictures of domes come from. */
export interface SkySources {
  plan: HandoffPlan;
  /** Paths of the asset's images by key; absent or null where one is missing. */
  paths: ReadonlyMap<string, string | null>;
  read: ReadFile;
  /** Reads the picture that a stage names. */
  readEnvironment?: ReadFile;
}

/** Programs read these from a dome; all else is written anew: floats as EXR, the rest as PNG. */
const AS_THEY_ARE = ['exr', 'png', 'jpeg'];

/**
 * Gathers what the document's domes show. What cannot be had is told as a loss; a stage's picture that cannot
 * be read throws.
 */
export async function gatherSkies(document: SceneDocument, sources: SkySources): Promise<Skies> {
  const skies: Omit<Skies, 'document'> = { images: [], files: new Map(), losses: [] };
  const namer = createNamer();
  const keys = new Set(document.lights.flatMap(({ sky }: Light) => (sky ? [sky.image] : [])));
  for (const key of keys) {
    const made = key === STAGE_ENVIRONMENT ? await stagePicture(sources) : await ownPicture(key, sources);
    if ('code' in made) {
      skies.losses.push(made);
      continue;
    }
    const path = pathInPackage({
      folder: sources.plan.destination.folder,
      pattern: `${namer(skyName(made.name))}.${made.type}`,
    });
    skies.images.push({ key, written: path, relative: path, embedded: null });
    skies.files.set(path, made.bytes);
  }
  const shown = new Set(skies.images.map(({ key }) => key));
  const lights = document.lights.map(
    ({ sky, ...light }): Light => (sky && shown.has(sky.image) ? { ...light, sky } : light),
  );
  return { ...skies, document: { ...document, lights } };
}

/** Name of a sky's file without its type: no map of an asset begins like that. */
function skyName(name: string): string {
  return `environment_${cleanName(name, 'sky')}`;
}

/** The file that a stage's picture will be, as far as its name tells. */
export function plannedSky({ image, name = image }: NonNullable<StageChoice['environment']>): string {
  const format = formatOfPath(name);
  const made = isEnvironmentKey(image) || format === 'hdr' || format === 'tiff' ? 'exr' : 'png';
  return `${skyName(stemOf(name))}.${AS_THEY_ARE.includes(format ?? '') ? extensionOf(name) : made}`;
}

interface Sky {
  name: string;
  type: string;
  bytes: Uint8Array;
}

async function stagePicture({ plan, readEnvironment }: SkySources): Promise<Sky> {
  const { image = '', name = image } = plan.destination.stage?.environment ?? {};
  if (isEnvironmentKey(image))
    return {
      name: image,
      type: 'exr',
      bytes: await encodeExr({ ...drawEnvironment(image, 1024, 2), components: 3 }),
    };
  if (!readEnvironment)
    throw new KinkajouError(
      'handoff.stage',
      `there is no environment called ${image}`,
      {},
      `Take one of ${Object.keys(ENVIRONMENTS).join(', ')}, or a picture.`,
    );
  return asDomesTakeIt(name, await readEnvironment(image));
}

async function ownPicture(key: string, { paths, read }: SkySources): Promise<Sky | Loss> {
  const path = paths.get(key);
  if (!path) return { code: 'sky.missing', detail: fileName(key) };
  try {
    return await asDomesTakeIt(path, await read(path));
  } catch {
    return { code: 'sky.missing', detail: fileName(path) };
  }
}

async function asDomesTakeIt(path: string, bytes: Uint8Array): Promise<Sky> {
  const name = stemOf(path);
  if (AS_THEY_ARE.includes(formatOfPath(path) ?? '')) return { name, type: extensionOf(path), bytes };
  const pixels = await decodeImage(bytes, path);
  if (!(pixels.data instanceof Float32Array)) return { name, type: 'png', bytes: await encodePng(pixels) };
  return { name, type: 'exr', bytes: await encodeExr(pixels) };
}
