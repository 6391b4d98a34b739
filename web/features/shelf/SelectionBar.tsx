'use client';

import { BUILT_IN_RULEBOOKS } from '@kinkajou/core/rules/builtIn';
import { useState } from 'react';
import { toast } from 'sonner';
import { ActionSelect } from '@/ui/ActionSelect';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { count, plural } from '@/ui/format';
import { useDestinations } from '../destinations/useDestinations.ts';
import { useRulebooks } from '../rulebooks/useRulebooks.ts';
import { type AskedOfMany, useStartRun } from '../runs/useRuns.ts';
import { DeliverButton } from './DeliverButton.tsx';
import { select, selectAllFound, useSelected } from './selected.ts';
import { TagRow } from './TagRow.tsx';

/**
 * What can be done with all selected assets at once; each is a run that can be watched, stopped and undone.
 */
export function SelectionBar({ total }: { total: number | undefined }) {
  const ids = useSelected((selected) => selected.ids);
  const [removing, setRemoving] = useState(false);
  const [tagging, setTagging] = useState(false);
  const { data: books = [] } = useRulebooks();
  const { data: destinations = [] } = useDestinations();
  // What is off the shelf is not worked on.
  const start = useStartRun(({ remove }) => remove && select([]));
  const begin = (asked: Omit<AskedOfMany, 'assets' | 'filter'>) =>
    start.mutate({ ...asked, assets: [...ids] });
  if (ids.size === 0) return null;
  const over = plural(ids.size, 'asset');
  const all = [...books.map(({ id, book }) => [id, book] as const), ...Object.entries(BUILT_IN_RULEBOOKS)];
  return (
    <div
      className="flex flex-wrap items-center gap-2 border-t border-[var(--line)] bg-base-200 px-4 py-2 text-[12.5px]"
      role="toolbar"
      aria-label="What to do with the selected assets"
    >
      <b>{count(ids.size)} selected</b>
      {total !== undefined && total > ids.size && (
        <Chip onClick={() => selectAllFound().catch((error: Error) => toast.error(error.message))}>
          all {count(total)}
        </Chip>
      )}
      <Chip onClick={() => select([])}>none</Chip>
      <span className="mx-1 h-5 w-px bg-[var(--line)]" />
      <Button
        main
        disabled={start.isPending}
        onClick={() => begin({ title: `Mended what is safe in ${over}`, mend: true })}
      >
        Mend what is safe
      </Button>
      <ActionSelect
        label="Apply a rulebook"
        options={all.map(([key, { title }]) => [key, title])}
        pick={(key) => {
          const book = all.find(([other]) => other === key)?.[1];
          if (book) begin({ title: `${book.title} over ${over}`, book });
        }}
      />
      <ActionSelect
        label="Hand off"
        options={destinations.map(({ profile }) => [profile.id, profile.title])}
        pick={(id) => {
          const profile = destinations.find((entry) => entry.profile.id === id)?.profile;
          if (profile) begin({ title: `${over} for ${profile.title}`, destinations: [profile.id] });
        }}
      />
      <Button
        disabled={start.isPending}
        title="Each asset's last package for each destination is held against the asset as it is now"
        onClick={() => begin({ title: `Compared ${over} with their packages`, compare: true })}
      >
        Compare with packages
      </Button>
      <DeliverButton
        disabled={start.isPending}
        begin={(deliver, name) => begin({ title: `${name} delivered to ${over}`, deliver })}
      />
      <Button aria-expanded={tagging} onClick={() => setTagging(!tagging)}>
        Tag images ...
      </Button>
      {removing ? (
        <>
          <span>Take {over} off the shelf? The run brings them back.</span>
          <Button onClick={() => begin({ title: `Removed ${over}`, remove: true })}>Remove</Button>
          <Chip onClick={() => setRemoving(false)}>keep them</Chip>
        </>
      ) : (
        <Button onClick={() => setRemoving(true)}>Remove ...</Button>
      )}
      {tagging && (
        <TagRow
          close={() => setTagging(false)}
          tag={(title, book) => begin({ title: `${title} in ${over}`, book })}
        />
      )}
    </div>
  );
}
