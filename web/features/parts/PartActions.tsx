'use client';

import { alikeParts } from '@kinkajou/core/asset/alikeParts';
import type { Part } from '@kinkajou/core/asset/parts';
import type { PartChange, PivotPlace } from '@kinkajou/core/scene/partChange';
import { useMemo, useState } from 'react';
import { ActionSelect } from '@/ui/ActionSelect';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { Field } from '@/ui/Field';
import { count } from '@/ui/format';
import { useBench } from '../bench/useBench.ts';
import { CollisionRow } from './CollisionRow.tsx';
import { PlaceRow } from './PlaceRow.tsx';
import { hide, isHidden, selectParts, usePartFocus } from './partFocus.ts';
import { renamed } from './partTree.ts';
import { placingOf } from './placing.ts';

type Asking = 'rename' | 'group' | 'merge' | 'collision' | null;

const PIVOT_WORDS: Record<PivotPlace, string> = {
  centre: 'middle',
  bottom: 'middle of the bottom',
  origin: 'origin',
  balance: 'balance point',
};

/** What can be done with the selected parts, as buttons; names are asked for in a row of their own. */
export function PartActions({ parts }: { parts: readonly Part[] }) {
  const { view, apply } = useBench();
  const { selected, alone, hidden, revealed, placing, set } = usePartFocus();
  const open = placing && !placing.sent ? placing : null;
  const [asking, setAsking] = useState<Asking>(null);
  const chosen = parts.filter(({ key }) => selected.includes(key));
  const keys = chosen.map(({ key }) => key);
  const away = parts.filter((part) => isHidden(part, { hidden, revealed })).map(({ key }) => key);
  const shapes = chosen.filter(({ polygons }) => polygons > 0);
  const change = (next: PartChange) =>
    apply([{ kind: 'editParts', change: next, origin: { from: 'hand', detail: 'parts' } }]);
  const none = chosen.length === 0;
  const alike = useMemo(() => alikeParts(parts, selected), [parts, selected]);
  const allDropped = !none && chosen.every(({ dropped }) => dropped);
  return (
    <div className="grid gap-1.5 border-t border-[var(--line)] bg-base-200 px-3 py-2 text-[12.3px]">
      <div
        className="flex flex-wrap items-center gap-1.5"
        role="toolbar"
        aria-label="What to do with the selected parts"
      >
        <Button disabled={none} onClick={() => change({ do: allDropped ? 'restore' : 'drop', parts: keys })}>
          {allDropped ? 'Bring back' : 'Drop'}
        </Button>
        <Button
          disabled={none}
          aria-expanded={asking === 'rename'}
          onClick={() => setAsking(asking === 'rename' ? null : 'rename')}
        >
          Rename ...
        </Button>
        <Button
          disabled={none}
          aria-expanded={asking === 'group'}
          onClick={() => setAsking(asking === 'group' ? null : 'group')}
        >
          Group ...
        </Button>
        <Button
          disabled={!chosen.some(({ kind }) => kind === 'group')}
          onClick={() => change({ do: 'ungroup', parts: keys })}
        >
          Ungroup
        </Button>
        <Button
          disabled={shapes.length < 2}
          aria-expanded={asking === 'merge'}
          onClick={() => setAsking(asking === 'merge' ? null : 'merge')}
        >
          Merge ...
        </Button>
        <Button
          disabled={shapes.length === 0}
          onClick={() => change({ do: 'turnFaces', parts: shapes.map(({ key }) => key) })}
        >
          Turn faces
        </Button>
        <Button
          disabled={shapes.length === 0}
          title="Turns only those that disagree with their neighbours"
          onClick={() => change({ do: 'agreeFaces', parts: shapes.map(({ key }) => key) })}
        >
          Make faces agree
        </Button>
        <Button
          disabled={shapes.length === 0}
          title="Smooth across edges of less than 60°"
          onClick={() => change({ do: 'normals', parts: shapes.map(({ key }) => key), angle: 60 })}
        >
          Compute normals
        </Button>
        <Button
          disabled={none}
          title="Placement into the points; a mirrored part is none then"
          onClick={() => change({ do: 'apply', parts: keys })}
        >
          Apply transform
        </Button>
        <Button
          disabled={none || allDropped}
          aria-expanded={open !== null}
          onClick={() => set({ placing: open ? null : placingOf(chosen, parts) })}
        >
          Place ...
        </Button>
        <Button disabled={none} onClick={() => change({ do: 'reset', parts: keys })}>
          Reset transform
        </Button>
        <ActionSelect
          label="Move below"
          disabled={none}
          options={[['', 'nothing'], ...groupsFor(parts, keys)]}
          pick={(under) => change({ do: 'move', parts: keys, under: under === '' ? null : under })}
        />
        <ActionSelect
          label="Cut"
          disabled={shapes.length === 0}
          options={CUTS}
          pick={(by) => change({ do: 'cut', parts: shapes.map(({ key }) => key), by })}
        />
        <ActionSelect
          label="Pivot to the"
          disabled={none}
          options={[
            ...(Object.entries(PIVOT_WORDS) as [PivotPlace, string][]),
            ['picked', 'place picked in the view ...'] as const,
          ]}
          pick={(at) => (at === 'picked' ? set({ picking: true }) : change({ do: 'pivot', parts: keys, at }))}
        />
        <Button
          disabled={shapes.length === 0}
          aria-expanded={asking === 'collision'}
          onClick={() => setAsking(asking === 'collision' ? null : 'collision')}
        >
          Collision ...
        </Button>
        <ActionSelect
          label="Material"
          disabled={shapes.length === 0 || view.state.materials.length === 0}
          options={view.state.materials.map(({ key, name }) => [key, name] as const)}
          pick={(material) =>
            apply([
              {
                kind: 'bindNodes',
                nodes: shapes.map(({ key }) => key),
                material,
                origin: { from: 'hand', detail: 'parts' },
              },
            ])
          }
        />
        <ActionSelect
          label="Select alike"
          disabled={alike.same.length + alike.mirrored.length < 2}
          options={[
            ['same', `of the same form (${count(alike.same.length)})`],
            ...(alike.mirrored.length > 0
              ? [
                  [
                    'mirrored',
                    `mirrored ones too (${count(alike.same.length + alike.mirrored.length)})`,
                  ] as const,
                ]
              : []),
          ]}
          pick={(what) => selectParts(what === 'same' ? alike.same : [...alike.same, ...alike.mirrored])}
        />
        <Chip
          aria-pressed={alone !== null}
          disabled={none && alone === null}
          onClick={() => set({ alone: alone ? null : new Set(keys) })}
        >
          alone
        </Chip>
        {away.length > 0 && <Chip onClick={() => hide(away, false)}>show {count(away.length)} hidden</Chip>}
      </div>
      {open && (
        <PlaceRow
          placing={open}
          give={() => {
            const { parts: placed, about, move, turn, scale } = open;
            change({ do: 'place', parts: placed, about, move, turn, scale });
            set({ placing: { ...open, sent: true } });
          }}
          close={() => set({ placing: null })}
        />
      )}
      {asking === 'rename' && !none && (
        <RenameRow
          parts={chosen}
          close={() => setAsking(null)}
          rename={(names) => change({ do: 'rename', names })}
        />
      )}
      {asking === 'collision' && shapes.length > 0 && (
        <CollisionRow
          key={shapes[0].key}
          first={shapes[0].collision}
          close={() => setAsking(null)}
          give={(collision) => change({ do: 'collision', parts: shapes.map(({ key }) => key), ...collision })}
        />
      )}
      {(asking === 'group' || asking === 'merge') && !none && (
        <NameRow
          key={asking}
          label={asking === 'group' ? 'Name of the group' : 'Name of the whole'}
          first={asking === 'group' ? 'Group' : chosen[0].name}
          close={() => setAsking(null)}
          take={(name) =>
            change(
              asking === 'group'
                ? { do: 'group', parts: keys, name }
                : { do: 'merge', parts: shapes.map(({ key }) => key), name },
            )
          }
        />
      )}
    </div>
  );
}

