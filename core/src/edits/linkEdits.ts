import type { AssetImage, Edit } from '../asset/asset.ts';
import type { Candidate } from '../links/rank.ts';
import { tileOfPath } from '../links/tiles.ts';

/** Links one image to a file, as a person confirmed it. */
export function linkEdit(image: string, { path, reasons }: Candidate): Edit {
  const reason = reasons.join(', ');
  return { kind: 'linkImages', links: [{ image, path, reason }], origin: { from: 'hand', detail: reason } };
}

/** The edit that takes links of images back. */
export function unlinkEdit(images: string[]): Edit {
  return { kind: 'unlinkImages', images, origin: { from: 'hand', detail: 'links' } };
}

/** Links made together are one entry of the log and one step of undo; they come first. */
export function joinLinks(edits: readonly Edit[]): Edit[] {
  const links = edits.flatMap((edit) => (edit.kind === 'linkImages' ? edit.links : []));
  const others = edits.filter((edit) => edit.kind !== 'linkImages');
  if (links.length === 0) return others;
  const detail = [...new Set(links.map((link) => link.reason))].join('; ');
  return [{ kind: 'linkImages', links, origin: { from: 'evidence', detail } }, ...others];
}

/** What an image in tiles resolves to: its pattern. */
export function patternOf({ tiles, resolved }: Pick<AssetImage, 'tiles' | 'resolved'>): string {
  return (tiles && tileOfPath(tiles[0].path)?.pattern) ?? resolved ?? '';
}

/** Whether a candidate is what the image resolves to already. */
export function isLinkedTo(image: Pick<AssetImage, 'tiles' | 'resolved'>, path: string): boolean {
  return path === image.resolved || path === patternOf(image);
}
