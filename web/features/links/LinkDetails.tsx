'use client';

import { usesOfImages } from '@kinkajou/core/asset/asset';
import { isLinkedTo, unlinkEdit } from '@kinkajou/core/edits/linkEdits';
import { writtenName } from '@kinkajou/core/links/writtenPath';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { pictureUrl } from '@/ui/api';
import { Button } from '@/ui/Button';
import { bytes, day, plural } from '@/ui/format';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { CandidateCard, fileOfCandidate } from './CandidateCard.tsx';
import { linkByHand } from './linkByHand.ts';
import { TileGrid } from './TileGrid.tsx';

/** All about the focused path: what it resolves to, its tiles, and the candidates side by side. */
export function LinkDetails() {
  const bench = useBench();
  const { view } = bench;
  const { image: key, candidate: chosen, set } = useFocus();
  const row = view.state.images.find((image) => image.key === key);
  if (!row) return null;
  const file = view.images.find((image) => image.path === row.resolved);
  const candidates = (view.candidates[row.key] ?? []).filter((candidate) => !isLinkedTo(row, candidate.path));
  const linkedHere = view.log.some((entry) => !entry.undone) && row.status === 'found';
  const slots = usesOfImages(view.state).get(row.key) ?? [];
  const needed = [...new Set(slots.flatMap(({ material }) => view.source.uvTiles?.[material] ?? []))];
  return (
    <section
      className="grid max-h-[310px] min-h-[150px] gap-2 overflow-auto border-t border-[var(--line)] bg-base-200 px-3.5 py-2.5"
      aria-label="Link details"
    >
      <div className="grid gap-3.5" style={{ gridTemplateColumns: '96px minmax(0, 1fr)' }}>
        {file?.info ? (
          <div
            className="h-24 rounded-[5px] border border-black/20 bg-cover bg-center"
            style={{ backgroundImage: `url(${pictureUrl(file.sha256, 192)})` }}
          />
        ) : (
          <div className="missing-stripes grid h-24 place-items-center rounded-[5px] border border-error font-semibold text-error">
            missing
          </div>
        )}
        <div className="grid auto-rows-min grid-cols-[minmax(0,1fr)] gap-1 text-[12.3px]">
          <b className="truncate">{writtenName(row.written)}</b>
          <span className="truncate font-mono text-[11.5px]" title={row.written}>
            {row.written}
          </span>
          {row.relative && (
            <span className="truncate font-mono text-[11.5px] text-[var(--soft)]">
              relative: {row.relative}
            </span>
          )}
          <span className="narrow truncate text-[11.5px] text-[var(--soft)]">
            {slots.length === 0
              ? 'feeds nothing'
              : `feeds ${slots.map((slot) => `${slot.material}, ${channelTitle(slot.channel)}`).join('; ')}`}
          </span>
          {file?.info && (
            <span className="text-[11.5px] text-[var(--soft)]">
              {file.info.width} × {file.info.height}, {file.info.bitDepth} bit
              {file.info.floating ? ' float' : ''}, {plural(file.info.components, 'component')},{' '}
              {bytes(file.size)}
              {file.modified && `, ${day(file.modified)}`}; {row.how}
            </span>
          )}
          {file?.fault && <span className="text-error">{file.fault.message}</span>}
          {linkedHere && (
            <Button
              className="w-fit"
              disabled={bench.busy}
              onClick={() => bench.apply([unlinkEdit([row.key])])}
            >
              Unlink
            </Button>
          )}
        </div>
      </div>
      {row.tiles && <TileGrid image={row} view={view} needed={needed} />}
      {candidates.length > 0 && (
        <div className="flex gap-1.5 overflow-x-auto p-0.5 pb-1" aria-label="Candidates" role="group">
          {candidates.map((candidate, i) => (
            <CandidateCard
              key={candidate.path}
              candidate={candidate}
              file={fileOfCandidate(view, candidate.path)}
              chosen={row.status === 'missing' && i === Math.min(chosen, candidates.length - 1)}
              disabled={bench.busy}
              link={() => {
                set({ candidate: i });
                linkByHand(bench, row, candidate);
              }}
            />
          ))}
        </div>
      )}
      {row.status === 'missing' && candidates.length === 0 && (
        <span className="text-[12.3px] text-[var(--soft)]">
          Nothing in the parcel, the search folders or other parcels has this name. Upload the image, or give
          the slot another one on the slot board.
        </span>
      )}
    </section>
  );
}
