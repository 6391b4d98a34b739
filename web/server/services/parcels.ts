import { initialState, type ParcelImage } from '@kinkajou/core/asset/asset';
import { scanImage } from '@kinkajou/core/asset/scanImages';
import { describeEdit } from '@kinkajou/core/edits/log';
import { KinkajouError } from '@kinkajou/core/errors';
import { findFindings } from '@kinkajou/core/findings/checks';
import { isImagePath } from '@kinkajou/core/images/format';
import { listModels, noModelIn, type OpenAsset, openAsset } from '@kinkajou/core/inspect';
import { extensionOf, type FileSource, type SourceNotice, safePath } from '@kinkajou/core/parcel/fileSource';
import { pathWithin, takenPlace, withInnerZips } from '@kinkajou/core/parcel/innerZips';
import { limitsFromEnvironment, pastLimit } from '@kinkajou/core/parcel/limits';
import { zipSource } from '@kinkajou/core/parcel/zipSource';
import { previewGlb } from '@kinkajou/core/preview/previewGlb';
import { and, count, desc, eq, getTableColumns, isNotNull, ne, or, sql } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import type { EmbeddedRecord, FaultRecord } from '../db/rowTypes.ts';
import { assets, edits, jobs, parcelFiles, parcels } from '../db/schema.ts';
import { publish } from '../events.ts';
import { enqueue, JOB_FIELDS } from '../jobs/queue.ts';
import { faultOf, type JobEnd, type JobRun } from '../jobs/runJob.ts';
import { rememberedIntake } from './intake.ts';
import { findParcel, parcelImages, parcelSource } from './parcelFiles.ts';
import { moveKnowledge, touchParcel } from './revisions.ts';
import { firstTally } from './tally.ts';
import { drawSource } from './thumbnails.ts';

/** Begins a parcel that files are uploaded to; resolves to its id. */
export async function createParcel(name: string): Promise<string> {
  const [row] = await db().insert(parcels).values({ name }).returning({ id: parcels.id });
  return row.id;
}

/** Takes one uploaded file into a parcel that is still open, or a further image into one that was read. */
export async function addParcelFile(
  parcelId: string,
  path: string,
  modified: Date | null,
  stream: NodeJS.ReadableStream,
): Promise<void> {
  const parcel = await findParcel(parcelId);
  const safe = safePath(path);
  if (!safe)
    throw new KinkajouError('parcel.path', 'a file path must be relative and stay inside the parcel', {
      file: path,
    });
  const limits = limitsFromEnvironment();
  const [{ files }] = await db()
    .select({ files: count() })
    .from(parcelFiles)
    .where(eq(parcelFiles.parcelId, parcelId));
  if (files >= limits.entries) throw pastLimit('entries', parcel.name, files + 1, limits.entries);
  const { sha256, size } = await blobs.putStream(stream, safe, limits.fileBytes);
  const late = parcel.state === 'ready' || parcel.state === 'failed';
  const header =
    late && isImagePath(safe) ? await scanImage(safe, await blobs.get(sha256), modified, limits) : null;
  const row = {
    kind: 'file' as const,
    sha256,
    size,
    modified,
    info: header?.info ?? null,
    fault: header?.fault ?? null,
  };
  await db()
    .insert(parcelFiles)
    .values({ parcelId, path: safe, ...row })
    .onConflictDoUpdate({ target: [parcelFiles.parcelId, parcelFiles.path], set: row });
  if (late) await touchParcel(parcelId, `Added ${safe}`);
  if (header?.info) await enqueue('look-at-images', { parcelId }, { key: parcelId, delaySeconds: 1 });
}

/** Closes the upload: the parcel is read by a worker. */
export async function closeParcel(parcelId: string): Promise<void> {
  const jobId = await enqueue('read-parcel', { parcelId });
  await db().update(parcels).set({ state: 'reading', jobId }).where(eq(parcels.id, parcelId));
  await publish({ topic: 'parcel', id: parcelId });
}

/** Parcels that are not simply done: being read, failed, or with something left out. Newest first. */
export async function listOpenParcels() {
  const { progress, doing } = JOB_FIELDS;
  const noneRemoved = sql`(select count(*) from ${assets} where ${assets.parcelId} = ${parcels.id} and ${assets.removedAt} is not null) = 0`;
  return db()
    .select({ ...getTableColumns(parcels), progress, doing })
    .from(parcels)
    .leftJoin(jobs, eq(jobs.id, parcels.jobId))
    .where(or(ne(parcels.state, 'ready'), and(sql`jsonb_array_length(${parcels.faults}) > 0`, noneRemoved)))
    .orderBy(desc(parcels.createdAt))
    .limit(200);
}

