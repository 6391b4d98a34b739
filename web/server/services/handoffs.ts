import { type HandoffChoices, settle } from '@kinkajou/core/destinations/settle';
import { type Destination, parseProfile } from '@kinkajou/core/destinations/profile';
import { KinkajouError } from '@kinkajou/core/errors';
import { type HandoffPreview, previewHandoff } from '@kinkajou/core/handoff/previewHandoff';
import { cleanName } from '@kinkajou/core/parcel/names';
import { desc, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, handoffs } from '../db/schema.ts';
import { publish } from '../events.ts';
import { enqueue } from '../queue.ts';
import { notFound } from '../respond.ts';
import { currentState, findAsset } from './assets.ts';
import { decodeKept } from './decodeKept.ts';
import { destinationById } from './destinations.ts';

/** A handoff without the reading, which only comparing needs. */
export type HandoffRow = Omit<typeof handoffs.$inferSelect, 'reading'>;

export interface HandoffRequest {
  destination: string;
  choices: HandoffChoices;
}

/** Queues one package per destination; all are checked before the first is. */
export async function requestHandoffs(assetId: string, requests: readonly HandoffRequest[]): Promise<HandoffRow[]> {
  const asset = await findAsset(assetId);
  const checked: { profile: Destination; choices: HandoffChoices; variant: string }[] = [];
  for (const { destination, choices } of requests) {
    const profile = await destinationById(destination);
    checked.push({ profile, choices, variant: settle(profile, choices).variant });
  }
  const rows: HandoffRow[] = [];
  for (const { profile, choices, variant } of checked) {
    const fileName = `${cleanName(asset.name, 'asset')}_${profile.id}${variant === profile.variants[0] ? '' : `_${variant}`}.zip`;
    const [row] = await db().insert(handoffs).values({ assetId, destination: profile.id, variant, choices, profile, fileName }).returning();
    await enqueue('hand-off', { handoffId: row.id });
    const { reading: _reading, ...rest } = row;
    rows.push(rest);
  }
  await publish({ topic: 'handoff', id: assetId });
  return rows;
}

export async function listHandoffs(assetId: string): Promise<HandoffRow[]> {
  return db().query.handoffs.findMany({ where: eq(handoffs.assetId, assetId), orderBy: desc(handoffs.createdAt), limit: 100, columns: { reading: false } });
}

/** Every asset's handoffs, newest first, with the asset's name. */
export async function listAllHandoffs() {
  const rows = await db()
    .select({ handoff: handoffs, assetName: assets.name })
    .from(handoffs)
    .innerJoin(assets, eq(assets.id, handoffs.assetId))
    .orderBy(desc(handoffs.createdAt))
    .limit(500);
  return rows.map(({ handoff: { receipt, reading: _reading, ...rest }, assetName }) => ({ ...rest, assetName, verdict: receipt?.verdict ?? null }));
}

export async function findHandoff(id: string): Promise<typeof handoffs.$inferSelect> {
  const [row] = await db().select().from(handoffs).where(eq(handoffs.id, id));
  if (!row) throw notFound('handoff');
  return row;
}

export async function cancelHandoff(id: string): Promise<void> {
  const row = await findHandoff(id);
  await db()
    .update(handoffs)
    .set({ cancelRequested: true, ...(row.state === 'queued' ? { state: 'cancelled' as const, doing: '' } : {}) })
    .where(eq(handoffs.id, id));
  await publish({ topic: 'handoff', id: row.assetId });
}

export type PlanView = HandoffPreview & { errors: number };

/** Side of the copies that conversions are tried on. */
const COPY_SIDE = 64;

/** What a handoff would write and lose, before anyone waits; `profile` tries a destination that is not saved yet. */
export async function previewPlan(assetId: string, { destination, choices }: HandoffRequest, profile?: unknown): Promise<PlanView> {
  const wanted = profile === undefined ? await destinationById(destination) : parseProfile(profile);
  const { asset, state, images, findings } = await currentState(assetId);
  const byPath = new Map(images.map((image) => [image.path, image]));
  const hashOf = (path: string) => {
    const image = byPath.get(path);
    if (!image) throw new KinkajouError('source.missing', `"${path}" is not in the parcel`, { file: path });
    return image.sha256;
  };
  const plan = await previewHandoff({
    source: asset.source,
    state,
    images,
    destination: wanted,
    choices,
    read: (path) => blobs.get(hashOf(path)),
    decode: (path) => decodeKept(hashOf(path), path, COPY_SIDE),
  });
  return { ...plan, errors: findings.filter((finding) => finding.severity === 'error').length };
}