const CUTS = [
  ['materials', 'by material'],
  ['solids', 'into solids'],
] as const;

/** Groups that the parts may hang below: none of themselves, nor of what hangs on them. */
function groupsFor(parts: readonly Part[], moving: readonly string[]): [string, string][] {
  const barred = new Set(moving);
  for (const { key, parent } of parts) if (parent !== null && barred.has(parent)) barred.add(key);
  return parts
    .filter(({ key, kind, dropped }) => kind === 'group' && !barred.has(key) && !dropped)
    .slice(0, 200)
    .map(({ key, name }) => [key, name || key]);
}

function RenameRow({
  parts,
  rename,
  close,
}: {
  parts: readonly Part[];
  rename(names: { part: string; name: string }[]): void;
  close(): void;
}) {
  const single = parts.length === 1;
  const [pattern, setPattern] = useState('*');
  const [to, setTo] = useState(single ? parts[0].name : '$1');
  let names: { part: string; name: string }[] = [];
  let fault = '';
  try {
    names = renamed(parts, pattern, to);
  } catch (error) {
    fault = (error as Error).message;
  }
  const sample = names[0];
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (names.length > 0) rename(names);
        close();
      }}
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      {!single && (
        <label className="flex items-center gap-1.5">
          names like{' '}
          <Field
            autoFocus
            className="w-40 font-mono"
            value={pattern}
            onChange={(event) => setPattern(event.target.value)}
            aria-label="Names like"
          />
        </label>
      )}
      <label className="flex items-center gap-1.5">
        become{' '}
        <Field
          autoFocus={single}
          className="w-44 font-mono"
          value={to}
          onChange={(event) => setTo(event.target.value)}
          aria-label="New name"
        />
      </label>
      <Button type="submit" main disabled={names.length === 0}>
        Rename {count(names.length)}
      </Button>
      <span className="truncate text-[var(--soft)]">
        {fault ||
          (sample
            ? `${parts.find(({ key }) => key === sample.part)?.name} becomes ${sample.name}`
            : '$1, $2 stand for what the stars match')}
      </span>
    </form>
  );
}

function NameRow({
  label,
  first,
  take,
  close,
}: {
  label: string;
  first: string;
  take(name: string): void;
  close(): void;
}) {
  const [name, setName] = useState(first);
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim() !== '') take(name.trim());
        close();
      }}
      onKeyDown={(event) => event.key === 'Escape' && close()}
    >
      <label className="flex items-center gap-1.5">
        {label}{' '}
        <Field autoFocus className="w-52" value={name} onChange={(event) => setName(event.target.value)} />
      </label>
      <Button type="submit" main disabled={name.trim() === ''}>
        Do it
      </Button>
    </form>
  );
}
