'use client';

import type { AssetImage } from '@kinkajou/core/asset/asset';
import type { Candidate } from '@kinkajou/core/links/rank';
import { Mark } from '@/ui/Mark';
import { useBench } from '../bench/useBench.ts';
import { linkByHand } from './linkByHand.ts';

/** One candidate with its reason and score; a click links it. */
export function CandidateRow({
  candidate,
  image,
}: {
  candidate: Candidate;
  image: Pick<AssetImage, 'key' | 'written'>;
}) {
  const bench = useBench();
  return (
    <button
      type="button"
      disabled={bench.busy}
      className="flex cursor-pointer items-center gap-2 rounded-[5px] border border-[var(--line)] bg-base-100 px-2 py-[3px] text-left hover:border-accent"
      title={`Link to ${candidate.path}`}
      onClick={() => linkByHand(bench, image, candidate)}
    >
      <Mark kind={candidate.safe ? 'fine' : 'doubtful'} />
      <span className="min-w-0 truncate font-mono text-[11.3px]">{candidate.path}</span>
      <span className="ml-auto max-w-[55%] shrink-0 truncate text-[11.3px] whitespace-nowrap text-[var(--soft)]">
        {candidate.reasons[0]} · {candidate.score.toFixed(2)}
      </span>
    </button>
  );
}
