'use client';

import type { ParcelImage } from '@kinkajou/core/asset/asset';
import type { Candidate } from '@kinkajou/core/links/rank';
import { pictureUrl } from '@/ui/api';
import { bytes, day, fileName } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import type { BenchView } from '../bench/useBench.ts';

interface CandidateCardProps {
  candidate: Candidate;
  file: ParcelImage | null;
  chosen: boolean;
  disabled: boolean;
  link: () => void;
}

/** One file that may be meant, with all that tells it from the others beside it. */
export function CandidateCard({ candidate, file, chosen, disabled, link }: CandidateCardProps) {
  return (
    <button
      type="button"
      disabled={disabled}
      data-candidate={candidate.path}
      aria-label={`Link to ${candidate.path}`}
      title={`${candidate.path}\n${candidate.reasons.join('\n')}`}
      className={`grid w-[168px] shrink-0 cursor-pointer grid-cols-[minmax(0,1fr)] content-start gap-1 rounded-[5px] border bg-base-100 p-1.5 text-left hover:border-accent ${chosen ? 'border-accent ring-2 ring-accent' : 'border-[var(--line)]'}`}
      onClick={link}
    >
      {file ? (
        <span
          className="h-[72px] rounded border border-black/15 bg-cover bg-center"
          style={{ backgroundImage: `url(${pictureUrl(file.sha256, 192)})` }}
        />
      ) : (
        <span className="grid h-[72px] place-items-center rounded border border-[var(--line)] text-[var(--soft)]">
          tiles
        </span>
      )}
      <span className="flex items-center gap-1.5">
        <Mark kind={candidate.safe ? 'fine' : 'doubtful'} />
        <b className="font-mono text-[11.5px]">{candidate.score.toFixed(2)}</b>
        <span className="narrow min-w-0 truncate text-[11.3px]">{candidate.reasons[0]}</span>
      </span>
      <span className="narrow truncate font-mono text-[11px]">{fileName(candidate.path)}</span>
      <span
        className="narrow truncate font-mono text-[10.5px] text-[var(--soft)]"
        style={{ direction: 'rtl' }}
      >
        <bdi>{candidate.path.slice(0, -fileName(candidate.path).length) || 'top folder'}</bdi>
      </span>
      <span className="narrow text-[11px] leading-tight text-[var(--soft)]">
        {file?.info &&
          `${file.info.width} × ${file.info.height}, ${file.info.bitDepth} bit${file.info.floating ? ' float' : ''}`}
        <br />
        {file && `${bytes(file.size)}${file.modified ? `, ${day(file.modified)}` : ''}`}
      </span>
    </button>
  );
}

/** The file of a candidate, in the parcel or elsewhere; for a tile set its first tile. */
export function fileOfCandidate(view: BenchView, path: string): ParcelImage | null {
  const required = path.replace('<UDIM>', '1001');
  return (
    view.images.find((image) => image.path === required) ??
    view.further.find((image) => image.path === required) ??
    null
  );
}
