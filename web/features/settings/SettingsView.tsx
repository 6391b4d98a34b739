'use client';

import { DIALECT_NAMES, DIALECTS, type DialectName } from '@kinkajou/core/colour/dialects';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { FolderSearch, RefreshCw, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { SearchRoot } from '@/server/services/searchRoots';
import { AppStrip } from '@/ui/AppStrip';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { ChipSelect } from '@/ui/Chip';
import { useChoices } from '@/ui/choices';
import { Field } from '@/ui/Field';
import { count, plural, when } from '@/ui/format';
import { Answers } from './Answers.tsx';
import { ArrivalFolders } from './ArrivalFolders.tsx';
import { Tokens } from './Tokens.tsx';
import { Words } from './Words.tsx';

interface SettingsAnswer {
  allowed: string[];
  roots: SearchRoot[];
}

const KEY = ['settings'];

/** Search folders on the server's disk, and what this browser remembers. */
export function SettingsView() {
  const { dialect, set } = useChoices();
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <main className="min-h-0 flex-1 overflow-auto bg-base-200">
        <div className="mx-auto grid max-w-4xl gap-5 p-6">
          <h1 className="text-[20px] font-bold">Settings</h1>
          <SearchFolders />
          <ArrivalFolders />
          <Words />
          <Answers />
          <Tokens />
          <section className="rounded-md border border-[var(--line)] bg-base-100 p-4">
            <h2 className="mb-1 text-[14px] font-bold">Words of colour tags</h2>
            <p className="mb-3 text-[12.3px] text-[var(--soft)]">
              In which words tags are shown on the bench. The tags themselves stay the same.
            </p>
            <ChipSelect
              aria-label="Tag dialect"
              value={dialect}
              onChange={(event) => set({ dialect: event.target.value as DialectName })}
            >
              {DIALECT_NAMES.map((name) => (
                <option key={name} value={name}>
                  {DIALECTS[name].title}
                </option>
              ))}
            </ChipSelect>
          </section>
        </div>
      </main>
    </div>
  );
}

function SearchFolders() {
  const client = useQueryClient();
  const settings = useQuery({ queryKey: KEY, queryFn: () => api<SettingsAnswer>('/api/settings') });
  const [path, setPath] = useState('');
  const change = useMutation({
    mutationFn: (call: { path: string; method: string; body?: unknown }) => api(call.path, call),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
    onError: (error) => toast.error(error.message),
  });
  const roots = settings.data?.roots ?? [];
  return (
    <section className="rounded-md border border-[var(--line)] bg-base-100 p-4">
      <h2 className="mb-1 text-[14px] font-bold">Search folders</h2>
      <p className="mb-3 text-[12.3px] text-[var(--soft)]">
        Images that a model misses are looked for here too, on the server's disk, and in other parcels. What
        is linked is copied into the asset's parcel; the folders are only read. Allowed:{' '}
        {(settings.data?.allowed ?? []).join(', ')} and what lies below.
      </p>
      <form
        className="mb-3 flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate(
            { path: '/api/settings/roots', method: 'POST', body: { path } },
            { onSuccess: () => setPath('') },
          );
        }}
      >
        <Field
          className="min-w-0 flex-1 font-mono text-[12px]"
          aria-label="Folder to search"
          placeholder="/projects/library/textures"
          value={path}
          onChange={(event) => setPath(event.target.value)}
        />
        <Button type="submit" main disabled={path.trim() === '' || change.isPending}>
          Add folder
        </Button>
      </form>
      <ul className="grid gap-1.5" aria-label="Search folders">
        {roots.map((root) => (
          <li
            key={root.id}
            className="flex items-center gap-3 rounded-[5px] border border-[var(--line)] px-3 py-2"
          >
            <FolderSearch size={15} className="shrink-0 text-[var(--soft)]" />
            <span className="min-w-0 flex-1">
              <span className="block truncate font-mono text-[12px]" title={root.path}>
                {root.path}
              </span>
              <span
                className={`text-[11.5px] ${root.state === 'failed' ? 'text-error' : 'text-[var(--soft)]'}`}
              >
                {root.state === 'ready'
                  ? `${plural(root.files, 'image')}${root.indexedAt ? `, indexed ${when(root.indexedAt)}` : ''}`
                  : root.message || `${root.state}, ${count(root.hashed)} of ${count(root.files)}`}
              </span>
            </span>
            <Button
              aria-label={`Index ${root.path} again`}
              title="Index again"
              disabled={root.state === 'indexing'}
              onClick={() => change.mutate({ path: `/api/settings/roots/${root.id}`, method: 'POST' })}
            >
              <RefreshCw size={13} />
            </Button>
            <Button
              aria-label={`Remove ${root.path}`}
              title="Search it no longer"
              onClick={() => change.mutate({ path: `/api/settings/roots/${root.id}`, method: 'DELETE' })}
            >
              <Trash2 size={13} />
            </Button>
          </li>
        ))}
        {settings.data && roots.length === 0 && (
          <li className="py-5 text-center text-[12.3px] text-[var(--soft)]">
            No search folder yet. Add the folder of your texture library.
          </li>
        )}
      </ul>
    </section>
  );
}
