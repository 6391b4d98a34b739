'use client';

import { usesOfImages } from '@kinkajou/core/asset/asset';
import { ownImages } from '@kinkajou/core/asset/ownImages';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { useMemo } from 'react';
import { pictureUrl } from '@/ui/api';
import { bytes } from '@/ui/format';
import { type BenchView, useBench } from '../bench/useBench.ts';

/** An image that no slot reads, and why that may be. */
export interface UnusedImage {
  path: string;
  sha256: string | null;
  what: string;
}

/** Images of the model's own that no slot reads, with what they seem to be. */
export function unusedImages(view: BenchView): UnusedImage[] {
  const uses = usesOfImages(view.state);
  const read = new Set<string>();
  for (const image of view.state.images) {
    if (!image.resolved || !uses.has(image.key)) continue;
    read.add(image.resolved);
    for (const tile of image.tiles ?? []) read.add(tile.path);
  }
  const copies = new Map(view.sidecars.map(({ path, original }) => [path, original]));
  const detected = new Map(view.detected.map((map) => [map.path, map]));
  return ownImages(view.source, view.images)
    .filter((image) => !read.has(image.path))
    .map(({ path, sha256, info, fault, size }) => {
      const map = detected.get(path);
      const original = copies.get(path);
      const guess = map?.readings.map((reading) => channelTitle(reading.channel)).join(', ');
      const what = fateOf(original, fault, guess, size);
      return { path, sha256: info ? sha256 : null, what };
    });
}

function fateOf(
  original: string | undefined,
  fault: { code: string; message: string } | null,
  guess: string | undefined,
  size: number,
) {
  if (original) return `copy of ${original}, left out`;
  return fault
    ? fault.message
    : `${guess ? `looks like ${guess}` : 'says nothing of a channel'}, ${bytes(size)}`;
}

/** Images of the parcel that no slot reads. */
export function UnusedImages() {
  const { view } = useBench();
  const rows = useMemo(() => unusedImages(view), [view]);
  return (
    <ul className="min-h-0 overflow-auto" aria-label="Images that nothing reads">
      {rows.map(({ path, sha256, what }) => (
        <li
          key={path}
          className="flex items-center gap-3 border-b border-[var(--line-soft)] px-3 py-1.5 text-[12.3px]"
        >
          {sha256 ? (
            <span
              className="h-9 w-11 shrink-0 rounded border border-black/15 bg-cover bg-center"
              style={{ backgroundImage: `url(${pictureUrl(sha256, 96)})` }}
            />
          ) : (
            <span className="missing-stripes h-9 w-11 shrink-0 rounded border border-error" />
          )}
          <span className="min-w-0">
            <span className="block truncate font-mono text-[11.5px]" title={path}>
              {path}
            </span>
            <span className="narrow block truncate text-[11.3px] text-[var(--soft)]">{what}</span>
          </span>
        </li>
      ))}
      {rows.length === 0 && (
        <li className="pt-16 text-center text-[var(--soft)]">Every image of the parcel is read by a slot.</li>
      )}
    </ul>
  );
}
