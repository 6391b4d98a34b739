'use client';

import { DIALECT_NAMES, DIALECTS } from '@kinkajou/core/colour/dialects';
import { CHOICES, type Destination, formatOf, PART_RULES, SPLITS } from '@kinkajou/core/destinations/profile';
import { COLLISIONS } from '@kinkajou/core/scene/partChange';
import { type ReactNode, useEffect, useId, useState } from 'react';
import { Controller, FormProvider, type RegisterOptions, useForm, useFormContext } from 'react-hook-form';
import { toast } from 'sonner';
import { Bar } from '@/ui/Bar';
import { Button } from '@/ui/Button';
import { MapRows } from './MapRows.tsx';
import type { ProfileForm } from './profileForm.ts';
import { TryOn } from './TryOn.tsx';
import { useSaveDestination } from './useSaveDestination.ts';
import { GEOMETRY_WORDS } from './words.ts';

const PREVIEW_DELAY_MS = 350;
const VARIANTS = ['fbx', 'obj', 'usdc', 'usda', 'usdz', 'glb', 'gltf'];

/** A destination of one's own: every field, beside what it would make of an asset. */
export function DestinationEditor({ profile, show }: { profile: Destination; show: (id: string) => void }) {
  const form = useForm<ProfileForm>({ defaultValues: toForm(profile) });
  const { isDirty } = form.formState;
  const save = useSaveDestination(show);
  const [tried, setTried] = useState<Destination>(profile);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>;
    const subscription = form.watch((values) => {
      clearTimeout(timer);
      timer = setTimeout(() => setTried(toProfile(values as ProfileForm)), PREVIEW_DELAY_MS);
    });
    return () => {
      clearTimeout(timer);
      subscription.unsubscribe();
    };
  }, [form]);
  useEffect(() => {
    if (!isDirty) return;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener('beforeunload', ask);
    return () => window.removeEventListener('beforeunload', ask);
  }, [isDirty]);
  const submit = form.handleSubmit((values) =>
    save.mutate(
      { profile: toProfile(values), replaces: profile.id },
      {
        onSuccess: () => {
          form.reset(values);
          toast.success(`${values.title} is saved`);
        },
      },
    ),
  );
  const { format } = tried;
  const { shape } = tried.collision;
  return (
    <FormProvider {...form}>
      <form
        className="grid min-h-0 grid-cols-[minmax(0,1fr)_minmax(320px,40%)]"
        onSubmit={(event) => void submit(event)}
        onKeyDown={(event) => {
          if (event.key === 's' && (event.ctrlKey || event.metaKey)) {
            event.preventDefault();
            void submit();
          }
        }}
      >
        <div className="min-h-0 overflow-auto p-4">
          <Group title="What it is">
            <Text name="title" label="Title" options={{ required: true, maxLength: 60 }} />
            <Text name="id" label="Id" mono options={{ required: true, pattern: /^[a-z0-9-]+$/ }} />
            <Text name="summary" label="Summary" wide options={{ maxLength: 400 }} />
            <Variants />
          </Group>
          <Group title="Geometry">
            <Choice name="upAxis" label="Up axis" options={{ Y: 'Y', Z: 'Z' }} disabled={format === 'gltf'} />
            <NumberField name="metresPerUnit" label="Unit, in metres" disabled={format === 'gltf'} />
            <NumberField name="size" label="Longest side, m (0: as is)" />
            <Choice name="split" label="Model files" options={pick(SPLITS, GEOMETRY_WORDS.split)} />
            <Choice name="parts" label="Parts" options={pick(PART_RULES, GEOMETRY_WORDS.parts)} />
            <Choice
              name="collision.shape"
              label="Collision"
              options={pick(COLLISIONS, GEOMETRY_WORDS.collision)}
            />
            {shape === 'hulls' && <NumberField name="collision.hulls" label="Hulls at most (16)" />}
            {shape === 'hulls' && <NumberField name="collision.error" label="Error of hulls (0.02)" />}
            {shape === 'mesh' && <NumberField name="collision.keep" label="Share of triangles (1)" />}
            <Text name="collision.name" label="Collision name" mono />
            <Check name="triangulate" label="Cut polygons into triangles" />
            <Check name="takeoff" label="Table of areas and volumes" />
          </Group>
          <Group title="Materials">
            <Choice name="workflow" label="Converted to" options={GEOMETRY_WORDS.workflow} />
            <Choice
              name="writeAs"
              label="Written as"
              options={{ '': 'the same', ...GEOMETRY_WORDS.workflow }}
            />
            <Choice
              name="normalY"
              label="Normal direction"
              options={{ 'Y+': 'Y+, green up', 'Y-': 'Y-, green down' }}
            />
            <Choice
              name="heightMid"
              label="Height: no displacement at"
              options={{ as: 'as the source has it', '0': 'black', '0.5': 'middle grey' }}
            />
            <Choice name="heightUnit" label="Height told in" options={GEOMETRY_WORDS.heightUnit} />
            <Choice
              name="dialect"
              label="Colour spaces in words of"
              options={Object.fromEntries(DIALECT_NAMES.map((name) => [name, DIALECTS[name].title]))}
            />
            <Check name="whiteFactors" label="Tints go into the pixels" />
            <Check name="patch" label="Change the source file itself where it can be" />
            <Check name="materialX" label="MaterialX document beside" />
          </Group>
          <Group title="Maps">
            <MapRows />
          </Group>
          <Group title="Images">
            <NumberField name="maxSize" label="Longest side (0: any)" />
            <Check name="powerOfTwo" label="Powers of two" />
            <Check name="tiles" label="Keep UDIM tiles" />
            <Choice
              name="withoutTiles"
              label="Tiles that are not kept"
              options={GEOMETRY_WORDS.withoutTiles}
            />
            <Check name="keepPalettes" label="Palettes keep their pixels" />
            <Check name="embed" label="Inside the model, where it can be" />
          </Group>
          <Group title="Names and folders">
            <Text name="names.file" label="Model files" mono hint="{asset} {part}" />
            <Text name="names.material" label="Materials" mono hint="{material} {asset}" />
            <Text name="names.map" label="Maps" mono hint="{material} {suffix} {asset}" />
            <Text name="folder" label="Folder of maps" mono />
            <Check name="folderPerMaterial" label="A folder per material" />
          </Group>
          <Group title="Left to the person">
            {CHOICES.map((choice) => (
              <label key={choice} className="flex items-center gap-2">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  value={choice}
                  {...form.register('choices')}
                />{' '}
                {choice}
              </label>
            ))}
          </Group>
          <Group title="Told to the receiver, one note a line">
            <textarea
              className="col-span-full min-h-20 rounded border border-[var(--line)] bg-base-100 px-2 py-1"
              aria-label="Notes"
              {...form.register('notes')}
            />
          </Group>
        </div>
        <div
          className="grid min-h-0 border-l border-[var(--line)] bg-base-100"
          style={{ gridTemplateRows: 'auto minmax(0, 1fr)', gridTemplateColumns: 'minmax(0, 1fr)' }}
        >
          <Bar>
            <span className="truncate text-[12px] text-[var(--soft)]">
              {isDirty ? 'not saved yet' : 'saved'}
            </span>
            <span className="flex-1" />
            <Button disabled={!isDirty} onClick={() => form.reset()}>
              Discard
            </Button>
            <Button type="submit" main disabled={!isDirty || save.isPending}>
              Save
            </Button>
          </Bar>
          <div className="min-h-0 overflow-auto p-3">
            <TryOn profile={tried} />
          </div>
        </div>
      </form>
    </FormProvider>
  );
}

