'use client';

import type { AlphaChange, Edit } from '@kinkajou/core/asset/asset';
import { reflectanceInWords, STARTING_POINTS, type StartingPoint } from '@kinkajou/core/materials/measured';
import { toMetalRough } from '@kinkajou/core/materials/metalRough';
import type { ChannelName, Material } from '@kinkajou/core/scene/material';
import { reflectanceOfIndex } from '@kinkajou/core/scene/shading';
import { useEffect, useState } from 'react';
import { plural } from '@/ui/format';
import { type Bench, useBench } from '../bench/useBench.ts';

const BY_HAND = { from: 'hand' as const, detail: 'surface' };

/** The numbers of the chosen materials with sliders; a change is made to all of them. */
export function SurfaceSheet({ chosen }: { chosen: string[] }) {
  const bench = useBench();
  const materials = bench.view.state.materials.filter((material) => chosen.includes(material.key));
  const [first] = materials;
  if (!first) return <div className="border-t border-[var(--line)] bg-base-200 p-4 text-[var(--soft)]">Choose a material.</div>;
  const shading = toMetalRough(first);
  const setAlpha = (change: AlphaChange) => bench.apply([{ kind: 'setAlpha', materials: chosen, change, origin: BY_HAND }]);
  const slider = (channel: ChannelName, title: string, value: number, range: [number, number], unit = '') => (
    <SliderRow
      key={`${first.key}/${channel}`}
      title={title}
      value={value}
      range={range}
      unit={unit}
      map={Boolean(first.channels[channel]?.map)}
      commit={(next) => bench.apply([valueEdit(chosen, channel, next)])}
    />
  );
  return (
    <section className="grid gap-2 border-t border-[var(--line)] bg-base-200 px-3.5 py-2.5 text-[12.3px]" aria-label="Surface details">
      <div className="flex items-center gap-2">
        <b className="min-w-0 truncate">{materials.length === 1 ? first.key : plural(materials.length, 'material')}</b>
        <span className="flex-1" />
        <StartSelect apply={(start) => bench.apply(startEdits(materials, start))} />
      </div>
      <div className="grid gap-x-5 gap-y-1.5" style={{ gridTemplateColumns: 'repeat(2, minmax(0, 1fr))' }}>
        {slider('metalness', 'Metalness', shading.metalness.value, [0, 1])}
        {slider('roughness', 'Roughness', shading.roughness.value, [0, 1])}
        {slider('ior', 'Index', shading.ior, [1, 2.5], `${(reflectanceOfIndex(shading.ior) * 100).toFixed(1)}% refl.`)}
        {slider('transmission', 'Transmission', shading.transmission.value, [0, 1])}
        {slider('coat', 'Coat', shading.coat.value, [0, 1])}
        <OpacityRow bench={bench} chosen={chosen} material={first} value={shading.opacity.value} />
        <ColourRow
          title="Base colour"
          value={shading.baseColor.value}
          map={shading.baseColor.map !== null}
          commit={(value) => bench.apply([colourEdit(chosen, 'baseColor', value)])}
        />
        <ColourRow
          title="Emission"
          value={shading.emission.value}
          map={shading.emission.map !== null}
          commit={(value) => bench.apply([colourEdit(chosen, 'emission', value)])}
        />
        <div className="flex items-center gap-2">
          <span className="w-[76px] shrink-0 text-[var(--soft)]">Alpha</span>
          <fieldset className="seg" aria-label="Alpha mode">
            {(['opaque', 'mask', 'blend'] as const).map((mode) => (
              <button
                key={mode}
                type="button"
                aria-pressed={first.alphaMode === mode}
                onClick={() => first.alphaMode !== mode && setAlpha({ alphaMode: mode })}
              >
                {mode}
              </button>
            ))}
          </fieldset>
          <fieldset className="seg whitespace-nowrap" aria-label="Sides">
            {[false, true].map((two) => (
              <button
                key={String(two)}
                type="button"
                aria-pressed={first.doubleSided === two}
                onClick={() => first.doubleSided !== two && setAlpha({ doubleSided: two })}
              >
                {two ? '2 sides' : '1 side'}
              </button>
            ))}
          </fieldset>
        </div>
        {first.alphaMode === 'mask' && (
          <SliderRow
            key={`${first.key}/cutoff`}
            title="Cut-off"
            value={first.alphaCutoff}
            range={[0, 1]}
            unit=""
            map={false}
            commit={(alphaCutoff) => setAlpha({ alphaCutoff })}
          />
        )}
      </div>
    </section>
  );
}

function valueEdit(materials: string[], channel: ChannelName, value: number): Edit {
  return { kind: 'setValues', slots: materials.map((material) => ({ material, channel })), value, origin: BY_HAND };
}

function colourEdit(materials: string[], channel: ChannelName, value: [number, number, number]): Edit {
  return { kind: 'setValues', slots: materials.map((material) => ({ material, channel })), value, origin: BY_HAND };
}

/** A base colour map keeps its own colours: a factor over it would tint it. */
function startEdits(materials: Material[], start: StartingPoint): Edit[] {
  const origin = { from: 'hand' as const, detail: `starting point: ${start.title}` };
  const plain = materials.filter((material) => !material.channels.baseColor?.map);
  const set = (channel: ChannelName, value: number | [number, number, number], to = materials): Edit => ({
    kind: 'setValues',
    slots: to.map((material) => ({ material: material.key, channel })),
    value,
    origin,
  });
  return [
    ...(start.baseColor && plain.length > 0 ? [set('baseColor', start.baseColor, plain)] : []),
    set('metalness', start.metalness),
    set('roughness', start.roughness),
    set('ior', start.ior),
    set('transmission', start.transmission),
  ];
}

