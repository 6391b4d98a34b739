import { KinkajouError } from '../errors.ts';
import { extensionOf, type FileSource } from '../parcel/fileSource.ts';
import { DEFAULT_LIMITS, type Limits, pastLimit } from '../parcel/limits.ts';
import type { SceneDocument } from '../scene/document.ts';
import { readFbx } from './fbx/readFbx.ts';
import { readObj } from './obj/readObj.ts';

/** Extensions of model files, whether or not they can be read. */
const MODEL_EXTENSIONS = ['fbx', 'obj', 'usd', 'usda', 'usdc', 'usdz', 'gltf', 'glb'];

export function isModelPath(path: string): boolean {
  return MODEL_EXTENSIONS.includes(extensionOf(path));
}

/**
 * Reads a model of the source into the neutral document. Throws `model.format` for a format that cannot be read,
 * and the reader's own errors, each with the file's path.
 */
export async function readModel(path: string, source: FileSource, limits: Limits = DEFAULT_LIMITS): Promise<SceneDocument> {
  const extension = extensionOf(path);
  if (extension !== 'fbx' && extension !== 'obj') {
    throw new KinkajouError('model.format', `models of type .${extension} cannot be read yet`, { file: path }, 'Export the model as FBX or OBJ.');
  }
  const bytes = await source.read(path);
  if (bytes.length === 0) throw new KinkajouError('model.empty', 'the file is empty', { file: path }, 'Copy it again.');
  const document = extension === 'fbx' ? readFbx(bytes, path, limits) : await readObj(bytes, path, source);
  const polygons = document.meshes.reduce((sum, mesh) => sum + mesh.faceCounts.length, 0);
  if (polygons > limits.polygons) throw pastLimit('polygons', path, polygons, limits.polygons);
  return document;
}
