'use client';

import type { Destination } from '@kinkajou/core/destinations/profile';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Copy, Download, Trash2 } from 'lucide-react';
import { useRouter, useSearchParams } from 'next/navigation';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import type { DestinationEntry } from '@/server/services/destinations';
import { AppStrip } from '@/ui/AppStrip';
import { api } from '@/ui/api';
import { Bar } from '@/ui/Bar';
import { Button, buttonClass } from '@/ui/Button';
import { ImportJson } from '@/ui/ImportJson';
import { ListButton } from '@/ui/ListButton';
import { DestinationEditor } from './DestinationEditor.tsx';
import { DestinationSheet } from './DestinationSheet.tsx';
import { DESTINATIONS_KEY, useDestinations } from './useDestinations.ts';
import { useSaveDestination } from './useSaveDestination.ts';

/** All destinations: built-in ones to read and copy, one's own to change. */
export function DestinationsView() {
  const typed = useDestinations();
  const router = useRouter();
  const required = useSearchParams().get('show');
  const [chosen, setChosen] = useState(required);
  const last = useRef<DestinationEntry | null>(null);
  const list = typed.data ?? [];
  // The list and the choice change one after the other; between them the entry shown last stays.
  const shown = list.find(({ profile }) => profile.id === chosen) ?? last.current ?? list[0];
  useEffect(() => {
    last.current = shown ?? null;
  }, [shown]);
  const show = (id: string) => {
    setChosen(id);
    router.replace(`/destinations?show=${id}`);
  };
  const save = useSaveDestination(show);
  const takeProfile = (value: unknown) => {
    const profile = value as Partial<Destination>;
    save.mutate({
      profile: { ...profile, id: freeId(String(profile?.id ?? 'imported'), list) },
      replaces: null,
    });
  };
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <Bar>
        <h1 className="text-[14px] font-bold">Destinations</h1>
        <span className="text-[var(--soft)]">
          {typed.data &&
            `${list.filter(({ own }) => !own).length} built in, ${list.filter(({ own }) => own).length} of your own`}
        </span>
        <span className="flex-1" />
        <ImportJson label="Profile to import" what="destination" take={takeProfile} />
      </Bar>
      {typed.isError && <p className="p-8 text-center text-error">{typed.error.message}</p>}
      {shown && (
        <main className="grid min-h-0 flex-1" style={{ gridTemplateColumns: '250px minmax(0, 1fr)' }}>
          <nav
            className="min-h-0 overflow-auto border-r border-[var(--line)] bg-base-200 py-2"
            aria-label="Destinations"
          >
            <Entries
              title="Built in"
              list={list.filter(({ own }) => !own)}
              shown={shown.profile.id}
              show={show}
            />
            <Entries
              title="Your own"
              list={list.filter(({ own }) => own)}
              shown={shown.profile.id}
              show={show}
            />
            {!list.some(({ own }) => own) && (
              <p className="px-3 py-1 text-[12px] text-[var(--soft)]">
                Copy a built-in one and change it, or import one.
              </p>
            )}
          </nav>
          <div
            className="grid min-h-0 min-w-0"
            style={{ gridTemplateRows: 'auto minmax(0, 1fr)', gridTemplateColumns: 'minmax(0, 1fr)' }}
          >
            <Head entry={shown} list={list} show={show} />
            {shown.own ? (
              <DestinationEditor key={shown.profile.id} profile={shown.profile} show={show} />
            ) : (
              <DestinationSheet profile={shown.profile} />
            )}
          </div>
        </main>
      )}
    </div>
  );
}

/** `engine-packed-2`, where `engine-packed` is there. */
function freeId(required: string, list: readonly DestinationEntry[]): string {
  const taken = new Set(list.map(({ profile }) => profile.id));
  let id = required;
  for (let i = 2; taken.has(id); i += 1) id = `${required}-${i}`;
  return id;
}

function Head({
  entry: { profile, own },
  list,
  show,
}: {
  entry: DestinationEntry;
  list: readonly DestinationEntry[];
  show: (id: string) => void;
}) {
  const save = useSaveDestination(show);
  const client = useQueryClient();
  const remove = useMutation({
    mutationFn: () =>
      api<{ destinations: DestinationEntry[] }>(`/api/destinations/${profile.id}`, { method: 'DELETE' }),
    onSuccess: ({ destinations }) => {
      client.setQueryData(DESTINATIONS_KEY, destinations);
      show(destinations[0].profile.id);
      toast(`${profile.title} was removed`, {
        action: { label: 'Undo', onClick: () => save.mutate({ profile, replaces: null }) },
      });
    },
    onError: (error) => toast.error(error.message),
  });
  return (
    <Bar>
      <h2 className="truncate font-semibold">{profile.title}</h2>
      <span className="font-mono text-[11.5px] text-[var(--soft)]">{profile.id}</span>
      <span className="flex-1" />
      <Button
        onClick={() =>
          save.mutate({
            profile: {
              ...profile,
              id: freeId(`${profile.id}-own`, list),
              title: `${profile.title}, own`.slice(0, 60),
            },
            replaces: null,
          })
        }
      >
        <Copy size={13} /> {own ? 'Copy' : 'Copy and change'}
      </Button>
      <a
        className={buttonClass()}
        download={`${profile.id}.json`}
        href={`data:application/json,${encodeURIComponent(`${JSON.stringify(profile, null, 2)}\n`)}`}
        title="The command line takes the file with --to"
      >
        <Download size={13} /> Export JSON
      </a>
      {own && (
        <Button onClick={() => remove.mutate()}>
          <Trash2 size={13} /> Remove
        </Button>
      )}
    </Bar>
  );
}

function Entries({
  title,
  list,
  shown,
  show,
}: {
  title: string;
  list: readonly DestinationEntry[];
  shown: string;
  show: (id: string) => void;
}) {
  if (list.length === 0) return null;
  return (
    <>
      <h2 className="px-3 pt-1 pb-0.5 text-[11.5px] font-semibold text-[var(--soft)]">{title}</h2>
      <ul>
        {list.map(({ profile }) => (
          <li key={profile.id}>
            <ListButton current={profile.id === shown} onClick={() => show(profile.id)}>
              <span className="block truncate">{profile.title}</span>
              <span className="block truncate font-mono text-[11px] font-normal text-[var(--soft)]">
                {profile.variants.join(', ')}
              </span>
            </ListButton>
          </li>
        ))}
      </ul>
    </>
  );
}
