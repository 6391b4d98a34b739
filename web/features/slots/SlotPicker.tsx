'use client';

import { classifyNames } from '@kinkajou/core/maps/classifyName';
import { Command } from 'cmdk';
import { useMemo, useRef } from 'react';
import { pictureUrl } from '@/ui/api';
import { bytes, channelTitle } from '@/ui/format';
import { useFocus } from '../bench/focus.ts';
import { Modal } from '../bench/Dialogs.tsx';
import { useBench } from '../bench/useBench.ts';
import { IMAGE_ACCEPT, useImageUpload } from '../links/useImageUpload.ts';
import { assignEdit } from './slotEdits.ts';

/** Chooses an image of the parcel for the selected slots; images whose name fits the channel come first. */
export function SlotPicker({ close }: { close: () => void }) {
  const bench = useBench();
  const { view } = bench;
  const { slot, selected } = useFocus();
  const input = useRef<HTMLInputElement>(null);
  const upload = useImageUpload(view.parcel.id);
  const sorted = useMemo(() => {
    const usable = view.images.filter((image) => image.info);
    const classes = classifyNames(usable.map((image) => image.path));
    const rows = usable.map((image, i) => ({ image, readings: classes[i].readings.map((reading) => reading.channel) }));
    const fits = (row: (typeof rows)[0]) => (slot && row.readings.includes(slot.channel) ? 0 : 1);
    return rows.sort((a, b) => fits(a) - fits(b) || a.image.path.localeCompare(b.image.path));
  }, [view.images, slot]);
  if (!slot) return null;
  const take = (path: string) => {
    bench.apply([assignEdit(selected.length > 0 ? selected : [slot], path)]);
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
          <Command.Input autoFocus placeholder="Search images" className="field flex-1" />
          <button type="button" className="act" onClick={() => input.current?.click()}>
            Upload images
          </button>
          <input ref={input} type="file" multiple hidden accept={IMAGE_ACCEPT} onChange={(event) => void upload([...(event.target.files ?? [])])} />
        </div>
        <Command.List className="max-h-[56vh] overflow-auto p-1.5">
          <Command.Empty className="p-6 text-center text-[var(--soft)]">No image of the parcel fits. Upload one.</Command.Empty>
          {sorted.map(({ image, readings }) => (
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
              <span className="text-[11.5px] text-[var(--soft)]">{readings.map(channelTitle).join(', ')}</span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Modal>
  );
}
