import type { AssetState, ParcelImage } from '../asset/asset.ts';
import { describeSource, embeddedImages } from '../asset/describeSource.ts';
import { editedDocument } from '../asset/editedDocument.ts';
import { replay } from '../edits/log.ts';
import { KinkajouError } from '../errors.ts';
import { isImagePath } from '../images/format.ts';
import { tileOfPath } from '../links/tiles.ts';
import { parseWrittenPath } from '../links/writtenPath.ts';
import { extensionOf, type FileSource, folderOf, missingFile, stemOf } from '../parcel/fileSource.ts';
import type { SceneDocument } from '../scene/document.ts';
import { applyIntake } from '../scene/intake.ts';
import { type Joining, joinDocuments, withSkyKeys } from '../scene/joinDocuments.ts';
import { type ImageEntry, withImageKeys } from '../scene/material.ts';
import { JOINED, type JoinedModel, parseJoined } from './joinedFile.ts';

type Reader = (path: string, source: FileSource) => Promise<SceneDocument>;

/**
 * Reads a joined file and all models that it names into one document; images are written as seen from the
 * joined file. Throws `joined.invalid`, `joined.missing` for a model that is not there, and the errors of the
 * models' readers.
 */
export async function readJoined(
  path: string,
  source: FileSource,
  readModel: Reader,
): Promise<SceneDocument> {
  const { models } = parseJoined(await source.read(path), path);
  const documents: Joining[] = [];
  for (const entry of models) {
    const folder = inFolder(folderOf(path), entry.folder);
    const inner = subSource(source, folder);
    if (!inner.files.some((file) => file.path === entry.model)) {
      throw new KinkajouError(
        'joined.missing',
        `"${inFolder(folder, entry.model)}", which is joined here, is not there`,
        { file: path },
        'Deliver it again, or take it off the list.',
      );
    }
    if (extensionOf(entry.model) === JOINED && entry.folder === '')
      throw new KinkajouError(
        'joined.invalid',
        'a joined file beside this one may name it again',
        { file: path },
        'Name the models themselves.',
      );
    const document = await readModel(entry.model, inner);
    const placed =
      entry.edits.length > 0
        ? settledDocument(document, entry, inner)
        : fromFolder(document, folderOf(entry.model));
    documents.push({
      ...entry,
      name: entry.name || stemOf(entry.model),
      document: fromFolder(placed, entry.folder),
    });
  }
  const [{ document: base }, ...further] = documents;
  return { ...joinDocuments(base, further), variant: `${base.variant}, ${models.length} models joined` };
}

function inFolder(folder: string, path: string): string {
  return folder === '' || path === '' ? folder + path : `${folder}/${path}`;
}

/** The files of one folder, by their paths from there. */
function subSource(source: FileSource, folder: string): FileSource {
  if (folder === '') return source;
  const prefix = `${folder}/`;
  const { stream } = source;
  return {
    name: source.name,
    files: source.files
      .filter((file) => file.path.startsWith(prefix))
      .map((file) => ({ ...file, path: file.path.slice(prefix.length) })),
    notices: [],
    async read(path) {
      if (!source.files.some((file) => file.path === prefix + path))
        throw missingFile(source.name, prefix + path);
      return source.read(prefix + path);
    },
    ...(stream && { stream: (path: string) => stream.call(source, prefix + path) }),
    async close() {},
  };
}

/** Written paths as they are from a folder further up. */
function fromFolder(document: SceneDocument, folder: string): SceneDocument {
  if (folder === '') return document;
  const prefixed = (written: string) =>
    parseWrittenPath(written).absolute ? written : `${folder}/${written}`;
  const keys = new Map<string, string>();
  const images = document.images.map((image): ImageEntry => {
    if (image.embedded) return image;
    const moved = {
      ...image,
      written: prefixed(image.written),
      relative: image.relative === null ? null : prefixed(image.relative),
    };
    keys.set(image.key, image.key === image.written ? moved.written : prefixed(image.key));
    return { ...moved, key: keys.get(image.key) as string };
  });
  const materials = document.materials.map((material) => withImageKeys(material, keys));
  return { ...document, images, materials, lights: withSkyKeys(document.lights, keys) };
}

/** A model as edits have left it, as if its file had said so. */
function settledDocument(
  document: SceneDocument,
  { model, edits }: JoinedModel,
  source: FileSource,
): SceneDocument {
  const carried = embeddedImages(document);
  const paths = [
    ...source.files.map((file) => file.path).filter(isImagePath),
    ...carried.map((image) => image.path),
  ];
  const images = paths.map(
    (path): ParcelImage => ({ path, size: 0, sha256: '', modified: null, info: null, fault: null }),
  );
  const { state } = replay(describeSource(document, model, paths), edits, images);
  const { document: edited } = editedDocument(document, state);
  const editedMaterials = new Map(state.materials.map((material) => [material.key, material]));
  const materials = edited.materials.map((material) => ({
    ...material,
    ...editedMaterials.get(material.key),
    name: material.name,
  }));
  const bytes = new Map(carried.map((image) => [image.path, image.bytes]));
  return applyIntake(
    { ...edited, materials, images: state.images.map((image) => imageAs(image, bytes)) },
    state.intake,
  );
}

/** An image by the file that it was found to be; one that is missing as it was written. */
function imageAs(
  { key, written, relative, resolved, tiles }: AssetState['images'][number],
  carried: ReadonlyMap<string, Uint8Array>,
): ImageEntry {
  if (resolved === null) return { key, written, relative, embedded: null };
  const embedded = carried.get(resolved) ?? null;
  if (embedded) return { key, written: resolved, relative: null, embedded };
  const pattern = tiles ? tileOfPath(resolved)?.pattern : undefined;
  return { key, written: pattern ?? resolved, relative: null, embedded: null };
}
