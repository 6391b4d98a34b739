import type { AssetImage, Edit } from '@kinkajou/core/asset/asset';
import { tileOfPath } from '@kinkajou/core/links/tiles';
import type { Candidate } from '@kinkajou/core/links/rank';
import type { Bench } from '../bench/useBench.ts';
import { teachRule } from './RuleBar.tsx';

export function linkEdit(image: string, candidate: Candidate): Edit {
  const reason = candidate.reasons.join(', ');
  return { kind: 'linkImages', links: [{ image, path: candidate.path, reason }], origin: { from: 'hand', detail: reason } };
}

export function unlinkEdit(images: string[]): Edit {
  return { kind: 'unlinkImages', images, origin: { from: 'hand', detail: 'links' } };
}

/** Links one image as a person confirmed it; what the link teaches is offered for the others. */
export function linkByHand(bench: Bench, image: Pick<AssetImage, 'key' | 'written'>, candidate: Candidate): void {
  bench.apply([linkEdit(image.key, candidate)]);
  teachRule(bench, image.written, candidate.path);
}

/** What an image in tiles resolves to: its pattern. */
export function patternOf({ tiles, resolved }: Pick<AssetImage, 'tiles' | 'resolved'>): string {
  return (tiles && tileOfPath(tiles[0].path)?.pattern) ?? resolved ?? '';
}

/** Whether a candidate is what the image resolves to already. */
export function isLinkedTo(image: Pick<AssetImage, 'tiles' | 'resolved'>, path: string): boolean {
  return path === image.resolved || path === patternOf(image);
}
