import { editedDocument } from '@kinkajou/core/asset/editedDocument';
import { installedGuard } from '@kinkajou/core/guard/guard';
import { takeoffTable } from '@kinkajou/core/handoff/write/takeoffTable';
import { applyIntake } from '@kinkajou/core/scene/intake';
import { type TakeoffRow, takeOff } from '@kinkajou/core/shape/takeoff';
import { LRUCache } from 'lru-cache';
import { reopenAsset } from './assetRow.ts';
import { replayedAsset } from './assetState.ts';

/** Rows by asset and revision; a list of numbers each. */
const kept = new LRUCache<string, TakeoffRow[]>({ max: 50 });

/** Areas and volumes by part and material, as the asset stands after its edits. */
export async function takeoffOf(id: string): Promise<TakeoffRow[]> {
  const { asset, state } = await replayedAsset(id);
  const key = `${id} ${asset.revision}`;
  const known = kept.get(key);
  if (known) return known;
  const { document } = await reopenAsset(asset);
  const edited = applyIntake(editedDocument(document, state).document, state.intake);
  const rows = (await installedGuard()?.takeOff(edited, asset.model)) ?? takeOff(edited);
  kept.set(key, rows);
  return rows;
}

/** An asset's takeoff after its edits, as CSV with a file name. */
export async function takeoffCsv(id: string): Promise<{ fileName: string; text: string }> {
  const { asset } = await replayedAsset(id);
  return {
    fileName: `${asset.name.replaceAll(/[^\p{L}\p{N}._ -]+/gu, '_')} takeoff.csv`,
    text: takeoffTable(await takeoffOf(id)),
  };
}