/** Puts aside the list of what was left out, once a person has seen it. */
export async function dismissFaults(id: string): Promise<void> {
  await db()
    .update(parcels)
    .set({ faults: [] })
    .where(and(eq(parcels.id, id), eq(parcels.state, 'ready')));
  await publish({ topic: 'parcel', id });
}

/**
 * The job: unpacks archives, reads image headers, then every model. What fails is noted, the rest is kept.
 */
export async function readParcel({ data: { parcelId }, progress }: JobRun<'read-parcel'>): Promise<void> {
  const reading = new Reading(parcelId, progress);
  await reading.run();
  await moveKnowledge();
  await publish({ topic: 'parcel', id: parcelId });
  await publish({ topic: 'shelf', id: parcelId });
}

/**
 * Reads one model of a parcel, and no other that lies there. Returns its asset's id; throws where it cannot
 * be read.
 */
export async function readModelOf(parcelId: string, model: string, progress: Progress): Promise<string> {
  return new Reading(parcelId, progress).readOne(model);
}

/** A parcel that could not be read as a whole says why. */
export async function parcelEnded({ parcelId }: { parcelId: string }, { fault }: JobEnd): Promise<void> {
  const faults = fault ? [fault] : [];
  await db()
    .update(parcels)
    .set({ state: 'failed', faults: sql`${parcels.faults} || ${JSON.stringify(faults)}::jsonb` })
    .where(eq(parcels.id, parcelId));
  await publish({ topic: 'parcel', id: parcelId });
}

/**
 * Unpacks the zips of a parcel: one that came alone is the parcel, others are folders of their names. What
 * cannot be taken is returned as faults, the rest is kept.
 */
export async function unpackArchives(parcelId: string, progress: Progress): Promise<FaultRecord[]> {
  const faults: FaultRecord[] = [];
  const rows = await db().select().from(parcelFiles).where(eq(parcelFiles.parcelId, parcelId));
  const alone = rows.length === 1;
  for (const archive of rows.filter((row) => extensionOf(row.path) === 'zip')) {
    try {
      faults.push(...(await unpackArchive(archive, alone, progress)));
    } catch (error) {
      if (alone) throw error;
      faults.push(faultOf(error, archive.path));
    }
    await db().update(parcelFiles).set({ kind: 'archive' }).where(eq(parcelFiles.id, archive.id));
  }
  return faults;
}

async function unpackArchive(
  archive: typeof parcelFiles.$inferSelect,
  alone: boolean,
  progress: Progress,
): Promise<FaultRecord[]> {
  const { parcelId } = archive;
  const faults: FaultRecord[] = [];
  const limits = limitsFromEnvironment();
  const whole = await zipSource(await blobs.fileOf(archive.sha256), archive.path, limits);
  const zip = await withInnerZips(whole, limits);
  const toldOf = ({ code, path, message }: SourceNotice) =>
    faults.push({ code, message: `${path}: ${message}.`, hint: '', file: path });
  try {
    zip.notices.slice(0, 200).forEach(toldOf);
    for (const [i, file] of zip.files.entries()) {
      const path = alone ? file.path : pathWithin(archive.path, file.path);
      progress(i / zip.files.length, `unpacking ${path}`);
      try {
        const bytes = await zip.read(file.path);
        const sha256 = await blobs.put(bytes);
        // Its bytes are at hand now, and need not be read again for the header.
        const header = isImagePath(path) ? await scanImage(path, bytes, file.modified, limits) : null;
        const row = {
          sha256,
          size: file.size,
          modified: file.modified,
          info: header?.info ?? null,
          fault: header?.fault ?? null,
        };
        const added = await db()
          .insert(parcelFiles)
          .values({ parcelId, path, kind: 'file', ...row })
          .onConflictDoNothing()
          .returning({ id: parcelFiles.id });
        if (added.length === 0 && !(await hasFile(parcelId, path, sha256))) toldOf(takenPlace(path));
      } catch (error) {
        faults.push(faultOf(error, path));
      }
    }
  } finally {
    await zip.close();
  }
  return faults;
}

async function hasFile(parcelId: string, path: string, sha256: string): Promise<boolean> {
  const same = and(
    eq(parcelFiles.parcelId, parcelId),
    eq(parcelFiles.path, path),
    eq(parcelFiles.sha256, sha256),
  );
  return (await db().select({ id: parcelFiles.id }).from(parcelFiles).where(same).limit(1)).length > 0;
}

type Progress = JobRun<'read-parcel'>['progress'];

class Reading {
  readonly faults: FaultRecord[] = [];
  private readonly limits = limitsFromEnvironment();

