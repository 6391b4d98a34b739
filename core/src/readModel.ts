import { KinkajouError, toKinkajouError } from './errors.ts';
import { readFbx } from './formats/fbx/readFbx.ts';
import { readGltf } from './formats/gltf/readGltf.ts';
import { readObj } from './formats/obj/readObj.ts';
import { readUsd } from './formats/usd/readUsd.ts';
import { installedGuard } from './guard/guard.ts';
import { JOINED } from './join/joinedFile.ts';
import { readJoined } from './join/readJoined.ts';
import {
  extensionOf,
  type FileSource,
  isOtherArchive,
  type MODEL_TYPES,
  otherArchive,
} from './parcel/fileSource.ts';
import { DEFAULT_LIMITS, type Limits, pastLimit } from './parcel/limits.ts';
import { alignUvSets } from './scene/alignUvSets.ts';
import type { SceneDocument } from './scene/document.ts';
import { makeWholesome } from './scene/wholesome.ts';

type Reader = (path: string, source: FileSource, limits: Limits) => Promise<SceneDocument>;

const usd: Reader = async (path, source, limits) =>
  readUsd(await source.read(path), path, source, limits.nesting);
const gltf: Reader = async (path, source) => readGltf(await source.read(path), path, source);

/** Readers by extension. */
const READERS: Record<(typeof MODEL_TYPES)[number] | typeof JOINED, Reader> = {
  fbx: async (path, source, limits) => readFbx(await source.read(path), path, limits),
  obj: async (path, source) =>
    readObj(source.stream ? source.stream(path) : await source.read(path), path, source),
  usd,
  usda: usd,
  usdc: usd,
  usdz: usd,
  gltf,
  glb: gltf,
  [JOINED]: (path, source, limits) => readJoined(path, source, (inner, from) => readOne(inner, from, limits)),
};

/** Whether the extension is one of a model format that is read. */
export function isModelPath(path: string): boolean {
  return Object.hasOwn(READERS, extensionOf(path));
}

/**
 * Reads a model of the source into the neutral document. Throws `model.format` for a format that is not read,
 * and the reader's own errors, each with the file's path.
 */
export async function readModel(
  path: string,
  source: FileSource,
  limits: Limits = DEFAULT_LIMITS,
): Promise<SceneDocument> {
  refuse(path, source, limits);
  const guard = installedGuard();
  return guard ? guard.readModel(path, source, limits) : readModelHere(path, source, limits);
}

async function readOne(path: string, source: FileSource, limits: Limits): Promise<SceneDocument> {
  refuse(path, source, limits);
  return readModelHere(path, source, limits);
}

/** Throws for what no reader need be asked about. */
function refuse(path: string, source: FileSource, limits: Limits): void {
  if (isOtherArchive(path)) throw otherArchive(path);
  if (!isModelPath(path)) {
    throw new KinkajouError(
      'model.format',
      `models of type .${extensionOf(path)} cannot be read`,
      { file: path },
      'Export the model as FBX, OBJ, USD or glTF.',
    );
  }
  const size = source.files.find((file) => file.path === path)?.size;
  if (size === 0)
    throw new KinkajouError('model.empty', 'the file is empty', { file: path }, 'Copy it again.');
  if (size !== undefined && size > limits.fileBytes)
    throw pastLimit('fileBytes', path, size, limits.fileBytes);
}

/** The same in this thread, whatever it takes. Whatever a reader trips over comes out as `model.broken`. */
export async function readModelHere(
  path: string,
  source: FileSource,
  limits: Limits,
): Promise<SceneDocument> {
  let document: SceneDocument;
  try {
    document = await READERS[extensionOf(path) as keyof typeof READERS](path, source, limits);
    makeWholesome(document);
    document = alignUvSets(document);
  } catch (error) {
    throw error instanceof KinkajouError
      ? toKinkajouError(error, 'model.broken', { file: path })
      : broken(path, error);
  }
  const polygons = document.meshes.reduce((sum, mesh) => sum + mesh.faceCounts.length, 0);
  if (polygons > limits.polygons) throw pastLimit('polygons', path, polygons, limits.polygons);
  return document;
}

/** What the reader has no words of its own for: contents that contradict each other. */
function broken(path: string, cause: unknown): KinkajouError {
  const error = new KinkajouError(
    'model.broken',
    'its content contradicts itself, so it cannot be read',
    { file: path },
    'Export or copy the file again.',
  );
  error.cause = cause;
  return error;
}
