'use client';

import type { SlotAddress } from '@kinkajou/core/asset/asset';
import { assignEdit } from '@kinkajou/core/edits/slotEdits';
import type { DetectedMap } from '@kinkajou/core/maps/detectMaps';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { Command } from 'cmdk';
import { useMemo, useRef } from 'react';
import { pictureUrl } from '@/ui/api';
import { Button } from '@/ui/Button';
import { FIELD } from '@/ui/Field';
import { bytes } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { IMAGE_ACCEPT, useImageUpload } from '../links/useImageUpload.ts';

/**
 * Chooses an image of the parcel for the selected slots; those that fit the slot by set, name and pixels come
 * first.
 */
export function SlotPicker({ close }: { close: () => void }) {
  const bench = useBench();
  const { view } = bench;
  const { slot, selected } = useFocus();
  const input = useRef<HTMLInputElement>(null);
  const upload = useImageUpload();
  const suggested = view.fills;
  const sorted = useMemo(() => {
    const detected = new Map(view.detected.map((map) => [map.path, map]));
    const copies = new Set(view.sidecars.map(({ path }) => path));
    const rows = view.images
      .filter((image) => image.info && !copies.has(image.path))
      .map((image) => {
        const map = detected.get(image.path);
        const offered =
          slot &&
          suggested.find(
            (one) =>
              one.image === image.path && one.material === slot.material && one.channel === slot.channel,
          );
        const fits = fitOf(slot, map);
        return { image, map, rank: offered ? 0 : fits, offered: Boolean(offered) };
      });
    return rows.sort(
      (a, b) =>
        a.rank - b.rank ||
        (b.map?.confidence ?? 0) - (a.map?.confidence ?? 0) ||
        a.image.path.localeCompare(b.image.path),
    );
  }, [view, slot, suggested]);
  if (!slot) return null;
  const take = (path: string) => {
    bench.apply([assignEdit(selected.length > 0 ? selected : [slot], path, view)]);
    close();
  };
  return (
    <Modal
      title={`Image for ${slot.material}, ${channelTitle(slot.channel)}${selected.length > 1 ? ` and ${selected.length - 1} more` : ''}`}
      close={close}
      wide
    >
      <Command label="Images of the parcel" className="grid">
        <div className="flex gap-2 border-b border-[var(--line)] p-2">
          <Command.Input data-first-focus placeholder="Search images" className={`${FIELD} flex-1`} />
          <Button onClick={() => input.current?.click()}>Upload images</Button>
          <input
            ref={input}
            type="file"
            multiple
            hidden
            accept={IMAGE_ACCEPT}
            onChange={(event) => void upload([...(event.target.files ?? [])])}
          />
        </div>
        <Command.List className="max-h-[56vh] overflow-auto p-1.5">
          <Command.Empty className="p-6 text-center text-[var(--soft)]">
            No image of the parcel fits. Upload one.
          </Command.Empty>
          {sorted.map(({ image, map, offered }) => (
            <Command.Item
              key={image.path}
              value={image.path}
              onSelect={() => take(image.path)}
              className="flex cursor-pointer items-center gap-3 rounded-md px-2 py-1.5 data-[selected=true]:bg-[var(--honey-wash)]"
            >
              <img
                src={pictureUrl(image.sha256, 96)}
                alt=""
                width={46}
                height={46}
                className="rounded object-cover"
                style={{ width: 46, height: 46 }}
                loading="lazy"
              />
              <span className="min-w-0 flex-1">
                <span className="block truncate font-mono text-[12px]">{image.path}</span>
                <span className="text-[11.5px] text-[var(--soft)]">
                  {image.info?.width} × {image.info?.height}, {image.info?.bitDepth} bit, {bytes(image.size)}
                </span>
              </span>
              <span className="max-w-[40%] text-right text-[11.5px] text-[var(--soft)]">
                <span className={offered ? 'font-semibold text-secondary' : ''}>
                  {offered ? 'fits: ' : ''}
                  {map?.readings
                    .map(
                      (reading) =>
                        `${map.packed ? `${reading.component} ` : ''}${channelTitle(reading.channel)}`,
                    )
                    .join(', ')}
                </span>
                {map && (
                  <span className="narrow block truncate" title={map.evidence.join('\n')}>
                    {map.evidence[0]}
                  </span>
                )}
              </span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Modal>
  );
}

/** How well an image fits a slot: 1 well, 2 with a contradiction, 3 not. */
function fitOf(slot: SlotAddress | null, map: DetectedMap | undefined): 1 | 2 | 3 {
  if (slot && map?.readings.some((reading) => reading.channel === slot.channel))
    return map.contradicted ? 2 : 1;
  return 3;
}
