import { type Difference, isDifferent } from '@kinkajou/core/compare/difference';
import { compareModels, type ModelSide } from '@kinkajou/core/compare/compareModels';
import { applyBindings } from '@kinkajou/core/asset/applyBindings';
import { KinkajouError } from '@kinkajou/core/errors';
import { sheetOfPackage } from '@kinkajou/core/handoff/sheetOfPackage';
import { sideOf } from '@kinkajou/core/handoff/proof';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { zipSource } from '@kinkajou/core/parcel/zipSource';
import { and, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { handoffs } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { reopenAsset, replayedAsset } from './assets.ts';
import { readerOf, stateOf } from './compare.ts';
import type { HandoffRow } from './handoffs.ts';
import { parseSide } from './side.ts';

/** Everything that two sides differ in: parts, shape, motion, use of images, unit and axes, and the words of a sheet. */
export interface WholeComparison {
  verdict: 'same' | 'different';
  differences: Difference[];
  /** When it was proven, where that is what a receipt says; null where it was compared just now. */
  proven: string | null;
}

/**
 * A package against its own source is what its receipt has proven, conventions of the destination and told losses taken
 * into account; anything else is compared as it stands.
 */
export async function compareWhole(assetId: string, a: string, b: string): Promise<WholeComparison> {
  const handoff = [a, b].map(parseSide).filter((side) => side.kind === 'handoff');
  const own = [a, b].filter((side) => ['delivered', 'edited'].includes(parseSide(side).kind));
  if (handoff.length === 1 && own.length === 1) {
    const { receipt, finishedAt } = await findHandoff(assetId, handoff[0].id);
    if (receipt?.differences) return { verdict: receipt.verdicts.model, differences: receipt.differences, proven: finishedAt?.toISOString() ?? '' };
  }
  const [one, two] = [await modelSide(assetId, a), await modelSide(assetId, b)];
  const { differences } = await compareModels(one, two);
  return { verdict: isDifferent(differences) ? 'different' : 'same', differences, proven: null };
}

async function findHandoff(assetId: string, id: string): Promise<Pick<HandoffRow, 'receipt' | 'zip' | 'fileName' | 'finishedAt'>> {
  const row = await db().query.handoffs.findFirst({ where: and(eq(handoffs.id, id), eq(handoffs.assetId, assetId)) });
  if (!row) throw notFound('handoff');
  return row;
}

async function modelSide(assetId: string, text: string): Promise<ModelSide> {
  const side = parseSide(text);
  if (side.kind === 'handoff') return packageSide(await findHandoff(assetId, side.id));
  const { asset, state, images } = await replayedAsset(side.kind === 'asset' ? side.id : assetId);
  const shown = stateOf(side.kind === 'asset' ? 'edited' : side.kind, asset.source, state);
  const { document } = await reopenAsset(asset);
  return { document: applyBindings(document, shown), materials: shown.materials, images: shown.images, read: readerOf(images) };
}

async function packageSide({ zip, fileName }: Pick<HandoffRow, 'zip' | 'fileName'>): Promise<ModelSide> {
  if (!zip) throw notFound('package');
  const files = await zipSource(blobs.pathOf(zip), fileName, limitsFromEnvironment());
  const models = (await sheetOfPackage(files))?.models ?? [];
  if (models.length !== 1)
    throw new KinkajouError(
      'compare.several',
      'the package holds several models',
      { file: fileName },
      'Compare it with the source: its receipt tells each of them.',
    );
  return sideOf(files, models[0]);
}
