'use client';

import { isColourSpace, SPACES } from '@kinkajou/core/colour/spaces';
import { percent } from '@kinkajou/core/maps/judgePixels';
import { COLOUR_SPACES, type ColourSpace } from '@kinkajou/core/scene/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { toast } from 'sonner';
import type { ConversionRow } from '@/server/services/conversions';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { fileName } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { useFocus } from '../bench/focus.ts';
import { type Bench, useBench } from '../bench/useBench.ts';

const POLL_MS = 600;

/**
 * Converts the focused slot's image to another space, as a new image beside it, and says what did not fit.
 */
export function ConvertDialog({ close }: { close: () => void }) {
  const bench = useBench();
  const { view } = bench;
  const slot = useFocus((state) => state.slot);
  const client = useQueryClient();
  const map = view.state.materials.find((material) => material.key === slot?.material)?.channels[
    slot?.channel ?? 'baseColor'
  ]?.map;
  const entry = map && view.state.images.find((image) => image.key === map.image);
  const file = entry?.resolved ? view.images.find((image) => image.path === entry.resolved) : undefined;
  const [to, setTo] = useState<ColourSpace>(file?.info?.floating ? 'lin_ap1_scene' : 'srgb_rec709_scene');
  const key = ['conversions', view.id];
  const list = useQuery({
    queryKey: key,
    queryFn: () => api<{ conversions: ConversionRow[] }>(`/api/assets/${view.id}/conversions`),
    refetchInterval: ({ state }) =>
      state.data?.conversions.some((one) => one.state === 'queued' || one.state === 'running')
        ? POLL_MS
        : false,
  });
  const start = useMutation({
    mutationFn: () =>
      api(`/api/assets/${view.id}/conversions`, {
        method: 'POST',
        body: { image: file?.path, from: map?.space, to, exponent: map?.exponent ?? 1 },
      }),
    onSuccess: () => client.invalidateQueries({ queryKey: key }),
    onError: (error) => toast.error(error.message),
  });
  const from = map?.space ?? 'unknown';
  const can = file?.info && isColourSpace(from) && to !== from;
  return (
    <Modal title={`Convert ${file ? fileName(file.path) : 'an image'}`} close={close} wide>
      <div className="grid gap-3 p-4">
        <p className="text-[12.3px] text-[var(--soft)]">
          {isColourSpace(from)
            ? `From ${SPACES[from].title}, as it is tagged. The original stays; floats stay floats.`
            : `The image is tagged ${from}. Give it a colour tag first, so that its numbers mean a colour.`}
        </p>
        <div className="flex items-end gap-2">
          <label className="grid gap-1 text-[12.3px]">
            <span className="font-semibold">To</span>
            <ChipSelect
              aria-label="Convert to"
              value={to}
              onChange={(event) => setTo(event.target.value as ColourSpace)}
            >
              {COLOUR_SPACES.filter(isColourSpace).map((space) => (
                <option key={space} value={space}>
                  {SPACES[space].title}
                </option>
              ))}
            </ChipSelect>
          </label>
          <Button main disabled={!can || start.isPending} onClick={() => start.mutate()}>
            Convert
          </Button>
        </div>
        <ul className="grid max-h-[40vh] gap-1 overflow-auto" aria-label="Conversions">
          {(list.data?.conversions ?? []).map((one) => (
            <Conversion key={one.id} one={one} bench={bench} />
          ))}
        </ul>
      </div>
    </Modal>
  );
}

function Conversion({ one, bench }: { one: ConversionRow; bench: Bench }) {
  const { image, from, to } = one.request;
  const entry = bench.view.state.images.find((other) => other.resolved === image);
  const uses = bench.view.state.materials.flatMap((material) =>
    Object.entries(material.channels).flatMap(([channel, { map }]) =>
      map && map.image === entry?.key && map.space === from ? [{ material: material.key, channel }] : [],
    ),
  );
  const take = () =>
    bench.apply([
      {
        kind: 'assignSlots',
        assignments: uses.map(({ material, channel }) => ({
          material,
          channel: channel as never,
          image: one.path ?? '',
          component: 'rgb' as const,
          invert: false,
          space: to,
          normalY: 'Y+' as const,
        })),
        origin: { from: 'hand', detail: `converted from ${from}` },
      },
    ]);
  return (
    <li className="flex items-center gap-2 rounded-[5px] border border-[var(--line)] bg-base-100 px-2.5 py-1.5 text-[12px]">
      <span className="min-w-0 flex-1">
        <span className="block truncate font-mono text-[11.5px]" title={one.path ?? image}>
          {fileName(one.path ?? image)}
        </span>
        <span className="text-[var(--soft)]">
          {from} to {to}: {outcomeOf(one)}
        </span>
      </span>
      {one.state === 'done' && one.path && (
        <Button disabled={uses.length === 0 || bench.busy} onClick={take}>
          Use it
        </Button>
      )}
    </li>
  );
}

function outcomeOf(one: ConversionRow) {
  if (one.report)
    return `${percent(one.report.outOfGamut)} out of gamut, ${percent(one.report.clipped)} clipped`;
  return one.state === 'failed' ? one.fault?.message : one.state;
}
