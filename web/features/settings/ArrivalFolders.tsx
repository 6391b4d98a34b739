'use client';

import { BUILT_IN_RULEBOOKS } from '@kinkajou/core/rules/builtIn';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { FolderInput, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { ArrivalFolder, ArrivalFolderRequest } from '@/server/services/arrivalFolders';
import { api } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { Field } from '@/ui/Field';
import { useDestinations } from '../destinations/useDestinations.ts';
import { useRulebooks } from '../rulebooks/useRulebooks.ts';

const KEY = ['settings', 'arrivals'];
const PATH = '/api/settings/arrivals';
type Answer = { folders: ArrivalFolder[] };
type Orders = Pick<ArrivalFolderRequest, 'rules' | 'destinations' | 'mend'>;
const NOTHING: Orders = { rules: [], destinations: [], mend: true };

/** Folders from which whatever comes is taken in, ruled, handed off and written out by itself. */
export function ArrivalFolders() {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => api<Answer>(PATH) });
  const change = useMutation({
    mutationFn: (call: { path: string; method: string; body?: unknown }) => api<Answer>(call.path, call),
    onSuccess: (answer) => client.setQueryData(KEY, answer),
    onError: (error) => toast.error(error.message),
  });
  const folders = data?.folders ?? [];
  return (
    <section
      className="rounded-md border border-[var(--line)] bg-base-100 p-4"
      aria-label="Folders of arrivals"
    >
      <h2 className="mb-1 text-[14px] font-bold">Folders of arrivals</h2>
      <p className="mb-3 text-[12.3px] text-[var(--soft)]">
        A zip, a model or a folder that comes into one of these, on the server's disk, is a parcel of its own:
        rules are applied, packages made and written below the output folder. What needs a person is put aside
        there, each with a note. A file that changes comes again. Nothing is changed in the watched folder.
      </p>
      <NewFolder
        busy={change.isPending}
        add={(body, added) => change.mutate({ path: PATH, method: 'POST', body }, { onSuccess: added })}
      />
      <ul className="grid gap-1.5" aria-label="Watched folders">
        {folders.map((folder) => (
          <FolderRow
            key={folder.id}
            folder={folder}
            remove={() => change.mutate({ path: `${PATH}/${folder.id}`, method: 'DELETE' })}
          />
        ))}
        {data && folders.length === 0 && (
          <li className="py-3 text-center text-[12.3px] text-[var(--soft)]">
            No folder is watched for arrivals.
          </li>
        )}
      </ul>
    </section>
  );
}

function NewFolder({
  busy,
  add,
}: {
  busy: boolean;
  add(body: ArrivalFolderRequest, added: () => void): void;
}) {
  const [path, setPath] = useState('');
  const [output, setOutput] = useState('');
  const [orders, setOrders] = useState(NOTHING);
  const { data: destinations = [] } = useDestinations();
  const { data: own = [] } = useRulebooks();
  const books = [
    ...Object.entries(BUILT_IN_RULEBOOKS).map(([word, { title }]) => ({ word, title })),
    ...own.map(({ id, book }) => ({ word: id, title: book.title })),
  ];
  return (
    <form
      className="mb-3 grid gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        const out = output.trim();
        add({ path: path.trim(), output: out === '' ? null : out, ...orders }, () => {
          setPath('');
          setOutput('');
          setOrders(NOTHING);
        });
      }}
    >
      <div className="grid grid-cols-2 gap-2">
        <Field
          className="w-full font-mono text-[12px]"
          aria-label="Folder that things arrive in"
          placeholder="/projects/in"
          value={path}
          onChange={(event) => setPath(event.target.value)}
        />
        <Field
          className="w-full font-mono text-[12px]"
          aria-label="Output folder"
          placeholder="output folder: where packages go"
          value={output}
          onChange={(event) => setOutput(event.target.value)}
        />
      </div>
      <Chips
        label="Rulebooks"
        all={books.map(({ word, title }) => ({ id: word, title }))}
        chosen={orders.rules}
        choose={(rules) => setOrders({ ...orders, rules })}
      />
      <Chips
        label="Destinations"
        all={destinations.map(({ profile: { id, title } }) => ({ id, title }))}
        chosen={orders.destinations}
        choose={(chosen) => setOrders({ ...orders, destinations: chosen })}
      />
      <div className="flex items-center gap-3">
        <label className="flex cursor-pointer items-center gap-1.5 text-[12px]">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={orders.mend}
            onChange={(event) => setOrders({ ...orders, mend: event.target.checked })}
          />
          mend all that is safe
        </label>
        <span className="flex-1" />
        <Button type="submit" main disabled={path.trim() === '' || busy}>
          Watch the folder
        </Button>
      </div>
    </form>
  );
}

function Chips({
  label,
  all,
  chosen,
  choose,
}: {
  label: string;
  all: { id: string; title: string }[];
  chosen: string[];
  choose(ids: string[]): void;
}) {
  return (
    <fieldset className="flex flex-wrap items-center gap-1.5">
      <legend className="sr-only">{label}</legend>
      <span className="w-24 text-[12px] text-[var(--soft)]" aria-hidden>
        {label}
      </span>
      {all.map(({ id, title }) => (
        <Chip
          key={id}
          aria-pressed={chosen.includes(id)}
          onClick={() =>
            choose(chosen.includes(id) ? chosen.filter((other) => other !== id) : [...chosen, id])
          }
        >
          {title}
        </Chip>
      ))}
    </fieldset>
  );
}

function FolderRow({
  folder: { path, output, destinations, entries, notes, message },
  remove,
}: {
  folder: ArrivalFolder;
  remove: () => void;
}) {
  const counts = [
    entries.working > 0 && `${entries.working} on the way`,
    entries.done > 0 && `${entries.done} through`,
    entries.asks > 0 && `${entries.asks} for a person`,
    entries.failed > 0 && `${entries.failed} that could not be taken`,
  ].filter(Boolean);
  return (
    <li className="flex items-start gap-3 rounded-[5px] border border-[var(--line)] px-3 py-2">
      <FolderInput size={15} className="mt-0.5 shrink-0 text-[var(--soft)]" />
      <div className="min-w-0 flex-1">
        <span className="block truncate font-mono text-[12px]" title={path}>
          {path}
          {output !== null && <span className="text-[var(--soft)]"> to {output}</span>}
        </span>
        <span className="block text-[11.5px] text-[var(--soft)]">
          {[destinations.join(', '), counts.length > 0 ? counts.join(', ') : 'nothing has come yet']
            .filter(Boolean)
            .join('; ')}
        </span>
        {message !== '' && <span className="block text-[11.5px] text-error">{message}</span>}
        {notes.length > 0 && (
          <details className="text-[11.5px]">
            <summary className="cursor-pointer">what needs a person</summary>
            <ul className="grid gap-0.5 py-1">
              {notes.map(({ name, note }) => (
                <li key={name} className="whitespace-pre-line">
                  <b>{name}</b>: {note}
                </li>
              ))}
            </ul>
          </details>
        )}
      </div>
      <Button aria-label={`Watch ${path} no longer`} title="Watch it no longer" onClick={remove}>
        <Trash2 size={13} />
      </Button>
    </li>
  );
}
