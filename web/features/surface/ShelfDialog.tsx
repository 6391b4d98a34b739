'use client';

import { channelTitle } from '@kinkajou/core/scene/channelTitles';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { ReplaceResult, ShelfMaterial } from '@/server/services/materials';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { followJob } from '@/ui/jobs';
import { Modal } from '@/ui/Modal';
import { useFocus } from '../bench/focus.ts';
import { useBench } from '../bench/useBench.ts';

const KEY = ['materials'];
const SHOWN = 6;

/**
 * Canonical materials: keep one, and put it in the place of every material whose name fits, here or in every
 * asset.
 */
export function ShelfDialog({ close }: { close: () => void }) {
  const { view } = useBench();
  const slot = useFocus((state) => state.slot);
  const client = useQueryClient();
  const list = useQuery({
    queryKey: KEY,
    queryFn: () => api<{ materials: ShelfMaterial[] }>('/api/materials'),
  });
  const materials = list.data?.materials ?? [];
  const [name, setName] = useState(slot?.material ?? '');
  const [chosen, setChosen] = useState<number | null>(null);
  const material = materials.find((one) => one.id === chosen) ?? materials[0];
  const [pattern, setPattern] = useState<string | null>(null);
  const required = (pattern ?? material?.pattern) || `*${slot?.material.split(/[_\s]/).at(-1) ?? ''}`;
  const [everywhere, setEverywhere] = useState(false);
  const change = useMutation({
    mutationFn: (call: { path: string; method: string; body?: unknown }) =>
      api<{ materials: ShelfMaterial[] }>(call.path, call),
    onSuccess: (answer) => client.setQueryData(KEY, answer),
    onError: (error) => toast.error(error.message),
  });
  const body = { pattern: required, assetId: everywhere ? null : view.id };
  const preview = useQuery({
    queryKey: ['materials', 'preview', material?.id, body, view.version],
    enabled: material !== undefined && required.trim() !== '',
    queryFn: () =>
      api<ReplaceResult>(`/api/materials/${material?.id}`, {
        method: 'POST',
        body: { ...body, preview: true },
      }),
  });
  const apply = useMutation({
    mutationFn: async () => {
      const { job } = await api<{ job: string }>(`/api/materials/${material?.id}`, {
        method: 'POST',
        body: { ...body, preview: false },
      });
      return followJob<ReplaceResult>(job, 'Replacing');
    },
    onSuccess(result) {
      if (result) toast.success(`Replaced ${plural(result.count, 'material')} by ${material?.name}`);
      void client.invalidateQueries({ queryKey: ['asset'] });
      void client.invalidateQueries({ queryKey: KEY });
      close();
    },
    onError: (error) => toast.error(error.message),
  });
  const found = preview.data;
  return (
    <Modal title="Material shelf" close={close} wide>
      <div className="grid gap-4 p-4 text-[12.3px]">
        <form
          className="flex items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (slot)
              change.mutate({
                path: '/api/materials',
                method: 'POST',
                body: { assetId: view.id, material: slot.material, name },
              });
          }}
        >
          <label className="grid flex-1 gap-1">
            <span className="font-semibold">Keep {slot?.material ?? 'the focused material'} as</span>
            <Field
              aria-label="Name on the shelf"
              value={name}
              onChange={(event) => setName(event.target.value)}
            />
          </label>
          <Button type="submit" disabled={!slot || name.trim() === '' || change.isPending}>
            Keep
          </Button>
        </form>
        {materials.length === 0 ? (
          <p className="py-4 text-center text-[var(--soft)]">
            Nothing on the shelf yet. Bring one material into order, keep it here, and let it stand in for
            others by name.
          </p>
        ) : (
          <>
            <ul className="grid max-h-[30vh] gap-1 overflow-auto" aria-label="Kept materials">
              {materials.map((one) => (
                <li key={one.id} className="flex items-center gap-2">
                  <button
                    type="button"
                    aria-pressed={one === material}
                    className={`min-w-0 flex-1 cursor-pointer truncate rounded-[5px] border px-2 py-1.5 text-left ${one === material ? 'border-accent bg-[var(--honey-wash)]' : 'border-[var(--line)]'}`}
                    onClick={() => setChosen(one.id)}
                  >
                    <b>{one.name}</b>{' '}
                    <span className="text-[11.5px] text-[var(--soft)]">
                      {Object.keys(one.kept.material.channels)
                        .map((channel) => channelTitle(channel as 'baseColor'))
                        .join(', ')}
                      {one.kept.images.length > 0 && `; brings ${plural(one.kept.images.length, 'image')}`}
                    </span>
                  </button>
                  <Button
                    aria-label={`Drop ${one.name}`}
                    onClick={() => change.mutate({ path: `/api/materials/${one.id}`, method: 'DELETE' })}
                  >
                    <Trash2 size={13} />
                  </Button>
                </li>
              ))}
            </ul>
            <div className="flex items-end gap-3">
              <label className="grid flex-1 gap-1">
                <span className="font-semibold">In the place of materials named</span>
                <Field
                  aria-label="Name pattern"
                  value={required}
                  placeholder="*_flag"
                  onChange={(event) => setPattern(event.target.value)}
                />
              </label>
              <label className="flex items-center gap-1.5 pb-1.5">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={everywhere}
                  onChange={(event) => setEverywhere(event.target.checked)}
                />
                in every asset
              </label>
            </div>
            <p className="text-[var(--soft)]" aria-live="polite">
              {found ? foundInWords(found, everywhere) : (preview.error?.message ?? 'looking ...')}
            </p>
            <Button
              main
              className="w-fit"
              disabled={!found || found.count === 0 || apply.isPending}
              onClick={() => apply.mutate()}
            >
              Replace by {material?.name}
            </Button>
          </>
        )}
      </div>
    </Modal>
  );
}

/** How many materials would be replaced, and the names of the first few. */
function foundInWords({ count, assets }: ReplaceResult, everywhere: boolean): string {
  const counts = `${plural(count, 'material')} in ${plural(assets.length, 'asset')}`;
  if (count === 0) return counts;
  const names = assets.flatMap(({ name, materials }) =>
    materials.map((key) => (everywhere ? `${name}, ${key}` : key)),
  );
  return `${counts}: ${names.slice(0, SHOWN).join('; ')}${count > SHOWN ? ' ...' : ''}`;
}
