'use client';

import { pixelOf, sampleChannel, singlePixel } from '@kinkajou/core/materials/sample';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { CHANNELS, type ChannelName, type MapUse } from '@kinkajou/core/scene/material';
import { useEffect, useRef, useState } from 'react';
import type { PixelPlace } from '@/server/services/pixels';
import { api } from '@/ui/api';
import { fileName } from '@/ui/format';
import type { BenchView } from '../bench/useBench.ts';
import { useBench } from '../bench/useBench.ts';
import { type Picked, pickAt } from './pick.ts';
import { uvNames, uvPlace } from './uvPlaces.ts';

const WAIT_MS = 70;
/** Size of the panel and its distances, in pixels of the page. */
const WIDTH = 290;
const GAP = 14;
const MARGIN = 6;

interface Line {
  channel: ChannelName;
  value: string;
  /** Where the number comes from: file, pixel and what is stored there. */
  from: string;
}

interface Reading {
  at: { x: number; y: number };
  picked: Picked;
  lines: Line[];
}

/**
 * Under the pointer: the material, the place in its UV sets, and each channel's value with its source pixel
 * and file.
 */
export function Probe() {
  const { view } = useBench();
  const box = useRef<HTMLDivElement>(null);
  const [reading, setReading] = useState<Reading | null>(null);
  const latest = useRef(view);
  latest.current = view;
  useEffect(() => {
    const area = box.current?.parentElement;
    if (!area) return;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let turn = 0;
    const onMove = (event: PointerEvent) => {
      clearTimeout(timer);
      const place = { x: event.clientX, y: event.clientY };
      timer = setTimeout(async () => {
        const mine = ++turn;
        const picked = pickAt(place);
        if (!picked) return setReading(null);
        const rect = area.getBoundingClientRect();
        const position = { x: place.x - rect.left, y: place.y - rect.top };
        const lines = await readLines(latest.current, picked).catch(() => null);
        if (mine === turn && lines) setReading({ at: position, picked, lines });
      }, WAIT_MS);
    };
    const onLeave = () => {
      clearTimeout(timer);
      turn += 1;
      setReading(null);
    };
    area.addEventListener('pointermove', onMove);
    area.addEventListener('pointerleave', onLeave);
    return () => {
      clearTimeout(timer);
      area.removeEventListener('pointermove', onMove);
      area.removeEventListener('pointerleave', onLeave);
    };
  }, []);
  const names = uvNames(view.source);
  const uvText = reading?.picked.uvs
    .map(([u, v], i) => `${names[i] || `UV ${i + 1}`} ${u.toFixed(4)} ${v.toFixed(4)}`)
    .join(', ');
  const area = box.current?.parentElement;
  const [wide, high] = [area?.clientWidth ?? 0, area?.clientHeight ?? 0];
  const place = reading && {
    left: Math.min(
      Math.max(MARGIN, reading.at.x > wide / 2 ? reading.at.x - WIDTH - GAP : reading.at.x + GAP),
      Math.max(MARGIN, wide - WIDTH - MARGIN),
    ),
    ...(reading.at.y > high / 2 ? { bottom: high - reading.at.y + GAP } : { top: reading.at.y + GAP }),
  };
  return (
    <div ref={box} className="pointer-events-none absolute inset-0 z-10" aria-live="polite">
      {reading && (
        <div
          className="absolute rounded-[5px] border border-[var(--line)] bg-base-100/95 px-2.5 py-2 text-[11.5px] shadow-lg"
          style={{ width: WIDTH, ...place }}
          role="status"
          aria-label="Probe"
        >
          <b className="block truncate text-[12px]">{reading.picked.material || 'no material'}</b>
          <span className="block truncate font-mono text-[11px] text-[var(--soft)]">
            {uvText || 'no UV set'}
          </span>
          <dl className="mt-1 grid gap-0.5">
            {reading.lines.map(({ channel, value, from }) => (
              <div
                key={channel}
                className="grid gap-x-2"
                style={{ gridTemplateColumns: '78px minmax(0, 1fr)' }}
              >
                <dt className="text-[var(--soft)]">{channelTitle(channel)}</dt>
                <dd className="truncate font-mono text-[11px]">{value}</dd>
                {from && (
                  <dd className="col-start-2 text-[10.8px] [overflow-wrap:anywhere] text-[var(--soft)]">
                    {from}
                  </dd>
                )}
              </div>
            ))}
          </dl>
        </div>
      )}
    </div>
  );
}

async function readLines(view: BenchView, { material: key, uvs }: Picked): Promise<Line[]> {
  const material = view.state.materials.find((one) => one.key === key);
  if (!material) return [];
  const required: { channel: ChannelName; map: MapUse; place: PixelPlace }[] = [];
  const missing = new Map<ChannelName, string>();
  for (const channel of CHANNELS) {
    const map = material.channels[channel]?.map;
    if (!map) continue;
    const place = placeOf(view, map, uvs);
    if (typeof place === 'string') missing.set(channel, place);
    else required.push({ channel, map, place });
  }
  const { pixels } =
    required.length > 0
      ? await api<{ pixels: (number[] | null)[] }>('/api/pixels', {
          method: 'POST',
          body: { places: required.map(({ place }) => place) },
        })
      : { pixels: [] };
  const stored = new Map(required.map(({ channel, place }, i) => [channel, { place, pixel: pixels[i] }]));
  return CHANNELS.flatMap((channel): Line[] => {
    const content = material.channels[channel];
    if (!content) return [];
    const found = stored.get(channel);
    if (content.map && !found?.pixel)
      return [{ channel, value: '', from: missing.get(channel) ?? 'the pixel cannot be read' }];
    const value = sampleChannel(channel, {
      value: content.value,
      map: content.map,
      pixels: found?.pixel ? singlePixel(found.pixel) : null,
    });
    const from = found?.pixel
      ? `${found.pixel.map((component) => storedText(component)).join(' ')} at ${found.place.x}, ${found.place.y} of ${fileName(found.place.path)}`
      : '';
    return [{ channel, value: numbers(value), from }];
  });
}

/** The stored pixel that a use reads at the picked place, or why there is none. */
function placeOf(view: BenchView, map: MapUse, uvs: Picked['uvs']): PixelPlace | string {
  const entry = view.state.images.find((image) => image.key === map.image);
  if (!entry?.resolved) return 'its image is missing';
  const set = uvPlace(view.source, map.uvSet);
  const uv = uvs[set] ?? uvs[0];
  if (!uv) return 'the part has no UV set';
  const first = view.images.find((image) => image.path === entry.resolved);
  if (!first?.info) return 'its image cannot be read';
  const { tile } = pixelOf(uv, map, first.info, (entry.tiles?.length ?? 0) > 1);
  const path = tile === null ? first.path : entry.tiles?.find(({ number }) => number === tile)?.path;
  const file = path ? view.images.find((image) => image.path === path) : undefined;
  if (!file?.info) return `tile ${tile} is not there`;
  const { x, y } = pixelOf(uv, map, file.info, tile !== null);
  return { sha256: file.sha256, path: file.path, x, y };
}

function numbers(value: number | readonly number[]): string {
  return (typeof value === 'number' ? [value] : value).map((component) => component.toFixed(3)).join(' ');
}

/** 8-bit codes as such, all else as numbers. */
function storedText(value: number): string {
  const code = value * 255;
  return Math.abs(code - Math.round(code)) < 1e-4 ? String(Math.round(code)) : value.toFixed(4);
}
