import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { compareModels, type ModelSide } from '@kinkajou/core/compare/compareModels';
import { type Difference, isDifferent } from '@kinkajou/core/compare/difference';
import { KinkajouError } from '@kinkajou/core/errors';
import { sideOf } from '@kinkajou/core/handoff/readBack/proof';
import { sheetOfPackage } from '@kinkajou/core/handoff/readBack/sheetOfPackage';
import type { Receipt } from '@kinkajou/core/handoff/tell/receipt';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { zipSource } from '@kinkajou/core/parcel/zipSource';
import { and, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { handoffs } from '../db/schema.ts';
import { notFound } from '../respond.ts';
import { type AssetRow, findAsset, reopenAsset } from './assetRow.ts';
import { replayedAsset } from './assetState.ts';
import { readerOf, stateOf } from './compare.ts';
import type { HandoffRow } from './handoffs.ts';
import { parseSide, type Side } from './side.ts';

/**
 * Everything that two sides differ in: parts, shape, motion, use of images, unit and axes, and the words of a
 * sheet.
 */
export interface WholeComparison {
  /** Null where nothing can be said, see `unproven`. */
  verdict: 'same' | 'different' | null;
  differences: Difference[];
  /** When it was proven, where that is what a receipt says; null where it was compared just now. */
  proven: string | null;
  /**
   * Why a receipt says nothing of this pair: the asset was changed since, or the package is of the edited
   * asset.
   */
  unproven: 'changed' | 'edited' | null;
}

/**
 * A package against its own source is what its receipt has proven, conventions of the destination and told
 * losses taken into account; anything else is compared as it stands.
 */
export async function compareWhole(assetId: string, a: string, b: string): Promise<WholeComparison> {
  const sides = [parseSide(a), parseSide(b)];
  const handoff = sides.find((side) => side.kind === 'handoff');
  const own = sides.find(({ kind }) => kind === 'delivered' || kind === 'edited');
  if (handoff && own) {
    const row = await findHandoff(assetId, handoff.id);
    if (row.receipt?.differences) return proven(row, row.receipt, own, await findAsset(assetId));
  }
  const [one, two] = [await modelSide(assetId, sides[0]), await modelSide(assetId, sides[1])];
  // Ways to read one asset have one geometry, unless an edit gave parts other materials.
  const geometry = one.asset !== two.asset || one.bindings !== two.bindings;
  const { differences } = await compareModels(one.side, two.side, { geometry });
  return {
    verdict: isDifferent(differences) ? 'different' : 'same',
    differences,
    proven: null,
    unproven: null,
  };
}

/** What a receipt says, as far as it is about this state of the asset. */
function proven(
  { createdAt }: Pick<HandoffRow, 'createdAt'>,
  receipt: Receipt,
  { kind }: Side,
  { updatedAt }: AssetRow,
): WholeComparison {
  const unproven = unprovenBecause(kind, receipt, updatedAt, createdAt);
  if (unproven) return { verdict: null, differences: [], proven: null, unproven };
  return {
    verdict: receipt.verdicts.model,
    differences: receipt.differences,
    proven: createdAt.toISOString(),
    unproven,
  };
}

function unprovenBecause(kind: string, receipt: Receipt, updatedAt: Date, createdAt: Date) {
  if (kind === 'delivered' && receipt.edits.length > 0) return 'edited';
  return updatedAt > createdAt ? 'changed' : null;
}

async function findHandoff(
  assetId: string,
  id: string,
): Promise<Pick<HandoffRow, 'receipt' | 'zip' | 'fileName' | 'createdAt'>> {
  const row = await db().query.handoffs.findFirst({
    where: and(eq(handoffs.id, id), eq(handoffs.assetId, assetId)),
  });
  if (!row) throw notFound('handoff');
  return row;
}

/** A side with what its geometry comes from. */
interface OpenSide {
  side: ModelSide;
  /** Id of the asset, or of the package. */
  asset: string;
  bindings: string;
}

async function modelSide(assetId: string, side: Side): Promise<OpenSide> {
  if (side.kind === 'handoff')
    return { side: await packageSide(await findHandoff(assetId, side.id)), asset: side.id, bindings: '' };
  const { asset, state, images } = await replayedAsset(side.kind === 'asset' ? side.id : assetId);
  const shown = stateOf(side.kind === 'asset' ? 'edited' : side.kind, asset.source, state);
  const { document } = await reopenAsset(asset);
  const read = {
    document: editedDocument(document, shown).document,
    materials: shown.materials,
    images: shown.images,
    read: readerOf(images),
  };
  return {
    side: read,
    asset: asset.id,
    bindings: JSON.stringify([shown.bindings, shown.parts, shown.merged, shown.numbers]),
  };
}

async function packageSide({ zip, fileName }: Pick<HandoffRow, 'zip' | 'fileName'>): Promise<ModelSide> {
  if (!zip) throw notFound('package');
  const files = await zipSource(await blobs.fileOf(zip), fileName, limitsFromEnvironment());
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
