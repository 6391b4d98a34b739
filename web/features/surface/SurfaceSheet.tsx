'use client';

import type { Edit } from '@kinkajou/core/asset/asset';
import { paletteUse } from '@kinkajou/core/asset/palette';
import { reflectanceInWords, STARTING_POINTS, type StartingPoint } from '@kinkajou/core/materials/measured';
import { toMetalRough } from '@kinkajou/core/materials/metalRough';
import { RECIPES } from '@kinkajou/core/materials/recipes/recipes';
import type { ChannelName, Material } from '@kinkajou/core/scene/material';
import { exponentOfRoughness, reflectanceOfIndex } from '@kinkajou/core/scene/shading';
import { useState } from 'react';
import { Chip, ChipSelect } from '@/ui/Chip';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { useFocus } from '../bench/focus.ts';
import { type Bench, useBench } from '../bench/useBench.ts';
import { AlphaRows } from './AlphaRows.tsx';
import { ColourRow, SliderRow } from './controls.tsx';
import { HeightRows } from './HeightRows.tsx';
import { openMake } from './makeStore.ts';
import { useFactsOf } from './useFactsOf.ts';

const BY_HAND = { from: 'hand' as const, detail: 'surface' };

/** The numbers of the chosen materials with sliders; a change is made to all of them. */
export function SurfaceSheet({ chosen }: { chosen: string[] }) {
  const bench = useBench();
  const materials = bench.view.state.materials.filter((material) => chosen.includes(material.key));
  const [first] = materials;
  if (!first)
    return (
      <div className="border-t border-[var(--line)] bg-base-200 p-4 text-[var(--soft)]">
        Choose a material.
      </div>
    );
  const shading = toMetalRough(first);
  const slider = (
    channel: ChannelName,
    title: string,
    value: number,
    { max = 1, min = 0, unit = '' } = {},
  ) => (
    <SliderRow
      key={`${first.key}/${channel}`}
      title={title}
      value={value}
      range={[min, max]}
      unit={first.channels[channel]?.map ? '× map' : unit}
      commit={(next) => bench.apply([valueEdit(chosen, channel, next)])}
    />
  );
  const colour = (
    channel: 'baseColor' | 'emission' | 'specularColor' | 'sheenColor',
    title: string,
    value: [number, number, number],
  ) => {
    const map = Boolean(first.channels[channel]?.map);
    const white = value.every((component) => component === 1);
    return (
      <ColourRow
        key={channel}
        title={title}
        value={value}
        map={map}
        wide={map && !white}
        commit={(next) => bench.apply([valueEdit(chosen, channel, next)])}
      >
        {(map || channel === 'baseColor') && (
          <Chip
            disabled={white}
            title="1 1 1 shows a map as it is"
            onClick={() => bench.apply([valueEdit(chosen, channel, [1, 1, 1])])}
          >
            white
          </Chip>
        )}
        {map && !white && (
          <Chip
            title="Multiply the factor into the pixels of the map"
            onClick={() => openMake({ materials: chosen, recipe: 'bake-tint', params: {} })}
          >
            bake
          </Chip>
        )}
      </ColourRow>
    );
  };
  const glossy =
    shading.roughness.value > 0 && !shading.roughness.map
      ? `Ns ${Math.min(99_999, exponentOfRoughness(shading.roughness.value)).toFixed(0)}`
      : '';
  return (
    <section
      className="grid max-h-[46vh] gap-2 overflow-auto border-t border-[var(--line)] bg-base-200 px-3.5 py-2.5 text-[12.3px]"
      aria-label="Surface details"
    >
      <div className="flex flex-wrap items-center gap-1.5">
        {materials.length === 1 ? (
          <NameField key={`${first.key} ${first.name}`} bench={bench} material={first} />
        ) : (
          <b className="min-w-0 truncate">{plural(materials.length, 'material')}</b>
        )}
        <NumberField key={chosen.join(' ')} bench={bench} chosen={materials.map(({ key }) => key)} />
        <span className="flex-1" />
        <StartSelect apply={(start) => bench.apply(startEdits(materials, start))} />
        <MakeSelect chosen={chosen} />
        <Chip onClick={() => useFocus.getState().set({ dialog: 'shelf' })}>Material shelf ...</Chip>
      </div>
      <div className="grid gap-x-5 gap-y-1.5" style={{ gridTemplateColumns: 'repeat(2, minmax(0, 1fr))' }}>
        {slider('metalness', 'Metalness', shading.metalness.value)}
        {slider('roughness', 'Roughness', shading.roughness.value, { unit: glossy })}
        {slider('ior', 'Index', shading.ior, {
          min: 1,
          max: 2.5,
          unit: `${(reflectanceOfIndex(shading.ior) * 100).toFixed(1)}% refl.`,
        })}
        {slider('specular', 'Specular', shading.specular.value)}
        {slider('coat', 'Coat', shading.coat.value)}
        {slider('coatRoughness', 'Coat rough', shading.coatRoughness.value)}
        {first.channels.occlusion?.map && <OcclusionRow bench={bench} chosen={chosen} material={first} />}
        {colour(
          'baseColor',
          first.workflow === 'metalRough' ? 'Base colour' : 'Diffuse',
          shading.baseColor.value,
        )}
        {first.channels.specularColor &&
          colour('specularColor', 'Specular col.', vector(first.channels.specularColor.value))}
        {colour('emission', 'Emission', shading.emission.value)}
        {colour('sheenColor', 'Sheen', shading.sheenColor.value)}
        <AlphaRows bench={bench} chosen={chosen} material={first} shading={shading} />
        {shading.height && <HeightRows bench={bench} chosen={chosen} material={first} />}
        <PaletteRow bench={bench} material={first} />
      </div>
    </section>
  );
}

