'use client';

import type { AlphaChange } from '@kinkajou/core/asset/asset';
import type { PixelFacts } from '@kinkajou/core/maps/pixelFacts';
import { bestCutoff } from '@kinkajou/core/materials/coverage';
import type { MetalRough } from '@kinkajou/core/materials/metalRough';
import {
  COMPONENTS,
  type Component,
  createMapUse,
  type MapUse,
  type Material,
  showsColours,
} from '@kinkajou/core/scene/material';
import { Chip, ChipSelect } from '@/ui/Chip';
import { Segments } from '@/ui/Segments';
import type { Bench } from '../bench/useBench.ts';
import { SliderRow } from './controls.tsx';
import { openMake } from './makeStore.ts';
import { useFactsOf } from './useFactsOf.ts';

const BY_HAND = { from: 'hand' as const, detail: 'transparency' };
const MODES = [
  ['opaque', 'opaque'],
  ['mask', 'mask'],
  ['blend', 'blend'],
  ['glass', 'glass'],
] as const;
type Mode = (typeof MODES)[number][0];

interface Props {
  bench: Bench;
  chosen: string[];
  material: Material;
  shading: MetalRough;
}

/**
 * How the material is seen through: opaque, cut out, blended or as glass; where its opacity comes from; its
 * sides.
 */
export function AlphaRows({ bench, chosen, material, shading }: Props) {
  const map = material.channels.opacity?.map ?? null;
  const facts = useFactsOf(map);
  const bins = facts && map ? opacityBins(facts, map) : null;
  const best = bins && bestCutoff(bins);
  const setAlpha = (change: AlphaChange) =>
    bench.apply([{ kind: 'setAlpha', materials: chosen, change, origin: BY_HAND }]);
  const glass = shading.transmission.value > 0;
  const mode: Mode = glass ? 'glass' : material.alphaMode;
  const pick = (next: Mode) => {
    const transmission = chosen.map((one) => ({ material: one, channel: 'transmission' as const }));
    const clear = {
      kind: 'setValues' as const,
      slots: transmission,
      value: next === 'glass' ? 1 : 0,
      origin: BY_HAND,
    };
    const alphaMode = next === 'glass' ? 'opaque' : next;
    const change: AlphaChange = {
      alphaMode,
      ...(next === 'mask' && best ? { alphaCutoff: best.cutoff } : {}),
    };
    bench.apply([
      ...(next === 'glass' || glass ? [clear] : []),
      { kind: 'setAlpha', materials: chosen, change, origin: BY_HAND },
    ]);
  };
  return (
    <>
      <div className="flex items-center gap-2">
        <span className="w-[76px] shrink-0 text-[var(--soft)]">Alpha</span>
        <Segments label="Alpha mode" value={mode} options={MODES} pick={pick} />
      </div>
      <div className="flex items-center gap-2">
        <span className="w-[76px] shrink-0 text-[var(--soft)]">Sides</span>
        <Segments
          label="Sides"
          value={material.doubleSided ? 'two' : 'one'}
          options={[
            ['one', '1 side'],
            ['two', '2 sides'],
          ]}
          pick={(sides) => setAlpha({ doubleSided: sides === 'two' })}
        />
      </div>
      {bench.view.source.coloured?.includes(material.key) && (
        <div className="flex items-center gap-2">
          <span className="w-[76px] shrink-0 text-[var(--soft)]">Point colours</span>
          <Segments
            label="Colours of points"
            value={showsColours(material) ? 'shown' : 'passed'}
            options={[
              ['shown', 'shown'],
              ['passed', 'passed over'],
            ]}
            pick={(colours) => setAlpha({ colours })}
          />
        </div>
      )}
      <SourceRow bench={bench} chosen={chosen} material={material} map={map} />
      <SliderRow
        key={`${material.key}/opacity`}
        title="Opacity"
        value={shading.opacity.value}
        range={[0, 1]}
        unit={unreadNote(map, material)}
        commit={(opacity) =>
          setAlpha({ opacity, ...(material.alphaMode === 'opaque' ? { alphaMode: 'blend' } : {}) })
        }
      />
      {bins && best && (
        <Statistics bins={bins} cutoff={material.alphaMode === 'mask' ? material.alphaCutoff : null} />
      )}
      {material.alphaMode === 'mask' && (
        <div className="flex min-w-0 items-center gap-2">
          <div className="min-w-0 flex-1">
            <SliderRow
              key={`${material.key}/cutoff`}
              title="Cut-off"
              value={material.alphaCutoff}
              range={[0, 1]}
              unit={bins ? `keeps ${percentKept(bins, material.alphaCutoff)}` : ''}
              commit={(alphaCutoff) => setAlpha({ alphaCutoff })}
            />
          </div>
          {best && (
            <Chip
              title={`Keeps ${Math.round(best.kept * 100)}%, as blending would show ${Math.round(best.wanted * 100)}%`}
              onClick={() => setAlpha({ alphaCutoff: best.cutoff })}
            >
              best {best.cutoff.toFixed(2)}
            </Chip>
          )}
        </div>
      )}
      {material.alphaMode === 'blend' && (
        <p className="col-span-2 text-[11.8px] text-[var(--soft)]">
          Blended surfaces are sorted by object, so parts that cross or nest show wrongly.{' '}
          {best && Math.abs(best.kept - best.wanted) < 0.05
            ? `A mask with the cut-off ${best.cutoff.toFixed(2)} keeps the same coverage and needs no sorting.`
            : 'Split crossing parts, keep the surface convex, or use glass for clear bodies.'}
        </p>
      )}
      {map && material.channels.baseColor?.map?.image === map.image && map.component === 'a' && (
        <div className="col-span-2 flex items-center gap-2">
          <span className="w-[76px] shrink-0 text-[var(--soft)]">Edges</span>
          <Chip onClick={() => openMake({ materials: chosen, recipe: 'undo-premultiplied', params: {} })}>
            undo premultiplied ...
          </Chip>
          <Chip onClick={() => openMake({ materials: chosen, recipe: 'pad-edges', params: {} })}>
            pad ...
          </Chip>
        </div>
      )}
      {glass && (
        <GlassRows bench={bench} chosen={chosen} material={material} shading={shading} setAlpha={setAlpha} />
      )}
    </>
  );
}

