import { eq } from 'drizzle-orm';
import { LRUCache } from 'lru-cache';
import { db } from '../db/client.ts';
import { parcels, watchedFolders } from '../db/schema.ts';
import { type BenchAnswer, type BenchData, type BenchView, benchDelta, viewOf } from '../wire/bench.ts';
import { type CurrentState, currentState } from './assetState.ts';
import { listDeliveries } from './deliveryList.ts';
import { countLooked } from './imageFacts.ts';
import { revisionOf } from './revisions.ts';

/** What pages were told, by asset and version, so that they can be told what changed since. */
const MOST_BYTES = 64e6;
const holder = globalThis as unknown as { kinkajouTold?: LRUCache<string, BenchData> };
holder.kinkajouTold ??= new LRUCache({
  maxSize: MOST_BYTES,
  sizeCalculation: (data) => JSON.stringify(data).length,
});
const reported = holder.kinkajouTold;

/** Everything of an asset as scripts ask for it, its state included. */
export async function benchView(id: string): Promise<BenchView> {
  return viewOf(await benchData(await currentState(id)));
}

/** What a page has to know to be up to date, when it was told a version before. */
export async function benchAnswer(id: string, since: string | null): Promise<BenchAnswer> {
  const current = await currentState(id);
  const data = await benchData(current);
  const before = since === null ? undefined : reported.get(`${id} ${since}`);
  reported.set(`${id} ${data.version}`, data);
  return before ? { delta: benchDelta(before, data) } : { whole: data };
}

async function benchData({
  asset,
  version,
  images,
  further,
  facts,
  state,
  context,
  findings,
  log,
  mended,
  skipped,
}: CurrentState): Promise<BenchData> {
  const [parcel] = await db().select().from(parcels).where(eq(parcels.id, asset.parcelId));
  const [watched] = await db().select().from(watchedFolders).where(eq(watchedFolders.assetId, asset.id));
  const candidates = Object.fromEntries(
    state.images.map((image) => [image.key, context.candidatesOf(image)]),
  );
  const ranked = new Set(Object.values(candidates).flatMap((list) => list.map(({ path }) => path)));
  const { uvLayouts: _layouts, ...source } = asset.source;
  const { fills, workflows } = context.settlement();
  return {
    id: asset.id,
    version,
    revision: revisionOf(version),
    name: asset.name,
    parcel: { id: parcel.id, name: parcel.name },
    geometry: asset.geometry,
    source,
    log: log.map(({ seq, act, edit, createdAt, author }) => ({
      seq,
      act,
      edit,
      at: createdAt.toISOString(),
      author,
    })),
    cursor: asset.cursor,
    images,
    findings,
    mended,
    candidates,
    further: further.filter(({ path }) => ranked.has(path)),
    detected: [...context.detected.values()],
    fills,
    workflows,
    sidecars: [...context.sidecars],
    looked: await countLooked(images, facts),
    deliveries: await listDeliveries(asset.id),
    watched: watched ? { path: watched.path, message: watched.message } : null,
    skipped,
  };
}