function toForm({ notes, heightMid, writeAs, ...rest }: Destination): ProfileForm {
  return {
    ...rest,
    notes: notes.join('\n'),
    heightMid: heightMid === null ? 'as' : String(heightMid),
    writeAs: writeAs ?? '',
  };
}

function toProfile({ notes, heightMid, writeAs, choices, ...rest }: ProfileForm): Destination {
  const lines = notes.split('\n').map((line) => line.trim());
  return {
    ...rest,
    collision: Object.fromEntries(
      Object.entries(rest.collision).filter(([, value]) => !Number.isNaN(value)),
    ) as Destination['collision'],
    format: formatOf(rest.variants[0] ?? 'fbx'),
    choices: Array.isArray(choices) ? choices : [],
    notes: lines.filter(Boolean),
    heightMid: heightMid === 'as' ? null : (Number(heightMid) as 0 | 0.5),
    ...(writeAs === '' ? {} : { writeAs: writeAs as Destination['workflow'] }),
  };
}

/** Types of the model file; the first is taken unless another one is asked for. */
function Variants() {
  const { control } = useFormContext<ProfileForm>();
  return (
    <Controller
      control={control}
      name="variants"
      rules={{ validate: (value) => value.length > 0 }}
      render={({ field: { value, onChange }, fieldState }) => (
        <fieldset className="col-span-full">
          <legend className={`text-[11.5px] ${fieldState.invalid ? 'text-error' : 'text-[var(--soft)]'}`}>
            Model files as, the first unless told: {value.join(', ') || 'choose one'}
          </legend>
          <div className="flex flex-wrap gap-x-4 gap-y-1 pt-1">
            {VARIANTS.map((variant) => (
              <label key={variant} className="flex items-center gap-1.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={value.includes(variant)}
                  onChange={(event) =>
                    onChange(
                      event.target.checked ? [...value, variant] : value.filter((one) => one !== variant),
                    )
                  }
                />
                {variant.toUpperCase()}
              </label>
            ))}
          </div>
        </fieldset>
      )}
    />
  );
}