  constructor(
    private readonly parcelId: string,
    private readonly progress: Progress,
  ) {}

  async run(): Promise<void> {
    const parcel = await findParcel(this.parcelId);
    this.faults.push(
      ...(await unpackArchives(this.parcelId, (share, doing) => this.progress(0.2 * share, doing))),
    );
    const source = await parcelSource(this.parcelId);
    const images = await this.scanHeaders(source);
    const models = listModels(source);
    if (source.files.length === 0 && this.faults.length === 0) {
      throw new KinkajouError(
        'parcel.empty',
        'there are no files in it',
        { file: parcel.name },
        'Pack the model with its images and drop it again.',
      );
    }
    if (models.length === 0 && source.files.length > 0) throw noModelIn(parcel.name, source.files);
    let read = 0;
    for (const [i, model] of models.entries()) {
      this.progress(0.4 + (0.6 * i) / models.length, `reading ${model}`);
      try {
        await this.readModel(source, model, images);
        read += 1;
      } catch (error) {
        this.faults.push(faultOf(error, model));
      }
    }
    await db()
      .update(parcels)
      .set({ state: read > 0 ? 'ready' : 'failed', faults: this.faults })
      .where(eq(parcels.id, this.parcelId));
    if (read > 0) await enqueue('look-at-images', { parcelId: this.parcelId });
  }

  async readOne(model: string): Promise<string> {
    const source = await parcelSource(this.parcelId);
    const id = await this.readModel(source, model, await this.scanHeaders(source));
    await enqueue('look-at-images', { parcelId: this.parcelId });
    return id;
  }

  private async scanHeaders(source: FileSource): Promise<ParcelImage[]> {
    const done = await db()
      .select({ path: parcelFiles.path })
      .from(parcelFiles)
      .where(
        and(
          eq(parcelFiles.parcelId, this.parcelId),
          or(isNotNull(parcelFiles.info), isNotNull(parcelFiles.fault)),
        ),
      );
    const known = new Set(done.map(({ path }) => path));
    const files = source.files.filter((file) => isImagePath(file.path) && !known.has(file.path));
    for (const [i, file] of files.entries()) {
      this.progress(0.2 + (0.2 * i) / files.length, `looking at ${file.path}`);
      const { info, fault } = await scanImage(
        file.path,
        await source.read(file.path),
        file.modified,
        this.limits,
      );
      await db()
        .update(parcelFiles)
        .set({ info, fault })
        .where(and(eq(parcelFiles.parcelId, this.parcelId), eq(parcelFiles.path, file.path)));
    }
    return parcelImages(this.parcelId);
  }

  private async readModel(source: FileSource, model: string, images: ParcelImage[]): Promise<string> {
    const { asset, row: described } = await describeModel(source, model, images);
    const row = { ...described, thumbnail: await drawSource(asset) };
    const [{ id }] = await db()
      .insert(assets)
      .values({ parcelId: this.parcelId, model, ...row })
      .onConflictDoUpdate({ target: [assets.parcelId, assets.model], set: row })
      .returning({ id: assets.id });
    const edit = await rememberedIntake(row.source.generator);
    if (!edit) return id;
    const text = describeEdit(edit);
    await db().insert(edits).values({ assetId: id, seq: 1, act: 1, edit, text }).onConflictDoNothing();
    await db()
      .update(assets)
      .set({ cursor: 1, lastEdit: text })
      .where(and(eq(assets.id, id), eq(assets.cursor, 0)));
    return id;
  }
}

/**
 * What an asset's row keeps of its model, read from stored files, but for the picture. Throws the reader's
 * errors.
 */
export async function assetRowOf(source: FileSource, parcelId: string, model: string) {
  return (await describeModel(source, model, await parcelImages(parcelId))).row;
}

async function describeModel(source: FileSource, model: string, images: ParcelImage[]) {
  const asset = await openAsset(source, model, limitsFromEnvironment(), images);
  const row = {
    name: asset.source.name,
    source: asset.source,
    embedded: await keepEmbedded(asset, images),
    geometry: await blobs.put(await previewGlb(asset.document)),
    ...firstTally(findFindings(asset.source, initialState(asset.source), asset.images)),
  };
  return { asset, row };
}

async function keepEmbedded(asset: OpenAsset, images: ParcelImage[]): Promise<EmbeddedRecord[]> {
  const existing = new Set(images.map((image) => image.path));
  const carried = asset.images.filter((image) => !existing.has(image.path));
  return Promise.all(
    carried.map(async ({ path, size, info, fault }) => ({
      path,
      size,
      info,
      fault,
      sha256: await blobs.put(await asset.read(path)),
    })),
  );
}
