'use client';

import {
  type ComponentRecipe,
  DEPTHS,
  MAP_TYPES,
  type MapDepth,
  type MapType,
} from '@kinkajou/core/destinations/profile';
import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { CHANNELS, COLOUR_SPACES, VECTOR_CHANNELS } from '@kinkajou/core/scene/material';
import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import { Controller, useFieldArray, useFormContext, useWatch } from 'react-hook-form';
import { Button } from '@/ui/Button';
import { spaceLabel } from '@/ui/format';
import { IconButton } from '@/ui/IconButton';
import type { ProfileForm } from './profileForm.ts';

const SELECT = 'rounded border border-[var(--line)] bg-base-100 px-1 py-0.5 text-[11.5px]';
const LETTERS = ['r', 'g', 'b', 'a'] as const;

/** The output images: what each component holds, and how the image is named and kept. */
export function MapRows() {
  const { control } = useFormContext<ProfileForm>();
  const { fields, append, remove, swap } = useFieldArray({ control, name: 'maps' });
  const add = () =>
    append({
      name: `map${fields.length + 1}`,
      suffix: `map${fields.length + 1}`,
      space: 'data',
      type: 'png',
      depth: 8,
      components: [{ channel: 'roughness', part: 0, empty: 1 }],
      alpha: null,
    });
  return (
    <div className="col-span-full grid gap-2">
      {fields.map((field, i) => (
        <MapRow
          key={field.id}
          index={i}
          remove={() => remove(i)}
          up={i > 0 ? () => swap(i, i - 1) : null}
          down={i < fields.length - 1 ? () => swap(i, i + 1) : null}
        />
      ))}
      <Button className="w-fit" onClick={add}>
        <Plus size={13} /> Add a map
      </Button>
    </div>
  );
}

function MapRow({
  index,
  remove,
  up,
  down,
}: {
  index: number;
  remove: () => void;
  up: (() => void) | null;
  down: (() => void) | null;
}) {
  const { register, control, setValue } = useFormContext<ProfileForm>();
  const map = useWatch({ control, name: `maps.${index}` });
  if (!map) return null;
  const base = `maps.${index}` as const;
  const setType = (type: MapType) => {
    setValue(`${base}.type`, type, { shouldDirty: true });
    if (!DEPTHS[type].includes(map.depth)) setValue(`${base}.depth`, DEPTHS[type][0], { shouldDirty: true });
  };
  return (
    <div
      className="rounded-md border border-[var(--line)] bg-base-100 p-2"
      role="group"
      aria-label={`Map ${map.name}`}
    >
      <div className="mb-1.5 flex items-center gap-1">
        <input
          className={`${SELECT} min-w-24 flex-1 font-semibold`}
          aria-label="Name of the map"
          {...register(`${base}.name`, { required: true })}
        />
        <input
          className={`${SELECT} w-20 font-mono`}
          aria-label="Suffix"
          title="Suffix"
          {...register(`${base}.suffix`, { required: true, pattern: /^[A-Za-z0-9_-]+$/ })}
        />
        <select
          className={SELECT}
          aria-label="Type"
          value={map.type}
          onChange={(event) => setType(event.target.value as MapType)}
        >
          {MAP_TYPES.map((type) => (
            <option key={type} value={type}>
              {type.toUpperCase()}
            </option>
          ))}
        </select>
        <select
          className={SELECT}
          aria-label="Depth"
          value={map.depth}
          onChange={(event) => setValue(`${base}.depth`, depthOf(event.target.value), { shouldDirty: true })}
        >
          {DEPTHS[map.type].map((depth) => (
            <option key={depth} value={depth}>
              {typeof depth === 'number' ? `${depth} bit` : depth}
            </option>
          ))}
        </select>
        <select className={SELECT} aria-label="Colour space" {...register(`${base}.space`)}>
          {COLOUR_SPACES.map((space) => (
            <option key={space} value={space}>
              {spaceLabel(space)}
            </option>
          ))}
        </select>
        <span className="flex">
          <IconButton label="Move up" disabled={!up} onClick={() => up?.()}>
            <ArrowUp size={13} />
          </IconButton>
          <IconButton label="Move down" disabled={!down} onClick={() => down?.()}>
            <ArrowDown size={13} />
          </IconButton>
          <IconButton label={`Remove ${map.name}`} onClick={remove}>
            <Trash2 size={13} />
          </IconButton>
        </span>
      </div>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1 text-[11.5px]">
        <Controller
          control={control}
          name={`${base}.components`}
          render={({ field: { value, onChange } }) => (
            <>
              {LETTERS.slice(0, map.alpha ? 3 : 4).map((letter, i) => (
                <span key={letter} className="flex items-center gap-1">
                  <b className="font-mono">{letter}</b>
                  <ComponentSelect
                    label={`Component ${letter}`}
                    value={value[i] ?? null}
                    optional={i > 0}
                    disabled={i > value.length}
                    change={(next) => onChange(withComponent(value, i, next))}
                  />
                </span>
              ))}
            </>
          )}
        />
        <Controller
          control={control}
          name={`${base}.alpha`}
          render={({ field: { value, onChange } }) => (
            <span
              className="flex items-center gap-1"
              title="Joins as a further component where the material is not opaque"
            >
              <b>alpha, where not opaque</b>
              <ComponentSelect
                label="Alpha, where not opaque"
                value={value}
                optional
                disabled={map.components.length > 3}
                change={onChange}
              />
            </span>
          )}
        />
      </div>
    </div>
  );
}

