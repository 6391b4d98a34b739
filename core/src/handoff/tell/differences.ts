import type { Receipt } from './receipt.ts';

/** What changed between two handoffs of one asset to one destination. */
export interface HandoffDifference {
  changed: string[];
  added: string[];
  removed: string[];
  /** Edits made since, in words. */
  edits: string[];
  lossesGone: string[];
  lossesNew: string[];
}

/** The difference of two receipts, the older first. Files count as changed by their content. */
export function differenceOf(before: Receipt, after: Receipt): HandoffDifference {
  const old = new Map(before.outputs.map((file) => [file.path, file.sha256]));
  const now = new Map(after.outputs.map((file) => [file.path, file.sha256]));
  const existing = before.edits.map(({ text, detail }) => `${text}\n${detail}`);
  const edits = after.edits.filter(({ text, detail }) => {
    const index = existing.indexOf(`${text}\n${detail}`);
    if (index >= 0) existing.splice(index, 1);
    return index < 0;
  });
  return {
    changed: [...now].flatMap(([path, hash]) => (old.has(path) && old.get(path) !== hash ? [path] : [])),
    added: [...now.keys()].filter((path) => !old.has(path)),
    removed: [...old.keys()].filter((path) => !now.has(path)),
    edits: edits.map(({ text }) => text),
    lossesGone: before.losses.filter((loss) => !after.losses.includes(loss)),
    lossesNew: after.losses.filter((loss) => !before.losses.includes(loss)),
  };
}

/** Whether nothing that the receiver would see changed. */
export function isSame({ changed, added, removed }: HandoffDifference): boolean {
  return changed.length + added.length + removed.length === 0;
}