/** The material's name, which can be changed; edits go by its key, which stays. */
function NameField({ bench, material: { key, name } }: { bench: Bench; material: Material }) {
  const [text, setText] = useState(name);
  const commit = () => {
    const next = text.trim();
    if (next !== '' && next !== name)
      bench.apply([{ kind: 'renameMaterials', names: [{ material: key, name: next }], origin: BY_HAND }]);
    else setText(name);
  };
  return (
    <Field
      className="w-40 font-bold"
      aria-label="Name of the material"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
      }}
    />
  );
}

/** The number of the material; several are numbered from it on, in the order of the list. */
function NumberField({ bench, chosen }: { bench: Bench; chosen: string[] }) {
  const known = bench.view.state.numbers?.[chosen[0]];
  const [text, setText] = useState(known === undefined ? '' : String(known));
  const commit = () => {
    const number = Number(text);
    if (text.trim() === '' || !Number.isInteger(number) || number < 0 || number === known)
      return setText(known === undefined ? '' : String(known));
    bench.apply([
      {
        kind: 'numberMaterials',
        numbers: chosen.map((material, i) => ({ material, number: number + i })),
        origin: BY_HAND,
      },
    ]);
  };
  return (
    <label
      className="flex items-center gap-1 text-[var(--soft)]"
      title="Materials go out in the order of their numbers, and the receiver's sheet lists them"
    >
      {chosen.length === 1 ? 'number' : 'numbers from'}
      <Field
        className="w-12 font-mono"
        inputMode="numeric"
        aria-label="Number of the material"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
        }}
      />
    </label>
  );
}

function vector(value: number | readonly [number, number, number]): [number, number, number] {
  return typeof value === 'number' ? [value, value, value] : [...value];
}

/** How strongly an occlusion map darkens: its gain, so that 0 leaves all white. */
function OcclusionRow({ bench, chosen, material }: { bench: Bench; chosen: string[]; material: Material }) {
  const channel = material.channels.occlusion;
  const map = channel?.map;
  if (!channel || !map) return null;
  const commit = (strength: number) => {
    const slots = bench.view.state.materials.flatMap((one) => {
      const other = chosen.includes(one.key) ? one.channels.occlusion : undefined;
      if (!other?.map) return [];
      return [
        {
          material: one.key,
          channel: 'occlusion' as const,
          content: { value: 1, map: { ...other.map, gain: strength, offset: 1 - strength } },
        },
      ];
    });
    bench.apply([
      { kind: 'pasteSlots', slots, what: `Occlusion to ${Math.round(strength * 100)}%:`, origin: BY_HAND },
    ]);
  };
  return (
    <SliderRow
      key={`${material.key}/occlusion`}
      title="Occlusion"
      value={map.gain}
      range={[0, 1]}
      unit="strength"
      commit={commit}
    />
  );
}

