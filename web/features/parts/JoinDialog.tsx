'use client';

import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { toast } from 'sonner';
import type { JoinOrder } from '@/server/jobs/kinds';
import type { SelectionEntry } from '@/server/services/selections';
import { api, blobUrl } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Field, SelectField } from '@/ui/Field';
import { plural } from '@/ui/format';
import { Modal } from '@/ui/Modal';
import { useBench } from '../bench/useBench.ts';
import { settled } from '../links/useDelivery.ts';
import { type ShelfEntry, type ShelfPage, shelfQuery } from '../shelf/shelf.ts';

/** Most assets that are listed to choose from; the search narrows them down. */
const LISTED = 60;
const AXES = ['X', 'Y', 'Z'] as const;

/**
 * Another asset of the shelf is put beside what is here, as it was settled there, and both are handed off as
 * one.
 */
export function JoinDialog({ close }: { close: () => void }) {
  const { view } = useBench();
  const client = useQueryClient();
  const [chosen, setChosen] = useState<ShelfEntry | null>(null);
  const [name, setName] = useState('');
  const [place, setPlace] = useState({ X: '0', Y: '0', Z: '0', turn: '0', scale: '1' });
  const join = useMutation({
    mutationFn: async (order: JoinOrder) => {
      const { parcel } = await api<{ parcel: string }>(`/api/assets/${view.id}/joined`, {
        method: 'POST',
        body: order,
      });
      await settled(parcel);
    },
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['asset', view.id] });
      toast.success(`${name || chosen?.name} is joined. "Take back" among the deliveries undoes it.`);
      close();
    },
    onError: (error) => toast.error(error.message),
  });
  const numbers = Object.values(place).map((text) => (text.trim() === '' ? Number.NaN : Number(text)));
  const sound = numbers.every(Number.isFinite) && Number(place.scale) > 0;
  const say = (field: keyof typeof place) => ({
    value: place[field],
    onChange: (event: { target: { value: string } }) => setPlace({ ...place, [field]: event.target.value }),
  });
  return (
    <Modal title="Join another asset" close={close} wide>
      <form
        className="grid gap-3 p-4 text-[12.5px]"
        onSubmit={(event) => {
          event.preventDefault();
          if (!chosen || !sound || join.isPending) return;
          const [x, y, z, turn, scale] = numbers;
          join.mutate({ from: chosen.id, name, at: [x, y, z], turn, scale });
        }}
      >
        <p className="text-[var(--soft)]">
          Its parts come under a group of their own, with its images and all that was done to it. The unit,
          the axes and the names here stay as they are.
        </p>
        <AssetList
          not={view.id}
          chosen={chosen?.id ?? null}
          choose={(entry) => {
            setChosen(entry);
            setName(entry.name);
          }}
        />
        <div className="flex flex-wrap items-end gap-3">
          <Labelled label="Name of its group">
            <Field className="w-52" value={name} onChange={(event) => setName(event.target.value)} />
          </Labelled>
          {AXES.map((axis) => (
            <Labelled key={axis} label={`${axis}, m`}>
              <Field
                className="w-20 font-mono"
                inputMode="decimal"
                title={axis === 'Y' ? 'Upwards' : undefined}
                {...say(axis)}
              />
            </Labelled>
          ))}
          <Labelled label="Turn, °">
            <Field
              className="w-20 font-mono"
              inputMode="decimal"
              title="About the upright axis"
              {...say('turn')}
            />
          </Labelled>
          <Labelled label="Times its size">
            <Field className="w-20 font-mono" inputMode="decimal" {...say('scale')} />
          </Labelled>
          <span className="flex-1" />
          <Button type="submit" main disabled={!chosen || !sound || join.isPending}>
            {join.isPending ? 'Joining ...' : 'Join'}
          </Button>
        </div>
        {!sound && (
          <p className="text-error">
            Places are numbers in metres, the turn is in degrees, and the size is above 0.
          </p>
        )}
      </form>
    </Modal>
  );
}

function Labelled({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    // biome-ignore lint/a11y/noLabelWithoutControl: the control is handed in
    <label className="grid gap-0.5">
      <span className="text-[11.5px] text-[var(--soft)]">{label}</span>
      {children}
    </label>
  );
}

interface AssetListProps {
  /** The asset that it is for. */
  not: string;
  chosen: string | null;
  choose(entry: ShelfEntry): void;
}

/** Assets of the shelf to choose one of, by words or out of a kept selection. */
function AssetList({ not, chosen, choose }: AssetListProps) {
  const [search, setSearch] = useState('');
  const [kept, setKept] = useState('');
  const { data: selections = [] } = useQuery({
    queryKey: ['selections'],
    queryFn: async () => (await api<{ selections: SelectionEntry[] }>('/api/selections')).selections,
  });
  const selection = selections.find(({ id }) => id === kept);
  const listed = selection?.assets ? 10_000 : LISTED;
  const { data, error } = useQuery<ShelfPage>({
    ...shelfQuery({
      ...(selection && !selection.assets ? selection.filter : {}),
      ...(search.trim() !== '' && { search }),
      limit: listed,
    }),
    placeholderData: keepPreviousData,
  });
  const found = (data?.assets ?? []).filter(
    ({ id }) => id !== not && (!selection?.assets || selection.assets.includes(id)),
  );
  return (
    <div className="grid gap-2">
      <div className="flex gap-2">
        <Field
          data-first-focus
          className="flex-1"
          aria-label="Assets with these words"
          placeholder="words of its name, parcel or format"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          // The form is sent by its button alone.
          onKeyDown={(event) => event.key === 'Enter' && event.preventDefault()}
        />
        {selections.length > 0 && (
          <SelectField
            className="w-48"
            aria-label="Out of"
            value={kept}
            onChange={(event) => setKept(event.target.value)}
          >
            <option value="">the whole shelf</option>
            {selections.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </SelectField>
        )}
      </div>
      {error && <p className="text-error">{error.message}</p>}
      <div
        className="grid max-h-[38vh] grid-cols-2 gap-1.5 overflow-auto p-0.5"
        role="radiogroup"
        aria-label="Asset to join"
      >
        {found.map((entry) => (
          <label
            key={entry.id}
            className="flex cursor-pointer items-center gap-2 rounded-[5px] border border-[var(--line)] px-2 py-1 has-checked:border-accent has-checked:bg-[var(--honey-wash)]"
          >
            <input
              type="radio"
              name="asset"
              className="radio radio-xs"
              aria-label={entry.name}
              checked={entry.id === chosen}
              onChange={() => choose(entry)}
            />
            {entry.thumbnail ? (
              <img src={blobUrl(entry.thumbnail)} alt="" className="h-9 w-11 object-contain" />
            ) : (
              <span className="h-9 w-11" />
            )}
            <span className="grid min-w-0">
              <b className="truncate" title={entry.name}>
                {entry.name}
              </b>
              <span className="truncate text-[11.5px] text-[var(--soft)]">{entry.parcelName}</span>
            </span>
          </label>
        ))}
        {data && found.length === 0 && (
          <p className="col-span-2 py-6 text-center text-[var(--soft)]">No other asset of the shelf fits.</p>
        )}
      </div>
      {data && data.whole > listed && (
        <p className="text-[11.5px] text-[var(--soft)]">
          {plural(data.whole - listed, 'more asset')} fit; more words narrow it down.
        </p>
      )}
    </div>
  );
}
