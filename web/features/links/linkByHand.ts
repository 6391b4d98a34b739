import type { AssetImage } from '@kinkajou/core/asset/asset';
import { linkEdit } from '@kinkajou/core/edits/linkEdits';
import type { Candidate } from '@kinkajou/core/links/rank';
import type { Bench } from '../bench/useBench.ts';
import { teachRule } from './RuleBar.tsx';

/** Links one image as a person confirmed it; what the link teaches is offered for the others. */
export function linkByHand(
  bench: Bench,
  image: Pick<AssetImage, 'key' | 'written'>,
  candidate: Candidate,
): void {
  bench.apply([linkEdit(image.key, candidate)]);
  teachRule(bench, image.written, candidate.path);
}