function depthOf(text: string): MapDepth {
  if (text === '8') return 8;
  return text === '16' ? 16 : (text as MapDepth);
}

/** Components lie without gaps: emptying one takes those after it along. */
function withComponent(
  components: readonly ComponentRecipe[],
  index: number,
  next: ComponentRecipe | null,
): ComponentRecipe[] {
  if (next === null) return components.slice(0, index);
  return components.length <= index
    ? [...components, next]
    : components.map((one, i) => (i === index ? next : one));
}

const OPTIONS = CHANNELS.flatMap((channel) =>
  VECTOR_CHANNELS.has(channel)
    ? ([0, 1, 2] as const).map((part) => ({
        channel,
        part,
        invert: false,
        title: `${channelTitle(channel)}, ${'rgb'[part]}`,
      }))
    : [false, true].map((invert) => ({
        channel,
        part: 0 as const,
        invert,
        title: `${channelTitle(channel)}${invert ? ', inverted' : ''}`,
      })),
);

function ComponentSelect({
  label,
  value,
  optional,
  disabled,
  change,
}: {
  label: string;
  value: ComponentRecipe | null;
  optional: boolean;
  disabled: boolean;
  change: (next: ComponentRecipe | null) => void;
}) {
  const keyOf = ({ channel, part, invert = false }: Pick<ComponentRecipe, 'channel' | 'part' | 'invert'>) =>
    `${channel} ${part} ${invert}`;
  const pick = (key: string) => {
    const option = OPTIONS.find((one) => keyOf(one) === key);
    if (!option) return change(null);
    const { channel, part, invert } = option;
    // Who takes it for another channel stays, as long as it is the same channel.
    const as = value?.channel === channel ? value.as : undefined;
    change({ channel, part, empty: value?.empty ?? 1, ...(invert ? { invert } : {}), ...(as ? { as } : {}) });
  };
  return (
    <select
      className={`${SELECT} max-w-32`}
      aria-label={label}
      disabled={disabled}
      value={value ? keyOf(value) : ''}
      onChange={(event) => pick(event.target.value)}
    >
      {optional && <option value="">none</option>}
      {OPTIONS.map((option) => (
        <option key={keyOf(option)} value={keyOf(option)}>
          {option.title}
        </option>
      ))}
    </select>
  );
}