function pick<K extends string>(keys: readonly K[], words: Record<K, string>): Record<K, string> {
  return Object.fromEntries(keys.map((key) => [key, words[key]])) as Record<K, string>;
}

function Group({ title, children }: { title: string; children: ReactNode }) {
  return (
    <fieldset className="mb-4">
      <legend className="mb-1.5 font-semibold">{title}</legend>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] items-end gap-x-4 gap-y-2 text-[12.3px]">
        {children}
      </div>
    </fieldset>
  );
}

type FieldName = Parameters<ReturnType<typeof useFormContext<ProfileForm>>['register']>[0];

function useField(name: FieldName) {
  const { register, formState, getFieldState } = useFormContext<ProfileForm>();
  return { register, wrong: getFieldState(name, formState).invalid, id: useId() };
}

const INPUT = 'w-full rounded border bg-base-100 px-2 py-1';

function Text({
  name,
  label,
  mono = false,
  wide = false,
  hint,
  options,
}: {
  name: FieldName;
  label: string;
  mono?: boolean;
  wide?: boolean;
  hint?: string;
  options?: RegisterOptions<ProfileForm>;
}) {
  const { register, wrong, id } = useField(name);
  return (
    <div className={wide ? 'col-span-full' : ''}>
      <label className="block text-[11.5px] text-[var(--soft)]" htmlFor={id}>
        {label} {hint && <span className="font-mono text-[10.5px]">{hint}</span>}
      </label>
      <input
        id={id}
        className={`${INPUT} ${mono ? 'font-mono text-[11.5px]' : ''} ${wrong ? 'border-error' : 'border-[var(--line)]'}`}
        aria-invalid={wrong}
        {...register(name, options)}
      />
    </div>
  );
}

function NumberField({ name, label, disabled }: { name: FieldName; label: string; disabled?: boolean }) {
  const { register, wrong, id } = useField(name);
  return (
    <div>
      <label className="block text-[11.5px] text-[var(--soft)]" htmlFor={id}>
        {label}
      </label>
      <input
        id={id}
        type="number"
        step="any"
        min={0}
        readOnly={disabled}
        className={`${INPUT} font-mono text-[11.5px] ${wrong ? 'border-error' : 'border-[var(--line)]'} ${disabled ? 'opacity-60' : ''}`}
        {...register(name, { valueAsNumber: true, min: 0 })}
      />
    </div>
  );
}

function Choice({
  name,
  label,
  options,
  disabled,
}: {
  name: FieldName;
  label: string;
  options: Record<string, string>;
  disabled?: boolean;
}) {
  const { register, id } = useField(name);
  return (
    <div>
      <label className="block text-[11.5px] text-[var(--soft)]" htmlFor={id}>
        {label}
      </label>
      <select
        id={id}
        className={`${INPUT} border-[var(--line)] ${disabled ? 'pointer-events-none opacity-60' : ''}`}
        aria-readonly={disabled}
        {...register(name)}
      >
        {Object.entries(options).map(([value, title]) => (
          <option key={value} value={value}>
            {title}
          </option>
        ))}
      </select>
    </div>
  );
}

function Check({ name, label }: { name: FieldName; label: string }) {
  const { register } = useField(name);
  return (
    <label className="flex items-center gap-2 py-1">
      <input type="checkbox" className="checkbox checkbox-xs" {...register(name)} /> {label}
    </label>
  );
}