/** Says when the base colour is a palette, and how its texels are taken. */
function PaletteRow({ bench, material }: { bench: Bench; material: Material }) {
  const map = material.channels.baseColor?.map ?? null;
  const facts = useFactsOf(map);
  const palette = facts && paletteUse(bench.view.source, material.key, facts);
  if (!map || (!palette && map.filter !== 'nearest')) return null;
  return (
    <div className="col-span-2 flex items-center gap-2">
      <span className="w-[76px] shrink-0 text-[var(--soft)]">Palette</span>
      <span className="min-w-0 flex-1 truncate">
        {palette
          ? `${palette.colours} colours; ${Math.round(palette.points * 100)}% of the faces take one point`
          : 'taken texel by texel'}
        ; never resized nor compressed
      </span>
      <Chip
        aria-pressed={map.filter === 'nearest'}
        onClick={() =>
          bench.apply([
            {
              kind: 'adjustSlots',
              slots: Object.entries(material.channels).flatMap(([channel, content]) =>
                content.map ? [{ material: material.key, channel: channel as ChannelName }] : [],
              ),
              change: { filter: map.filter === 'nearest' ? 'smooth' : 'nearest' },
              origin: BY_HAND,
            },
          ])
        }
      >
        nearest filtering
      </Chip>
    </div>
  );
}

function valueEdit(
  materials: string[],
  channel: ChannelName,
  value: number | [number, number, number],
): Edit {
  return {
    kind: 'setValues',
    slots: materials.map((material) => ({ material, channel })),
    value,
    origin: BY_HAND,
  };
}

/** A base colour map keeps its own colours: a factor over it would tint it. */
/** One act: values of a starting point; colours that have an image keep it. */
export function startEdits(materials: Material[], start: StartingPoint): Edit[] {
  const values: [ChannelName, number | [number, number, number]][] = [
    ...(start.baseColor ? [['baseColor', start.baseColor] as [ChannelName, [number, number, number]]] : []),
    ['metalness', start.metalness],
    ['roughness', start.roughness],
    ['ior', start.ior],
    ['transmission', start.transmission],
  ];
  const slots = materials.flatMap(({ key, channels }) =>
    values
      .filter(([channel]) => channel !== 'baseColor' || !channels.baseColor?.map)
      .map(([channel, value]) => ({
        material: key,
        channel,
        content: { value, map: channels[channel]?.map ?? null },
      })),
  );
  return [
    {
      kind: 'pasteSlots',
      slots,
      what: `Started from ${start.title}:`,
      origin: { from: 'hand', detail: `starting point: ${start.title}` },
    },
  ];
}

/** Stands in the list for constants that a person types. */
const OWN_METAL = 'own';

function StartSelect({ apply }: { apply: (start: StartingPoint) => void }) {
  return (
    <ChipSelect
      aria-label="Start from"
      value=""
      onChange={(event) => {
        const start = STARTING_POINTS.find((one) => one.id === event.target.value);
        if (event.target.value === OWN_METAL) useFocus.getState().set({ dialog: 'metal' });
        else if (start) apply(start);
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
          {kind === 'metal' && <option value={OWN_METAL}>By n and k of your own ...</option>}
        </optgroup>
      ))}
    </ChipSelect>
  );
}

function MakeSelect({ chosen }: { chosen: string[] }) {
  return (
    <ChipSelect
      aria-label="Make images"
      value=""
      onChange={(event) => {
        openMake({ materials: chosen, recipe: event.target.value, params: {} });
        event.currentTarget.blur();
      }}
    >
      <option value="">Make ...</option>
      {RECIPES.map(({ id, title }) => (
        <option key={id} value={id}>
          {title}
        </option>
      ))}
    </ChipSelect>
  );
}
