import type { ParcelImage } from '@kinkajou/core/asset/asset';
import { type FileSource, missingFile } from '@kinkajou/core/parcel/fileSource';
import { and, eq, ne } from 'drizzle-orm';
import { blobs, streamBlob } from '../blobs.ts';
import { db } from '../db/client.ts';
import { parcelFiles, parcels } from '../db/schema.ts';
import { notFound } from '../respond.ts';

/** A parcel by its id; throws `notFound`. */
export async function findParcel(id: string) {
  const [row] = await db().select().from(parcels).where(eq(parcels.id, id));
  if (!row) throw notFound('parcel');
  return row;
}

/** Images of a parcel as the core wants them. */
export async function parcelImages(parcelId: string): Promise<ParcelImage[]> {
  const rows = await db()
    .select()
    .from(parcelFiles)
    .where(and(eq(parcelFiles.parcelId, parcelId), eq(parcelFiles.kind, 'file')))
    .orderBy(parcelFiles.path);
  return rows
    .filter((row) => row.info || row.fault)
    .map(({ path, size, sha256, modified, info, fault }) => ({
      path,
      size,
      sha256,
      modified: modified?.toISOString() ?? null,
      info,
      fault,
    }));
}

/** The stored files of a parcel as a source for the core. */
export async function parcelSource(parcelId: string): Promise<FileSource> {
  const parcel = await findParcel(parcelId);
  const rows = await db()
    .select()
    .from(parcelFiles)
    .where(and(eq(parcelFiles.parcelId, parcelId), ne(parcelFiles.kind, 'archive')))
    .orderBy(parcelFiles.path);
  const hashes = new Map(rows.map((row) => [row.path, row.sha256]));
  return {
    name: parcel.name,
    files: rows.map(({ path, size, modified }) => ({ path, size, modified })),
    notices: [],
    async read(path) {
      const hash = hashes.get(path);
      if (!hash) throw missingFile(parcel.name, path);
      return blobs.get(hash);
    },
    async *stream(path) {
      const hash = hashes.get(path);
      if (!hash) throw missingFile(parcel.name, path);
      yield* await streamBlob(hash);
    },
    async close() {},
  };
}
