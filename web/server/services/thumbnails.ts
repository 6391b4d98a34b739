import { initialState } from '@kinkajou/core/asset/asset';
import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { encodePng } from '@kinkajou/core/images/encode';
import { probeImage } from '@kinkajou/core/images/probe';
import type { OpenAsset } from '@kinkajou/core/inspect';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { drawThumbnail } from '@kinkajou/core/preview/thumbnail';
import { eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets } from '../db/schema.ts';
import { publish } from '../events.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { findAsset, reopenAsset } from './assetRow.ts';
import { replayedAsset } from './assetState.ts';

const SIZE = { width: 480, height: 400 };
/** Seconds for which further edits are waited for before the picture is drawn again. */
const DELAY = 3;

/** Has the picture drawn again soon, once for many edits. */
export async function requestThumbnail(assetId: string): Promise<void> {
  await enqueue('draw-thumbnail', { assetId }, { key: assetId, delaySeconds: DELAY });
}

/** Draws an asset as its source stands, and returns the picture's hash; null without geometry. */
export async function drawSource(asset: OpenAsset): Promise<string | null> {
  const picture = await drawThumbnail(asset.document, initialState(asset.source), asset.read, SIZE);
  return picture ? blobs.put(await encodePng(picture)) : null;
}

/** Keeps a picture that a person took as the asset's own; null lets it be drawn again. */
export async function takeThumbnail(id: string, png: Uint8Array | null): Promise<void> {
  await findAsset(id);
  if (png) await probeImage(png, 'picture.png', limitsFromEnvironment());
  await db()
    .update(assets)
    .set(png ? { thumbnail: await blobs.put(png), thumbnailTaken: true } : { thumbnailTaken: false })
    .where(eq(assets.id, id));
  if (!png) await enqueue('draw-thumbnail', { assetId: id });
  await publish({ topic: 'shelf', id });
}

/** The job: draws the asset as its edits make it. */
export async function redrawThumbnail({ data: { assetId: id } }: JobRun<'draw-thumbnail'>): Promise<void> {
  const { asset, state } = await replayedAsset(id);
  if (asset.thumbnailTaken) return;
  const open = await reopenAsset(asset);
  const picture = await drawThumbnail(editedDocument(open.document, state).document, state, open.read, SIZE);
  if (!picture) return;
  await db()
    .update(assets)
    .set({ thumbnail: await blobs.put(await encodePng(picture)) })
    .where(eq(assets.id, id));
  await publish({ topic: 'shelf', id });
}
