import { once } from 'node:events';
import { createReadStream, createWriteStream } from 'node:fs';
import { rename, rm, stat } from 'node:fs/promises';
import { basename, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import type { Edit } from '@kinkajou/core/asset/asset';
import { describeEdit } from '@kinkajou/core/edits/log';
import { parseEdit } from '@kinkajou/core/edits/schema';
import { KinkajouError } from '@kinkajou/core/errors';
import { extensionOf, type FileSource, safePath } from '@kinkajou/core/parcel/fileSource';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { zipSource } from '@kinkajou/core/parcel/zipSource';
import { asc, eq } from 'drizzle-orm';
import Joi from 'joi';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, edits, parcelFiles, parcels } from '../db/schema.ts';
import { publish } from '../events.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { findAsset } from './assetRow.ts';
import { findParcel } from './parcelFiles.ts';
import { addParcelFile, closeParcel, createParcel, readModelOf, readParcel } from './parcels.ts';
import { moveKnowledge, moveRevision } from './revisions.ts';
import { refreshSeverities } from './shelf.ts';
import { requestThumbnail } from './thumbnails.ts';
import { addBlob, createZip } from './zipBlob.ts';

const MANIFEST = 'asset.json';
const FILES = 'files/';
const VERSION = 1;

/** What an exported asset is besides the contents of its files. */
interface Manifest {
  kinkajouAsset: number;
  name: string;
  parcel: string;
  model: string;
  edits: { edit: Edit; text: string; act: number }[];
  /** How many of them are in force; the rest were undone. */
  cursor: number;
  files: { path: string; sha256: string; modified: string | null }[];
}

const manifestSchema = Joi.object<Manifest>({
  kinkajouAsset: Joi.number().integer().required(),
  name: Joi.string().max(4096).required(),
  parcel: Joi.string().max(4096).required(),
  model: Joi.string().max(4096).required(),
  cursor: Joi.number().integer().min(0).required(),
  files: Joi.array()
    .items(
      Joi.object({
        path: Joi.string().max(4096).required(),
        sha256: Joi.string().hex().length(64).required(),
        modified: Joi.string().isoDate().allow(null).required(),
      }),
    )
    .min(1)
    .required(),
  edits: Joi.array()
    .items(
      Joi.object({
        edit: Joi.object().required(),
        act: Joi.number().integer().min(1).required(),
        text: Joi.string().allow(''),
      }),
    )
    .required(),
});

/** An asset as one file: its parcel byte for byte and its edit log, undone edits included. */
export async function exportAsset(id: string): Promise<{ fileName: string; stream: NodeJS.ReadableStream }> {
  const asset = await findAsset(id);
  const parcel = await findParcel(asset.parcelId);
  const rows = await db()
    .select()
    .from(parcelFiles)
    .where(eq(parcelFiles.parcelId, asset.parcelId))
    .orderBy(parcelFiles.path);
  const log = await db().select().from(edits).where(eq(edits.assetId, id)).orderBy(asc(edits.seq));
  // What was unpacked goes as it is; the archive that it came in would be the same once more.
  const files = rows.filter(({ kind }) => kind === 'file');
  const manifest: Manifest = {
    kinkajouAsset: VERSION,
    name: asset.name,
    parcel: parcel.name,
    model: asset.model,
    cursor: asset.cursor,
    files: files.map(({ path, sha256: hash, modified }) => ({
      path,
      sha256: hash,
      modified: modified?.toISOString() ?? null,
    })),
    edits: log.map(({ edit, text, act }) => ({ edit, text, act })),
  };
  const { zip, stream } = createZip();
  zip.addBuffer(Buffer.from(JSON.stringify(manifest, null, 2)), MANIFEST);
  for (const hash of new Set(files.map((file) => file.sha256))) {
    // What was changed or lost is told before anything is written.
    if (!(await blobs.isWhole(hash))) await blobs.get(hash);
    addBlob(zip, hash, `${FILES}${hash}`);
  }
  zip.end();
  return { fileName: `${asset.name.replaceAll(/[^\p{L}\p{N}._ -]+/gu, '_')}.asset.zip`, stream };
}

/** Writes an asset to a file that appears whole; one that is there already is not written over. */
export async function exportToFile(id: string, file: string): Promise<{ file: string; bytes: number }> {
  const target = resolve(file);
  if (await stat(target).catch(() => null))
    throw new KinkajouError('out.occupied', 'there is a file already', { file }, 'Name another one.');
  const { stream } = await exportAsset(id);
  const part = `${target}.part`;
  try {
    await pipeline(stream, createWriteStream(part));
    await rename(part, target);
  } finally {
    await rm(part, { force: true });
  }
  return { file, bytes: (await stat(target)).size };
}

/** Takes the file of an exported asset in, as if it had been dropped. */
export async function importFromFile(file: string): Promise<{ parcel: string; name: string }> {
  const stream = createReadStream(file);
  await once(stream, 'open');
  const name = basename(file);
  const parcel = await createParcel(name.replace(/\.asset\.zip$/i, ''));
  await addParcelFile(parcel, name, null, stream);
  await closeParcel(parcel);
  return { parcel, name };
}