function unreadNote(map: MapUse | null, material: Material): string | undefined {
  if (map) return '× map';
  return material.alphaMode === 'opaque' ? 'unread' : '';
}

function GlassRows({
  bench,
  chosen,
  material,
  shading,
  setAlpha,
}: Props & { setAlpha: (change: AlphaChange) => void }) {
  const size = sizeInUnits(bench);
  return (
    <>
      <SliderRow
        key={`${material.key}/transmission`}
        title="Transmission"
        value={shading.transmission.value}
        range={[0, 1]}
        unit={shading.transmission.map ? '× map' : ''}
        commit={(value) =>
          bench.apply([
            {
              kind: 'setValues',
              slots: chosen.map((one) => ({ material: one, channel: 'transmission' as const })),
              value,
              origin: BY_HAND,
            },
          ])
        }
      />
      <div className="flex items-center gap-2">
        <span className="w-[76px] shrink-0 text-[var(--soft)]">Walls</span>
        <Segments
          label="Walls"
          value={material.thickness ? 'solid' : 'thin'}
          options={[
            ['thin', 'thin'],
            ['solid', 'solid'],
          ]}
          pick={(walls) =>
            setAlpha({ thickness: walls === 'thin' ? 0 : Number((size * 0.05).toPrecision(2)) })
          }
        />
      </div>
      {material.thickness !== undefined && (
        <SliderRow
          key={`${material.key}/thickness`}
          title="Thickness"
          value={material.thickness}
          range={[0, size * 0.5]}
          step={size / 1000}
          unit="units"
          commit={(thickness) => setAlpha({ thickness })}
        />
      )}
    </>
  );
}

/** Diagonal of the object in the model's units; 1 without geometry. */
export function sizeInUnits({ view }: Bench): number {
  const { bounds, metresPerUnit } = view.source;
  if (!bounds) return 1;
  return Math.hypot(...bounds.max.map((value, i) => value - bounds.min[i])) / metresPerUnit || 1;
}

const SOURCES: Record<string, string> = { none: 'value alone', base: 'base alpha', own: 'a map of its own' };

