'use client';

import { lengthInWords } from '@kinkajou/core/findings/surface/materialFinding';
import { type Height, heightOf, withHeight } from '@kinkajou/core/materials/height';
import type { Material } from '@kinkajou/core/scene/material';
import { Chip } from '@/ui/Chip';
import { useChoices } from '@/ui/choices';
import { Segments } from '@/ui/Segments';
import type { Bench } from '../bench/useBench.ts';
import { useTear } from '../viewport/tear.ts';
import { sizeInUnits } from './AlphaRows.tsx';
import { SliderRow } from './controls.tsx';
import { openMake } from './makeStore.ts';

const BY_HAND = { from: 'hand' as const, detail: 'height' };

/** Amount and mid level of the height, shown by real displacement in the view when that is switched on. */
export function HeightRows({
  bench,
  chosen,
  material,
}: {
  bench: Bench;
  chosen: string[];
  material: Material;
}) {
  const displaced = useChoices((choices) => choices.view.displaced);
  const setView = useChoices((choices) => choices.setView);
  const tear = useTear((state) => state.tears[material.key] ?? 0);
  const channel = material.channels.height;
  if (!channel?.map) return null;
  const { amount, mid } = heightOf(channel.value, channel.map);
  const size = sizeInUnits(bench);
  const set = (change: Partial<Height>) => {
    const slots = bench.view.state.materials.flatMap((one) => {
      const other = chosen.includes(one.key) ? one.channels.height : undefined;
      if (!other?.map) return [];
      return [
        {
          material: one.key,
          channel: 'height' as const,
          content: withHeight(other.map, { ...heightOf(other.value, other.map), ...change }),
        },
      ];
    });
    bench.apply([
      {
        kind: 'pasteSlots',
        slots,
        what: change.mid === undefined ? 'Height amount of' : 'Mid level of',
        origin: BY_HAND,
      },
    ]);
  };
  return (
    <>
      <SliderRow
        key={`${material.key}/height`}
        title="Height"
        value={amount}
        range={[0, Math.max(size * 0.1, Math.abs(amount))]}
        step={size / 5000}
        unit={lengthInWords(Math.abs(amount) * bench.view.source.metresPerUnit)}
        commit={(next) => set({ amount: next })}
      />
      <div className="flex flex-wrap items-center gap-2">
        <span className="shrink-0 text-[var(--soft)]">Mid</span>
        <Segments
          label="Mid level"
          value={mid === 0 ? '0' : '0.5'}
          options={[
            ['0', '0'],
            ['0.5', '0.5'],
          ]}
          pick={(next) => set({ mid: Number(next) })}
        />
        <Chip aria-pressed={displaced} onClick={() => setView({ displaced: !displaced })}>
          displace in view
        </Chip>
        <Chip onClick={() => openMake({ materials: chosen, recipe: 'normal', params: { from: 'height' } })}>
          to normal ...
        </Chip>
      </div>
      {displaced && tear > 0.001 * size * bench.view.source.metresPerUnit && (
        <p className="col-span-2 text-[11.8px] text-error">
          Hard edges tear by up to {lengthInWords(tear)}. Less height, a mid level of 0.5 or soft edges close
          them.
        </p>
      )}
    </>
  );
}
