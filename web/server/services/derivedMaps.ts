import { checkMake, type MakeRequest, makeMaps, previewMaps } from '@kinkajou/core/asset/makeMaps';
import { toBytes } from '@kinkajou/core/colour/quantise';
import { cropBuffer } from '@kinkajou/core/images/components';
import { encodePng } from '@kinkajou/core/images/encode';
import { heatPicture } from '@kinkajou/core/images/heat';
import type { PixelBuffer } from '@kinkajou/core/images/pixelBuffer';
import { busiestEdge } from '@kinkajou/core/maps/edgeFacts';
import type { Figure, MadeSlot } from '@kinkajou/core/materials/recipes/recipe';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { desc, eq, getTableColumns } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import type { DerivedMapNote } from '../db/rowTypes.ts';
import { jobs, makings } from '../db/schema.ts';
import { enqueue, JOB_FIELDS } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { notFound } from '../respond.ts';
import { currentState } from './assetState.ts';
import { decodeKept } from './decodeKept.ts';
import { addEdits } from './edits.ts';
import { keepImage } from './keepImage.ts';

/** What a job makes, with how far the job is. */
export type DerivedMapRow = Awaited<ReturnType<typeof listDerivedMaps>>[number];

/** Asks for new images; what cannot be done is told at once. Returns the job's id. */
export async function requestDerivedMap(assetId: string, request: MakeRequest): Promise<string> {
  const { state } = await currentState(assetId);
  checkMake(request, state);
  return enqueue(
    'make-maps',
    { assetId },
    { with: (tx, id) => tx.insert(makings).values({ id, assetId, request }) },
  );
}

/** Maps made for an asset with their jobs, the latest first. */
export function listDerivedMaps(assetId: string) {
  return db()
    .select({ ...getTableColumns(makings), ...JOB_FIELDS })
    .from(makings)
    .innerJoin(jobs, eq(jobs.id, makings.id))
    .where(eq(makings.assetId, assetId))
    .orderBy(desc(makings.createdAt))
    .limit(20);
}

/** The job: new images in the parcel, beside the originals, and the edit that puts them to use. */
export async function runDerivedMap({ id, data: { assetId }, progress }: JobRun<'make-maps'>): Promise<void> {
  const [row] = await db().select().from(makings).where(eq(makings.id, id));
  if (!row) throw notFound('job');
  const { asset, state, images } = await currentState(assetId);
  const hashes = new Map(images.map((image) => [image.path, image.sha256]));
  const { files, edit, notes } = await makeMaps(
    row.request,
    state,
    (path) => blobs.get(hashes.get(path) ?? ''),
    {
      limits: limitsFromEnvironment(),
      progress: async (share) => progress(share, 'making images'),
    },
  );
  for (const { path, bytes } of files) await keepImage(asset.parcelId, path, bytes);
  const kept: DerivedMapNote[] = [];
  for (const { heat, ...note } of notes)
    kept.push({ ...note, heat: heat && { title: heat.title, sha256: await blobs.put(heat.bytes) } });
  await db()
    .update(makings)
    .set({ paths: files.map(({ path }) => path), notes: kept })
    .where(eq(makings.id, id));
  if (edit) await addEdits(assetId, [edit], { job: id });
  if (files.length > 0) await enqueue('look-at-images', { parcelId: asset.parcelId });
}

/** A picture before and after; data as PNG in base64. `before` is null where the slot had no map. */
interface PreviewPicture {
  channel: string;
  before: string | null;
  after: string;
}

/** What a recipe would make, in small. */
export interface DerivedMapPreview {
  pictures: PreviewPicture[];
  heat: { title: string; png: string } | null;
  figures: Figure[];
  /** Slots that change without new pixels, in words. */
  rewired: string[];
}

const PREVIEW_SIZE = 384;
const WINDOW = 160;

/** What a recipe would make, in small; with `closeUp` a window of the full size where an edge is. */
export async function previewDerivedMap(
  assetId: string,
  request: MakeRequest,
  closeUp: boolean,
): Promise<DerivedMapPreview> {
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
      const part = cropBuffer(pixels, { left: window.x, top: window.y, width: WINDOW, height: WINDOW });
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
    heat: result.heat
      ? { title: result.heat.title, png: await pngText(heatPicture(result.heat.pixels)) }
      : null,
    figures: result.figures,
    rewired: result.slots
      .filter(({ map }) => map !== 'made' && !(map && 'made' in map))
      .map(({ channel, value, map }) => `${channel}: ${contentInWords(value, map)}`),
  };
}

function contentInWords(value: MadeSlot['value'], map: MadeSlot['map']): string {
  if (value === null) return 'empty';
  return map ? 'the same map read another way' : valueInWords(value);
}

function valueInWords(value: number | readonly number[]): string {
  return (typeof value === 'number' ? [value] : value).map((component) => component.toFixed(3)).join(' ');
}

async function pngText(pixels: PixelBuffer): Promise<string> {
  return Buffer.from(await encodePng(toBytes(pixels))).toString('base64');
}
