import { checkMake, type MakeRequest, makeMaps, previewMaps } from '@kinkajou/core/asset/makeMaps';
import { toBytes } from '@kinkajou/core/colour/quantise';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { encodePng } from '@kinkajou/core/images/encode';
import type { PixelBuffer } from '@kinkajou/core/images/pixelBuffer';
import { heatPicture } from '@kinkajou/core/images/heat';
import { cropBuffer } from '@kinkajou/core/images/components';
import { busiestEdge } from '@kinkajou/core/maps/edgeFacts';
import type { Figure } from '@kinkajou/core/materials/recipes/recipe';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { desc, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { type MakingNote, makings } from '../db/schema.ts';
import { publish } from '../events.ts';
import { enqueue } from '../queue.ts';
import { notFound } from '../respond.ts';
import { currentState } from './assets.ts';
import { decodeKept } from './decodeKept.ts';
import { addEdits } from './edits.ts';
import { keepImage } from './keepImage.ts';

export type MakingRow = typeof makings.$inferSelect;

const TELL_MS = 300;

/** Asks for new images; what cannot be done is told at once. */
export async function requestMaking(assetId: string, request: MakeRequest): Promise<MakingRow> {
  const { state } = await currentState(assetId);
  checkMake(request, state);
  const [row] = await db().insert(makings).values({ assetId, request }).returning();
  await enqueue('make-maps', { makingId: row.id });
  await publish({ topic: 'making', id: assetId });
  return row;
}

export function listMakings(assetId: string): Promise<MakingRow[]> {
  return db().select().from(makings).where(eq(makings.assetId, assetId)).orderBy(desc(makings.createdAt)).limit(20);
}

export async function cancelMaking(id: string): Promise<void> {
  const [row] = await db().select().from(makings).where(eq(makings.id, id));
  if (!row) throw notFound('job');
  await db()
    .update(makings)
    .set({ cancelRequested: true, ...(row.state === 'queued' ? { state: 'cancelled' as const } : {}) })
    .where(eq(makings.id, id));
  await publish({ topic: 'making', id: row.assetId });
}

/** The job: new images in the parcel, beside the originals, and the edit that puts them to use. */
export async function runMaking(id: string): Promise<void> {
  const [row] = await db().select().from(makings).where(eq(makings.id, id));
  if (row?.state !== 'queued') return;
  const { assetId, request } = row;
  const update = async (values: Partial<typeof makings.$inferInsert>) => {
    const [now] = await db().update(makings).set(values).where(eq(makings.id, id)).returning({ cancel: makings.cancelRequested });
    await publish({ topic: 'making', id: assetId });
    return now;
  };
  await update({ state: 'running' });
  let told = Date.now();
  try {
    const { asset, state, images } = await currentState(assetId);
    const hashes = new Map(images.map((image) => [image.path, image.sha256]));
    const { files, edit, notes } = await makeMaps(request, state, (path) => blobs.get(hashes.get(path) ?? ''), {
      limits: limitsFromEnvironment(),
      async progress(share) {
        if (Date.now() - told < TELL_MS) return;
        told = Date.now();
        if ((await update({ progress: share }))?.cancel !== false) throw new KinkajouError('making.cancelled', 'cancelled');
      },
    });
    for (const { path, bytes } of files) await keepImage(asset.parcelId, path, bytes);
    if (edit) await addEdits(assetId, [edit]);
    if (files.length > 0) await enqueue('look-at-images', { parcelId: asset.parcelId });
    const kept: MakingNote[] = [];
    for (const { heat, ...note } of notes) kept.push({ ...note, heat: heat && { title: heat.title, sha256: await blobs.put(heat.bytes) } });
    await update({ state: 'done', progress: 1, paths: files.map(({ path }) => path), notes: kept });
  } catch (error) {
    const known = toKinkajouError(error);
    await update(known.code === 'making.cancelled' ? { state: 'cancelled' } : { state: 'failed', message: known.toText() });
  }
}

/** A picture before and after; data as PNG in base64. `before` is null where the slot had no map. */
export interface PreviewPicture {
  channel: string;
  before: string | null;
  after: string;
}

export interface MakingPreview {
  pictures: PreviewPicture[];
  heat: { title: string; png: string } | null;
  figures: Figure[];
  /** Slots that change without new pixels, in words. */
  rewired: string[];
}

const PREVIEW_SIZE = 384;
const WINDOW = 160;

/** What a recipe would make, in small; with `closeUp` a window of the full size where an edge is. */
export async function previewMaking(assetId: string, request: MakeRequest, closeUp: boolean): Promise<MakingPreview> {
  const { state, images } = await currentState(assetId);
  const hashes = new Map(images.map((image) => [image.path, image.sha256]));
  let window: { x: number; y: number } | null = null;
  const sources = new Map<string, PixelBuffer>();
  const result = await previewMaps(request, state, (path) => blobs.get(hashes.get(path) ?? ''), {
    maxSize: closeUp ? 0 : PREVIEW_SIZE,
    async decode(path) {
      const pixels = await decodeKept(hashes.get(path) ?? '', path, closeUp ? 0 : PREVIEW_SIZE);
      if (!closeUp) {
        sources.set(path, pixels);
        return pixels;
      }
      window ??= busiestEdge(pixels, WINDOW);
      const part = cropBuffer(pixels, window.x, window.y, WINDOW, WINDOW);
      sources.set(path, part);
      return part;
    },
  });
  const material = state.materials.find(({ key }) => key === request.materials[0]);
  const before = (channel: string) => {
    const use = material?.channels[channel as keyof typeof material.channels]?.map;
    const path = use && state.images.find(({ key }) => key === use.image)?.resolved;
    return path ? sources.get(path) : undefined;
  };
  const pictures: PreviewPicture[] = [];
  for (const { channel, pixels } of result.images) {
    const source = before(channel);
    pictures.push({ channel, before: source ? await pngText(source) : null, after: await pngText(pixels) });
  }
  return {
    pictures,
    heat: result.heat ? { title: result.heat.title, png: await pngText(heatPicture(result.heat.pixels)) } : null,
    figures: result.figures,
    rewired: result.slots
      .filter(({ map }) => map !== 'made' && !(map && 'made' in map))
      .map(({ channel, value, map }) => `${channel}: ${value === null ? 'empty' : map ? 'the same map read another way' : valueInWords(value)}`),
  };
}

function valueInWords(value: number | readonly number[]): string {
  return (typeof value === 'number' ? [value] : value).map((part) => part.toFixed(3)).join(' ');
}

async function pngText(pixels: PixelBuffer): Promise<string> {
  return Buffer.from(await encodePng(toBytes(pixels))).toString('base64');
}