/**
 * The job: reads what was sent. A zip alone that is an exported asset comes in as it was, with its log; all
 * else is a parcel.
 */
export async function readWhatCame(run: JobRun<'read-parcel'>): Promise<void> {
  const { parcelId } = run.data;
  const rows = await db().select().from(parcelFiles).where(eq(parcelFiles.parcelId, parcelId));
  if (rows.length !== 1 || extensionOf(rows[0].path) !== 'zip') return readParcel(run);
  const [{ path, sha256: hash }] = rows;
  const source = await zipSource(await blobs.fileOf(hash), path, limitsFromEnvironment());
  try {
    if (!source.files.some((file) => file.path === MANIFEST)) return readParcel(run);
    await readExported(run, await readManifest(source, path), source);
  } finally {
    await source.close();
  }
}

/** Lays the files out as they were, reads the model, and puts the edit log and its cursor back. */
async function readExported(
  { data: { parcelId }, progress }: JobRun<'read-parcel'>,
  manifest: Manifest,
  source: FileSource,
): Promise<void> {
  const rows: (typeof parcelFiles.$inferInsert)[] = [];
  for (const [i, { path, sha256: content, modified }] of manifest.files.entries()) {
    progress((0.4 * i) / manifest.files.length, `taking in ${path}`);
    const bytes = await source.read(`${FILES}${content}`);
    if (sha256(bytes) !== content)
      throw refused(`the content of ${path} is not what the list says`, source.name);
    const kept = {
      sha256: await blobs.put(bytes),
      size: bytes.length,
      modified: modified === null ? null : new Date(modified),
    };
    rows.push({ parcelId, path, kind: 'file', ...kept });
  }
  await db().transaction(async (tx) => {
    await tx.delete(parcelFiles).where(eq(parcelFiles.parcelId, parcelId));
    for (let i = 0; i < rows.length; i += 500) await tx.insert(parcelFiles).values(rows.slice(i, i + 500));
  });
  const id = await readModelOf(parcelId, manifest.model, progress);
  const log = manifest.edits.map((entry, i) => ({ assetId: id, seq: i + 1, ...entry }));
  await db().transaction(async (tx) => {
    await tx.delete(edits).where(eq(edits.assetId, id));
    for (let i = 0; i < log.length; i += 200) await tx.insert(edits).values(log.slice(i, i + 200));
    const { cursor } = manifest;
    await tx
      .update(assets)
      .set({ cursor, lastEdit: log[cursor - 1]?.text ?? '' })
      .where(eq(assets.id, id));
    await moveRevision(tx, id, { text: 'Imported with its log' });
  });
  await db().update(parcels).set({ name: manifest.parcel, state: 'ready' }).where(eq(parcels.id, parcelId));
  await moveKnowledge();
  await refreshSeverities(id);
  await requestThumbnail(id);
  await publish({ topic: 'parcel', id: parcelId });
  await publish({ topic: 'shelf', id });
}

function refused(message: string, file: string): KinkajouError {
  return new KinkajouError(
    'import.broken',
    message,
    { file },
    'Use a file that "Export" or "kinkajou export" wrote.',
  );
}

async function readManifest(source: FileSource, file: string): Promise<Manifest> {
  const refuse = (message: string) => refused(message, file);
  let parsed: unknown;
  try {
    parsed = JSON.parse(new TextDecoder().decode(await source.read(MANIFEST)));
  } catch {
    throw refuse(`${MANIFEST} is no JSON`);
  }
  if (
    (parsed as Manifest | null)?.kinkajouAsset !== VERSION &&
    typeof (parsed as Manifest | null)?.kinkajouAsset === 'number'
  )
    throw new KinkajouError(
      'import.newer',
      'another version of Kinkajou exported this',
      { file },
      'Import it with that version.',
    );
  const { error, value } = manifestSchema.validate(parsed);
  if (error) throw refuse(`${MANIFEST}: ${error.message}`);
  const manifest = value as Manifest;
  const stored = new Set(source.files.map(({ path }) => path));
  const lacking = manifest.files.find((one) => !stored.has(`${FILES}${one.sha256}`));
  if (lacking) throw refuse(`the content of ${lacking.path} is missing`);
  const outside = manifest.files.find(({ path }) => safePath(path) !== path);
  if (outside) throw refuse(`${outside.path} leads out of the parcel`);
  if (!manifest.files.some(({ path }) => path === manifest.model))
    throw refuse(`its model ${manifest.model} is missing`);
  if (manifest.cursor > manifest.edits.length) throw refuse('more edits are in force than it holds');
  return {
    ...manifest,
    edits: manifest.edits.map(({ edit, act }) => ({ edit: parseEdit(edit), act, text: describeEdit(edit) })),
  };
}
