import { type Destination, parseProfile } from '@kinkajou/core/destinations/profile';
import { type HandoffChoices, resolveChoices } from '@kinkajou/core/destinations/resolveChoices';
import { KinkajouError } from '@kinkajou/core/errors';
import { type HandoffPreview, previewHandoff } from '@kinkajou/core/handoff/previewHandoff';
import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';
import { cleanName } from '@kinkajou/core/parcel/names';
import { desc, eq, getTableColumns, sql } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, handoffs, jobs } from '../db/schema.ts';
import { enqueue, JOB_FIELDS } from '../jobs/queue.ts';
import { notFound } from '../respond.ts';
import { findAsset } from './assetRow.ts';
import { currentState } from './assetState.ts';
import { decodeKept } from './decodeKept.ts';
import { destinationById } from './destinations.ts';

const { reading: _reading, ...WITHOUT_READING } = getTableColumns(handoffs);
const FIELDS = { ...WITHOUT_READING, ...JOB_FIELDS };

/** A handoff with how far its job is, and without the reading, which only comparing needs. */
export type HandoffRow = Awaited<ReturnType<typeof findHandoff>>;

/** A destination, and what it leaves open. */
export interface HandoffRequest {
  destination: string;
  choices: HandoffChoices;
}

/** Queues one package per destination; all are checked before the first is. */
export async function requestHandoffs(
  assetId: string,
  requests: readonly HandoffRequest[],
): Promise<HandoffRow[]> {
  const asset = await findAsset(assetId);
  const checked: { profile: Destination; choices: HandoffChoices; variant: string }[] = [];
  for (const { destination, choices } of requests) {
    const profile = await destinationById(destination);
    checked.push({ profile, choices, variant: resolveChoices(profile, choices).variant });
  }
  const rows: HandoffRow[] = [];
  for (const { profile, choices, variant } of checked) {
    const fileName = `${cleanName(asset.name, 'asset')}_${profile.id}${variant === profile.variants[0] ? '' : `_${variant}`}.zip`;
    const id = await enqueue(
      'hand-off',
      { assetId },
      {
        with: (tx, job) =>
          tx
            .insert(handoffs)
            .values({ id: job, assetId, destination: profile.id, variant, choices, profile, fileName }),
      },
    );
    rows.push(await findHandoff(id));
  }
  return rows;
}

/** An asset's packages, the latest first. */
export async function listHandoffs(assetId: string): Promise<HandoffRow[]> {
  return db()
    .select(FIELDS)
    .from(handoffs)
    .innerJoin(jobs, eq(jobs.id, handoffs.id))
    .where(eq(handoffs.assetId, assetId))
    .orderBy(desc(handoffs.createdAt))
    .limit(100);
}

/** Every asset's handoffs, newest first, with the asset's name. */
export async function listAllHandoffs() {
  const { receipt: _receipt, ...rest } = FIELDS;
  return db()
    .select({
      ...rest,
      assetName: assets.name,
      verdict: sql<Receipt['verdict'] | null>`${handoffs.receipt}->>'verdict'`,
    })
    .from(handoffs)
    .innerJoin(jobs, eq(jobs.id, handoffs.id))
    .innerJoin(assets, eq(assets.id, handoffs.assetId))
    .orderBy(desc(handoffs.createdAt))
    .limit(500);
}

/** A package by its id; throws `notFound`. */
export async function findHandoff(id: string) {
  const [row] = await db()
    .select(FIELDS)
    .from(handoffs)
    .innerJoin(jobs, eq(jobs.id, handoffs.id))
    .where(eq(handoffs.id, id));
  if (!row) throw notFound('handoff');
  return row;
}

/** A plan, and how many errors are open. */
export type PlanView = HandoffPreview & { errors: number };

/** Side of the copies that conversions are tried on. */
const COPY_SIDE = 64;

/**
 * What a handoff would write and lose, before anyone waits; `profile` tries a destination that is not saved
 * yet.
 */
export async function previewPlan(
  assetId: string,
  { destination, choices }: HandoffRequest,
  profile?: unknown,
): Promise<PlanView> {
  const required = profile === undefined ? await destinationById(destination) : parseProfile(profile);
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
    destination: required,
    choices,
    read: (path) => blobs.get(hashOf(path)),
    decode: (path) => decodeKept(hashOf(path), path, COPY_SIDE),
  });
  return { ...plan, errors: findings.filter((finding) => finding.severity === 'error').length };
}
