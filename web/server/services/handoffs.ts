import { findDestination } from '@kinkajou/core/destinations/destinations';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { handOff } from '@kinkajou/core/handoff/handoff';
import { cleanName } from '@kinkajou/core/parcel/names';
import { packageZip } from '@kinkajou/core/handoff/packageZip';
import { componentInWords } from '@kinkajou/core/handoff/receipt';
import { planHandoff } from '@kinkajou/core/handoff/plan';
import { preparationsOf } from '@kinkajou/core/handoff/prepareState';
import { recipeOf } from '@kinkajou/core/materials/recipes/recipes';
import { desc, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { assets, handoffs } from '../db/schema.ts';
import { publish } from '../events.ts';
import { enqueue } from '../queue.ts';
import { notFound } from '../respond.ts';
import { currentState, findAsset, reopenAsset } from './assets.ts';

export type HandoffRow = typeof handoffs.$inferSelect;

const CANCEL_POLL_MS = 400;

export async function requestHandoff(assetId: string, destination: string, variant: string): Promise<HandoffRow> {
  const asset = await findAsset(assetId);
  const profile = findDestination(destination);
  if (!profile) throw new KinkajouError('handoff.destination', `there is no destination "${destination}"`);
  if (!profile.variants.includes(variant)) throw new KinkajouError('handoff.variant', `${destination} has no variant "${variant}"`);
  const fileName = `${cleanName(asset.name, 'asset')}_${destination}${variant === profile.variants[0] ? '' : `_${variant}`}.zip`;
  const [row] = await db().insert(handoffs).values({ assetId, destination, variant, fileName }).returning();
  await enqueue('hand-off', { handoffId: row.id });
  await publish({ topic: 'handoff', id: assetId });
  return row;
}

export async function listHandoffs(assetId: string): Promise<HandoffRow[]> {
  return db().select().from(handoffs).where(eq(handoffs.assetId, assetId)).orderBy(desc(handoffs.createdAt)).limit(100);
}

/** Every asset's handoffs, newest first, with the asset's name. */
export async function listAllHandoffs() {
  const rows = await db()
    .select({ handoff: handoffs, assetName: assets.name })
    .from(handoffs)
    .innerJoin(assets, eq(assets.id, handoffs.assetId))
    .orderBy(desc(handoffs.createdAt))
    .limit(500);
  return rows.map(({ handoff: { receipt, ...rest }, assetName }) => ({ ...rest, assetName, verdict: receipt?.verdict ?? null }));
}

export async function findHandoff(id: string): Promise<HandoffRow> {
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

/** What a handoff would write and lose, before anyone waits. */
export async function previewPlan(assetId: string, destinationId: string) {
  const destination = findDestination(destinationId);
  if (!destination) throw new KinkajouError('handoff.destination', `there is no destination "${destinationId}"`);
  const { state, images, findings } = await currentState(assetId);
  const plan = planHandoff(state, images, destination);
  return {
    destination: { id: destination.id, title: destination.title, summary: destination.summary, variants: destination.variants },
    images: plan.images.map((image) => ({
      file: image.file,
      width: image.width,
      height: image.height,
      copied: image.copyOf !== null,
      components: image.components.map((component, i) => ({ component: 'rgba'[i], text: componentInWords(component) })),
    })),
    materials: plan.materials.map(({ key, name }) => ({ key, name })),
    losses: plan.losses,
    preparations: preparationsOf(state, destination).map(({ recipe, materials }) => `${recipeOf(recipe).title}: ${materials.join(', ')}`),
    notes: destination.notes,
    errors: findings.filter((finding) => finding.severity === 'error').length,
  };
}

/** The job: makes the package, keeps its zip, records the receipt. */
export async function runHandoff(id: string): Promise<void> {
  const row = await findHandoff(id);
  if (row.state !== 'queued') return;
  const abort = new AbortController();
  const update = (values: Partial<typeof handoffs.$inferInsert>) => db().update(handoffs).set(values).where(eq(handoffs.id, id));
  const told = { progress: 0, doing: 'opening the model' };
  await update({ state: 'running', ...told });
  const beat = setInterval(() => void tell(), CANCEL_POLL_MS);
  const tell = async () => {
    const [now] = await update(told).returning({ cancel: handoffs.cancelRequested });
    if (!now || now.cancel) abort.abort();
    await publish({ topic: 'handoff', id: row.assetId });
  };
  try {
    const destination = findDestination(row.destination);
    if (!destination) throw new KinkajouError('handoff.destination', `there is no destination "${row.destination}"`);
    const { asset, state, applied, findings, images } = await currentState(row.assetId);
    const open = await reopenAsset(asset);
    const { files, receipt } = await handOff({
      document: open.document,
      source: asset.source,
      state,
      edits: applied,
      findings,
      images,
      destination,
      variant: row.variant,
      picture: asset.thumbnail ? await blobs.get(asset.thumbnail) : null,
      read: open.read,
      progress: (progress, doing) => Object.assign(told, { progress, doing }),
      signal: abort.signal,
    });
    const zip = await packageZip(files);
    clearInterval(beat);
    const failed = receipt.verdict === 'failed';
    const fault = failed ? { code: 'handoff.check', message: failedChecks(receipt.readBack.checks), hint: '', file: '' } : null;
    await update({
      state: failed ? 'failed' : 'done',
      progress: 1,
      doing: '',
      receipt,
      fault,
      zip: await blobs.put(zip),
      zipSize: zip.length,
      finishedAt: new Date(),
    });
  } catch (error) {
    clearInterval(beat);
    const known = toKinkajouError(error);
    const cancelled = known.code === 'handoff.cancelled';
    await update({
      state: cancelled ? 'cancelled' : 'failed',
      doing: '',
      finishedAt: new Date(),
      fault: cancelled ? null : { code: known.code, message: known.toText(), hint: known.hint, file: known.place.file ?? '' },
    });
  }
  await publish({ topic: 'handoff', id: row.assetId });
}

function failedChecks(checks: { check: string; ok: boolean; expected: string; found: string }[]): string {
  return checks
    .filter((check) => !check.ok)
    .map((check) => `${check.check}: expected ${check.expected}, found ${check.found}`)
    .join('; ');
}
