'use client';

import { useDraggable } from '@dnd-kit/core';
import type { ParcelImage } from '@kinkajou/core/asset/asset';
import { ownImages } from '@kinkajou/core/asset/ownImages';
import { assignImagesEdit } from '@kinkajou/core/edits/slotEdits';
import { foldName } from '@kinkajou/core/links/fileIndex';
import type { DetectedMap } from '@kinkajou/core/maps/detectMaps';
import { distinctNames } from '@kinkajou/core/parcel/distinctNames';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type MouseEvent, useMemo, useRef, useState } from 'react';
import { pictureUrl } from '@/ui/api';
import { Chip } from '@/ui/Chip';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';
import { unusedImages } from '../links/UnusedImages.tsx';

const WIDTH = 74;

/**
 * Images of the parcel in a strip: choose several, drag them onto slots, materials and parts, or let them
 * form materials.
 */
export function ImageTray() {
  const bench = useBench();
  const { view } = bench;
  const { images: chosen, slot, set } = useFocus();
  const [search, setSearch] = useState('');
  const [unusedOnly, setUnusedOnly] = useState(false);
  const anchor = useRef<string | null>(null);
  const scroller = useRef<HTMLDivElement>(null);
  const detected = useMemo(() => new Map(view.detected.map((map) => [map.path, map])), [view.detected]);
  const rows = useMemo(() => {
    const unused = unusedOnly ? new Set(unusedImages(view).map((image) => image.path)) : null;
    const words = foldName(search);
    const used = new Set(view.state.images.map((image) => image.resolved));
    const own = new Set(ownImages(view.source, view.images));
    return view.images.filter(
      (image) =>
        (own.has(image) || used.has(image.path)) &&
        image.info &&
        (!unused || unused.has(image.path)) &&
        foldName(image.path).includes(words),
    );
  }, [view, search, unusedOnly]);
  const names = useMemo(() => distinctNames(rows.map(({ path }) => path)), [rows]);
  const virtual = useVirtualizer({
    horizontal: true,
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => WIDTH,
    overscan: 6,
  });
  const choose = (path: string, event: MouseEvent) => {
    const paths = rows.map((row) => row.path);
    if (event.shiftKey && anchor.current) {
      const [a, b] = [paths.indexOf(anchor.current), paths.indexOf(path)].sort((x, y) => x - y);
      return set({ images: paths.slice(Math.max(0, a), b + 1) });
    }
    anchor.current = path;
    if (event.ctrlKey || event.metaKey)
      return set({
        images: chosen.includes(path) ? chosen.filter((other) => other !== path) : [...chosen, path],
      });
    // A chosen image may be the handle by which all chosen ones are dragged.
    if (!chosen.includes(path)) set({ images: [path] });
  };
  const assign = slot && assignImagesEdit(slot.material, chosen, view);
  return (
    <section
      className="grid border-t border-[var(--line)] bg-base-100"
      style={{ gridTemplateRows: '32px 74px' }}
      aria-label="Images of the parcel"
    >
      <div className="flex items-center gap-1.5 overflow-x-auto px-3 text-[12px] whitespace-nowrap">
        <b>Images</b>
        <span className="text-[var(--soft)]">
          {chosen.length > 0 ? `${chosen.length} of ${rows.length} chosen` : plural(rows.length, 'image')}
        </span>
        <Field
          className="w-20"
          placeholder="Find"
          aria-label="Find an image"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        <Chip aria-pressed={unusedOnly} onClick={() => setUnusedOnly(!unusedOnly)}>
          unused
        </Chip>
        <span className="flex-1" />
        <Chip
          disabled={!assign || bench.busy}
          title={slot ? `Each chosen image into its slot of ${slot.material}` : ''}
          onClick={() => assign && bench.apply([assign])}
        >
          To {slot ? slot.material : 'material'}
        </Chip>
        <Chip disabled={chosen.length === 0} onClick={() => set({ dialog: 'form' })}>
          Form materials
        </Chip>
      </div>
      <div ref={scroller} className="overflow-x-auto overflow-y-hidden">
        <div className="relative h-[66px]" style={{ width: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const image = rows[item.index];
            return (
              <TrayImage
                key={image.path}
                name={names.get(image.path) ?? ''}
                image={image}
                map={detected.get(image.path)}
                left={item.start}
                chosen={chosen.includes(image.path)}
                choose={(event) => choose(image.path, event)}
              />
            );
          })}
          {rows.length === 0 && (
            <p className="p-4 text-[12px] whitespace-nowrap text-[var(--soft)]">
              {search === '' && !unusedOnly ? 'Its parcel has no images.' : 'No image fits.'}
            </p>
          )}
        </div>
      </div>
    </section>
  );
}

interface TrayImageProps {
  image: ParcelImage;
  map: DetectedMap | undefined;
  left: number;
  /** What tells it apart from the others. */
  name: string;
  chosen: boolean;
  choose: (event: MouseEvent) => void;
}

function TrayImage({ image, name, map, left, chosen, choose }: TrayImageProps) {
  const { setNodeRef, listeners, attributes } = useDraggable({
    id: `image:${image.path}`,
    data: { path: image.path },
  });
  const what = map?.readings.map((reading) => channelTitle(reading.channel)).join(', ') || 'unknown';
  return (
    <button
      ref={setNodeRef}
      {...attributes}
      {...listeners}
      type="button"
      data-tray={image.path}
      aria-pressed={chosen}
      title={`${image.path}\n${what}\n${map?.evidence.join('\n') ?? ''}`}
      className={`absolute top-0.5 ml-1.5 grid w-[68px] cursor-grab gap-0.5 rounded p-0.5 text-left ${chosen ? 'bg-[var(--honey-wash)] ring-2 ring-accent' : ''}`}
      style={{ left }}
      onClick={choose}
    >
      <span
        className="h-[42px] rounded border border-black/15 bg-cover bg-center"
        style={{ backgroundImage: `url(${pictureUrl(image.sha256, 96)})` }}
      />
      <span
        className="narrow truncate text-[10.5px] text-[var(--soft)]"
        dir={name.includes('/') ? 'rtl' : undefined}
      >
        <bdi>{name}</bdi>
      </span>
    </button>
  );
}
