import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { AssetState, Edit, ParcelImage } from '@kinkajou/core/asset/asset';
import { usesOfImages } from '@kinkajou/core/asset/asset';
import { KinkajouError } from '@kinkajou/core/errors';
import { foldName } from '@kinkajou/core/links/fileIndex';
import { parseWrittenPath } from '@kinkajou/core/links/writtenPath';
import { isElsewhere, pathOf, placeOf } from '@kinkajou/core/parcel/filePlace';
import { and, eq, inArray, isNotNull, ne } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { parcelFiles, rootFiles, searchRoots, stemOfPath } from '../db/schema.ts';
import type { AssetRow } from './assetRow.ts';

/** Most images that are offered from elsewhere. */
const MOST = 2000;

/**
 * Images of search roots and of other parcels whose names fit what is missing, as candidates:
 * `search/ROOT/PATH` and `parcels/PARCEL/PATH`. They come into the asset's own parcel when they are linked.
 */
export async function furtherImages(
  asset: AssetRow,
  state: AssetState,
  images: readonly ParcelImage[],
): Promise<ParcelImage[]> {
  const uses = usesOfImages(state);
  const missing = state.images.filter((image) => image.status === 'missing' && uses.has(image.key));
  const stems = [
    ...new Set(
      missing.map((image) => foldName(parseWrittenPath(image.written).stem)).filter((stem) => stem !== ''),
    ),
  ];
  if (stems.length === 0) return [];
  const roots = await db()
    .select()
    .from(rootFiles)
    .where(and(inArray(rootFiles.stem, stems), isNotNull(rootFiles.sha256)))
    .limit(MOST);
  const others = await db()
    .select()
    .from(parcelFiles)
    .where(
      and(
        ne(parcelFiles.parcelId, asset.parcelId),
        eq(parcelFiles.kind, 'file'),
        isNotNull(parcelFiles.info),
        inArray(stemOfPath(parcelFiles.path), stems),
      ),
    )
    .limit(MOST);
  // Content that lies in the parcel already is no further candidate, and of equal ones elsewhere the first
  // will do.
  const existing = new Set(images.map((image) => image.sha256));
  return [
    ...roots
      .filter(({ sha256 }) => sha256 && !existing.has(sha256) && existing.add(sha256))
      .map(
        ({ rootId, path, size, modified, sha256, info }): ParcelImage => ({
          path: pathOf({ in: 'searchFolder', folder: rootId, path }),
          size,
          sha256: sha256 as string,
          modified: modified.toISOString(),
          info,
          fault: null,
        }),
      ),
    ...others
      .filter(({ path, sha256 }) => !isElsewhere(path) && !existing.has(sha256) && existing.add(sha256))
      .map(
        ({ parcelId, path, size, modified, sha256, info }): ParcelImage => ({
          path: pathOf({ in: 'otherParcel', parcel: parcelId, path }),
          size,
          sha256,
          modified: modified?.toISOString() ?? null,
          info,
          fault: null,
        }),
      ),
  ];
}

/**
 * Brings the images of these edits that lie elsewhere into the parcel, so that the asset stands on its own.
 */
export async function copyIntoParcel(parcelId: string, edits: readonly Edit[]): Promise<void> {
  const paths = new Set<string>();
  for (const edit of edits) {
    if (edit.kind === 'linkImages') for (const { path } of edit.links) paths.add(path);
    if (edit.kind === 'assignSlots') for (const { image } of edit.assignments) paths.add(image);
  }
  for (const path of paths) {
    const place = placeOf(path);
    if (place.in === 'parcel' || place.in === 'model') continue;
    const row =
      place.in === 'searchFolder'
        ? await fromRoot(place.folder, place.path)
        : await fromParcel(place.parcel, place.path);
    await db()
      .insert(parcelFiles)
      .values({ parcelId, path, kind: 'file', ...row })
      .onConflictDoNothing();
  }
}

async function fromRoot(rootId: number, path: string) {
  const [found] = await db()
    .select()
    .from(rootFiles)
    .innerJoin(searchRoots, eq(searchRoots.id, rootFiles.rootId))
    .where(and(eq(rootFiles.rootId, rootId), eq(rootFiles.path, path)));
  if (!found)
    throw new KinkajouError(
      'search.gone',
      'it is no longer in the search folder',
      { file: path },
      'Have the folder indexed again.',
    );
  const bytes = await readFile(join(found.search_roots.path, path)).catch(() => null);
  if (!bytes)
    throw new KinkajouError(
      'search.gone',
      'it can no longer be read from the search folder',
      { file: path },
      'Have the folder indexed again.',
    );
  const sha256 = await blobs.put(bytes);
  if (sha256 !== found.root_files.sha256)
    throw new KinkajouError(
      'search.changed',
      'it has changed since the folder was indexed',
      { file: path },
      'Have the folder indexed again.',
    );
  const { size, modified, info } = found.root_files;
  return { sha256, size, modified, info };
}

async function fromParcel(parcelId: string, path: string) {
  const [found] = await db()
    .select()
    .from(parcelFiles)
    .where(and(eq(parcelFiles.parcelId, parcelId), eq(parcelFiles.path, path)));
  if (!found) throw new KinkajouError('search.gone', 'the parcel that held it was removed', { file: path });
  const { sha256, size, modified, info } = found;
  return { sha256, size, modified, info };
}