/** Where the opacity comes from, which component of it, and whether it is transparency rather. */
function SourceRow({
  bench,
  chosen,
  material,
  map,
}: {
  bench: Bench;
  chosen: string[];
  material: Material;
  map: MapUse | null;
}) {
  const base = material.channels.baseColor?.map ?? null;
  const source = sourceOf(map, base);
  const slots = chosen.map((one) => ({ material: one, channel: 'opacity' as const }));
  const take = (next: string) => {
    if (next === 'none') return bench.apply([{ kind: 'clearSlots', slots, origin: BY_HAND }]);
    const pasted = bench.view.state.materials.flatMap((one) => {
      const use = chosen.includes(one.key) ? one.channels.baseColor?.map : null;
      if (!use) return [];
      const { image, uvSet, transform, wrap } = use;
      return [
        {
          material: one.key,
          channel: 'opacity' as const,
          content: {
            value: 1,
            map: createMapUse(image, 'opacity', { component: 'a', uvSet, transform, wrap }),
          },
        },
      ];
    });
    if (pasted.length > 0)
      bench.apply([
        {
          kind: 'pasteSlots',
          slots: pasted,
          what: 'Opacity from the alpha of the base colour:',
          origin: BY_HAND,
        },
      ]);
  };
  return (
    <div className="flex min-w-0 items-center gap-1">
      <span className="w-[76px] shrink-0 text-[var(--soft)]">Opacity from</span>
      <ChipSelect
        className="min-w-0 flex-1"
        aria-label="Source of opacity"
        value={source}
        onChange={(event) => take(event.target.value)}
      >
        <option value="none">{SOURCES.none}</option>
        <option value="base" disabled={!base}>
          {SOURCES.base}
        </option>
        <option value="own" disabled>
          {SOURCES.own}
        </option>
      </ChipSelect>
      {map && (
        <>
          <ChipSelect
            aria-label="Component of opacity"
            value={map.component}
            onChange={(event) =>
              bench.apply([
                {
                  kind: 'adjustSlots',
                  slots,
                  change: { component: event.target.value as Component },
                  origin: BY_HAND,
                },
              ])
            }
          >
            {COMPONENTS.filter((component) => component !== 'rgb').map((component) => (
              <option key={component} value={component}>
                {component === 'luminance' ? 'lum' : component}
              </option>
            ))}
          </ChipSelect>
          <Chip
            aria-pressed={map.invert}
            aria-label="inverted"
            title="The map holds transparency: 1 - x"
            onClick={() =>
              bench.apply([{ kind: 'adjustSlots', slots, change: { invert: !map.invert }, origin: BY_HAND }])
            }
          >
            1-x
          </Chip>
        </>
      )}
    </div>
  );
}

function sourceOf(map: MapUse | null, base: MapUse | null) {
  if (!map) return 'none';
  return base && map.image === base.image ? 'base' : 'own';
}

/** Shares by opacity as a strip of bars, the cut-off as a line. */
function Statistics({ bins, cutoff }: { bins: readonly number[]; cutoff: number | null }) {
  const most = Math.max(...bins.slice(1, -1), 1e-4);
  const share = (value: number) => `${(value * 100).toFixed(value > 0 && value < 0.01 ? 1 : 0)}%`;
  const between = bins.slice(1, -1).reduce((sum, value) => sum + value, 0);
  return (
    <div
      className="col-span-2 flex items-center gap-2"
      role="img"
      aria-label={`Opacity: ${share(bins[0])} clear, ${share(between)} in between, ${share(bins[bins.length - 1])} whole`}
    >
      <span className="w-[76px] shrink-0 text-[var(--soft)]">Pixels</span>
      <span className="w-20 shrink-0 text-right text-[11.5px]">{share(bins[0])} clear</span>
      <span className="relative flex h-6 min-w-0 flex-1 items-end rounded-sm border border-[var(--line)] bg-base-100">
        {bins.slice(1, -1).map((value, i) => (
          <span
            key={i}
            className="flex-1 bg-secondary"
            style={{ height: `${Math.min(100, (value / most) * 100)}%` }}
          />
        ))}
        {cutoff !== null && (
          <span className="absolute inset-y-0 w-0.5 bg-error" style={{ left: `${cutoff * 100}%` }} />
        )}
      </span>
      <span className="w-[150px] shrink-0 text-[11.5px]">
        {share(between)} between, {share(bins[bins.length - 1])} whole
      </span>
    </div>
  );
}

function opacityBins(facts: PixelFacts, map: MapUse): readonly number[] | null {
  const bins = binsOf(map, facts);
  if (!bins) return null;
  return map.invert ? [...bins].reverse() : bins;
}

function binsOf(map: MapUse, facts: PixelFacts) {
  if (map.component === 'a') return facts.alpha?.bins;
  return facts.components < 3 || map.component === 'luminance' ? facts.histogram : null;
}

function percentKept(bins: readonly number[], cutoff: number): string {
  const from = Math.round(cutoff * bins.length);
  return `${Math.round(bins.slice(from).reduce((sum, value) => sum + value, 0) * 100)}%`;
}