function StartSelect({ apply }: { apply: (start: StartingPoint) => void }) {
  return (
    <select
      className="chip"
      aria-label="Start from"
      value=""
      onChange={(event) => {
        const start = STARTING_POINTS.find((one) => one.id === event.target.value);
        if (start) apply(start);
        event.currentTarget.blur();
      }}
    >
      <option value="">Start from ...</option>
      {(['metal', 'glass', 'dielectric'] as const).map((kind) => (
        <optgroup key={kind} label={{ metal: 'Metals', glass: 'Clear', dielectric: 'Plastics' }[kind]}>
          {STARTING_POINTS.filter((start) => start.kind === kind).map((start) => (
            <option key={start.id} value={start.id}>
              {start.title}, reflects {reflectanceInWords(start)}
            </option>
          ))}
        </optgroup>
      ))}
    </select>
  );
}

interface SliderRowProps {
  title: string;
  value: number;
  range: [number, number];
  unit: string;
  map: boolean;
  commit: (value: number) => void;
}

/** A number from a range; taken when the slider is let go, or on Enter in the field. */
function SliderRow({ title, value, range, unit, map, commit }: SliderRowProps) {
  const [shown, setShown] = useState(value);
  useEffect(() => setShown(value), [value]);
  const take = (next: number) => {
    const rounded = Math.round(next * 1000) / 1000;
    if (Number.isFinite(rounded) && Math.abs(rounded - value) > 5e-4) commit(rounded);
    else setShown(value);
  };
  return (
    <label className="flex items-center gap-2">
      <span className="w-[76px] shrink-0 text-[var(--soft)]">{title}</span>
      <input
        type="range"
        className="range range-xs min-w-0 flex-1"
        aria-label={title}
        min={range[0]}
        max={range[1]}
        step={0.005}
        value={Math.min(range[1], Math.max(range[0], shown))}
        onChange={(event) => setShown(Number(event.target.value))}
        onPointerUp={() => take(shown)}
        onKeyUp={(event) => event.key.startsWith('Arrow') && take(shown)}
      />
      <input
        className="field w-12 shrink-0 font-mono text-[11.5px]"
        aria-label={`${title} as a number`}
        value={String(Math.round(shown * 1000) / 1000)}
        onChange={(event) => setShown(Number(event.target.value))}
        onBlur={() => take(shown)}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
      />
      <span className="narrow w-[52px] shrink-0 truncate text-[11px] text-[var(--soft)]">{map ? '× map' : unit}</span>
    </label>
  );
}

function OpacityRow({ bench, chosen, material, value }: { bench: Bench; chosen: string[]; material: Material; value: number }) {
  return (
    <SliderRow
      key={`${material.key}/opacity`}
      title="Opacity"
      value={value}
      range={[0, 1]}
      unit={material.alphaMode === 'opaque' ? 'unread' : ''}
      map={Boolean(material.channels.opacity?.map)}
      commit={(opacity) =>
        bench.apply([
          { kind: 'setAlpha', materials: chosen, change: { opacity, ...(material.alphaMode === 'opaque' ? { alphaMode: 'blend' } : {}) }, origin: BY_HAND },
        ])
      }
    />
  );
}

interface ColourRowProps {
  title: string;
  value: [number, number, number];
  map: boolean;
  commit: (value: [number, number, number]) => void;
}

/** A linear colour as three numbers, with a well to pick from. */
function ColourRow({ title, value, map, commit }: ColourRowProps) {
  const text = value.map((part) => String(Math.round(part * 1000) / 1000)).join(' ');
  const [shown, setShown] = useState(text);
  useEffect(() => setShown(text), [text]);
  const take = () => {
    const numbers = shown
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    if (shown === text || numbers.length === 0 || numbers.some((number) => !Number.isFinite(number) || number < 0)) return setShown(text);
    commit([numbers[0], numbers[1] ?? numbers[0], numbers[2] ?? numbers[0]]);
  };
  return (
    <div className="flex items-center gap-2">
      <span className="w-[76px] shrink-0 text-[var(--soft)]">{title}</span>
      <span className="size-5 shrink-0 rounded border border-black/20" style={{ background: cssColour(value) }} />
      <input
        className="field min-w-0 flex-1 font-mono text-[11.5px]"
        aria-label={title}
        title="Linear r g b; Enter takes it"
        value={shown}
        onChange={(event) => setShown(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setShown(text);
        }}
      />
      <button type="button" className="chip" disabled={value.every((part) => part === 1)} title="1 1 1 shows a map as it is" onClick={() => commit([1, 1, 1])}>
        white
      </button>
      <span className="narrow w-[34px] shrink-0 text-[11px] text-[var(--soft)]">{map ? '× map' : ''}</span>
    </div>
  );
}

function cssColour(value: readonly number[]): string {
  const encode = (x: number) => Math.round(255 * Math.min(1, Math.max(0, x <= 0.0031308 ? x * 12.92 : 1.055 * x ** (1 / 2.4) - 0.055)));
  return `rgb(${value.map(encode).join(' ')})`;
}
