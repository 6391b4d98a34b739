import { type TagRepair, tagChanges, tagEdits } from '@kinkajou/core/asset/repairTags';
import { currentState, listShelf } from './assets.ts';
import { addEdits } from './edits.ts';

export interface TagResult {
  assets: { id: string; name: string; changes: number }[];
  changes: number;
}

/** Repairs tags over several assets. With `preview` nothing is changed. Null stands for every asset of the shelf. */
export async function repairTags(ids: readonly string[] | null, repair: Omit<TagRepair, 'slots'>, preview: boolean): Promise<TagResult> {
  const result: TagResult = { assets: [], changes: 0 };
  for (const id of ids ?? (await listShelf()).map((entry) => entry.id)) {
    const { asset, images, state, context } = await currentState(id);
    const { detected } = context;
    const changes = tagChanges(state, images, detected, { ...repair, slots: null });
    if (changes.length === 0) continue;
    if (!preview) {
      const detail = `${repair.to === 'channel' ? 'as each channel needs' : `all as ${repair.to}`}${repair.keyword === '' ? '' : `, names with "${repair.keyword}"`}`;
      await addEdits(id, tagEdits(changes, { from: 'rule', detail }));
    }
    result.assets.push({ id, name: asset.name, changes: changes.length });
    result.changes += changes.length;
  }
  return result;
}
