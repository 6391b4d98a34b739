import { type TagRepair, tagChanges, tagEdits } from '@kinkajou/core/asset/repairTags';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { currentState } from './assetState.ts';
import { addEdits } from './edits.ts';
import { allAssetIds } from './shelf.ts';

/** Tags that would change, or did, by asset. */
export interface TagResult {
  assets: { id: string; name: string; changes: number }[];
  changes: number;
}

type Repair = Omit<TagRepair, 'slots'>;

/** What a repair of tags would change in several assets. Null stands for every asset of the shelf. */
export async function previewTags(ids: readonly string[] | null, repair: Repair): Promise<TagResult> {
  return overAssets(ids, repair, false, () => undefined);
}

/** Has tags repaired; returns the job's id. */
export function requestTags(assets: string[] | null, repair: Repair): Promise<string> {
  return enqueue('repair-tags', { assets, repair });
}

/**
 * The job: each asset gets edits of its own, to be undone there. Begun anew it leaves alone what is right
 * already.
 */
export function repairTags({
  data: { assets, repair },
  progress,
}: JobRun<'repair-tags'>): Promise<TagResult> {
  return overAssets(assets, repair, true, progress);
}

async function overAssets(
  given: readonly string[] | null,
  repair: Repair,
  change: boolean,
  progress: (share: number, doing: string) => void,
): Promise<TagResult> {
  const result: TagResult = { assets: [], changes: 0 };
  const ids = given ?? (await allAssetIds());
  for (const [i, id] of ids.entries()) {
    const { asset, images, state, context } = await currentState(id);
    progress(i / ids.length, `tagging ${asset.name}`);
    const changes = tagChanges(state, images, context.detected, { ...repair, slots: null });
    if (changes.length === 0) continue;
    if (change) await addEdits(id, tagEdits(changes, { from: 'rule', detail: inWords(repair) }));
    result.assets.push({ id, name: asset.name, changes: changes.length });
    result.changes += changes.length;
  }
  return result;
}

function inWords({ to, keyword }: Repair): string {
  return `${to === 'channel' ? 'as each channel needs' : `all as ${to}`}${keyword === '' ? '' : `, names with "${keyword}"`}`;
}
