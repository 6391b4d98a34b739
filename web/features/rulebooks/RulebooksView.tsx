'use client';

import { BUILT_IN_RULEBOOKS } from '@kinkajou/core/rules/builtIn';
import type { Rule, Rulebook } from '@kinkajou/core/rules/rulebook';
import { Copy, Download, History, Plus, Save, Trash2 } from 'lucide-react';
import { useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { AppStrip } from '@/ui/AppStrip';
import { Bar } from '@/ui/Bar';
import { Button, buttonClass } from '@/ui/Button';
import { Field } from '@/ui/Field';
import { plural } from '@/ui/format';
import { ImportJson } from '@/ui/ImportJson';
import { ListButton } from '@/ui/ListButton';
import { PastDialog } from './PastDialog.tsx';
import { RuleCard } from './RuleCard.tsx';
import { RunPanel } from './RunPanel.tsx';
import { useOnArrival, useRemoveRulebook, useRulebooks, useSaveRulebook } from './useRulebooks.ts';

interface Entry {
  id: string;
  book: Rulebook;
  own: boolean;
  onArrival: boolean;
}

const BUILT_IN: readonly Entry[] = Object.entries(BUILT_IN_RULEBOOKS).map(([id, book]) => ({
  id,
  book,
  own: false,
  onArrival: false,
}));

/** Rules of the house: kept, changed, tried on the shelf and applied to it. */
export function RulebooksView() {
  const { data, isError, error } = useRulebooks();
  const router = useRouter();
  const asked = useSearchParams().get('show');
  const [chosen, setChosen] = useState(asked);
  const show = (id: string | null) => {
    setChosen(id);
    router.replace(id === null ? '/rulebooks' : `/rulebooks?show=${id}`);
  };
  const save = useSaveRulebook(show);
  const list: Entry[] = [...(data ?? []).map((entry) => ({ ...entry, own: true })), ...BUILT_IN];
  const shown = list.find(({ id }) => id === chosen) ?? list[0];
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <Bar>
        <h1 className="text-[14px] font-bold">Rulebooks</h1>
        <span className="text-[var(--soft)]">
          {data && `${BUILT_IN.length} built in, ${data.length} of your own`}
        </span>
        <span className="flex-1" />
        <ImportJson
          label="Rulebook to import"
          what="rulebook"
          take={(book) => save.mutate({ book, id: null })}
        />
        <Button main onClick={() => save.mutate({ book: NEW_BOOK, id: null })}>
          <Plus size={13} /> New rulebook
        </Button>
      </Bar>
      {isError && <p className="p-4 text-error">{error.message}</p>}
      <main className="grid min-h-0 flex-1 grid-cols-[220px_minmax(0,1fr)_330px] max-[860px]:grid-cols-[130px_minmax(0,1fr)_210px]">
        <nav
          className="min-h-0 overflow-auto border-r border-[var(--line)] bg-base-200 py-2"
          aria-label="Rulebooks"
        >
          <Names title="Your own" list={list.filter(({ own }) => own)} shown={shown.id} show={show} />
          {data?.length === 0 && (
            <p className="px-3 py-1 text-[12px] text-[var(--soft)]">
              Copy a built-in one, import one, or make one of the edits of an asset.
            </p>
          )}
          <Names title="Built in" list={list.filter(({ own }) => !own)} shown={shown.id} show={show} />
        </nav>
        <BookSheet key={shown.id} entry={shown} show={show} />
      </main>
    </div>
  );
}

const NEW_RULE: Rule = {
  name: 'A new rule',
  when: { finding: 'link.missing', confidence: '>=0.9' },
  // biome-ignore lint/suspicious/noThenProperty: the rulebook's own word
  then: [{ do: 'mend' }],
};
const NEW_BOOK: Rulebook = { rulebook: 1, title: 'Rules of the house', rules: [NEW_RULE] };

function Names({
  title,
  list,
  shown,
  show,
}: {
  title: string;
  list: readonly Entry[];
  shown: string;
  show: (id: string) => void;
}) {
  if (list.length === 0) return null;
  return (
    <>
      <h2 className="px-3 pt-1 pb-0.5 text-[11.5px] font-semibold text-[var(--soft)]">{title}</h2>
      <ul>
        {list.map(({ id, book, onArrival }) => (
          <li key={id}>
            <ListButton current={id === shown} onClick={() => show(id)}>
              <span className="block truncate">{book.title}</span>
              <span className="block truncate text-[11px] font-normal text-[var(--soft)]">
                {plural(book.rules.length, 'rule')}
                {onArrival && ', on arrival'}
              </span>
            </ListButton>
          </li>
        ))}
      </ul>
    </>
  );
}

/** One rulebook, as it is being changed; what is tried is what is seen. */
function BookSheet({ entry, show }: { entry: Entry; show: (id: string | null) => void }) {
  const [draft, setDraft] = useState(entry.book);
  const [open, setOpen] = useState<number | null>(null);
  const [past, setPast] = useState(false);
  // Once it is saved, here or elsewhere, the draft begins anew; what was tried beside it stays.
  const content = JSON.stringify(entry.book);
  const [base, setBase] = useState(content);
  if (base !== content) {
    setBase(content);
    setDraft(entry.book);
    setOpen(null);
  }
  const save = useSaveRulebook(show);
  const remove = useRemoveRulebook(show);
  const onArrival = useOnArrival();
  const changed = draft !== entry.book;
  const put = (rules: Rule[]) => setDraft({ ...draft, rules });
  const move = (from: number, to: number) => {
    const rules = draft.rules.filter((_, i) => i !== from);
    rules.splice(to, 0, draft.rules[from]);
    put(rules);
    setOpen(open === from ? to : null);
  };
  const nameFor = (name: string) => freeName(name, draft.rules);
  return (
    <>
      <div className="grid min-h-0 min-w-0" style={{ gridTemplateRows: 'auto minmax(0, 1fr)' }}>
        <Bar className="flex-wrap gap-x-2 gap-y-1 py-1">
          {entry.own ? (
            <Field
              className="max-w-72 font-semibold"
              aria-label="Title"
              value={draft.title}
              onChange={(event) => setDraft({ ...draft, title: event.target.value })}
            />
          ) : (
            <h2 className="truncate font-semibold">{draft.title}</h2>
          )}
          {entry.own && (
            <label
              className="flex shrink-0 items-center gap-1.5 text-[12px] whitespace-nowrap"
              title="Applied to whatever arrives, before anybody looks at it"
            >
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={entry.onArrival}
                onChange={(event) => onArrival.mutate({ id: entry.id, onArrival: event.target.checked })}
              />
              on arrival
            </label>
          )}
          <span className="flex-1" />
          {changed && entry.own && (
            <Button main disabled={save.isPending} onClick={() => save.mutate({ book: draft, id: entry.id })}>
              <Save size={13} /> Save
            </Button>
          )}
          <Button
            onClick={() =>
              save.mutate({ book: { ...draft, title: `${draft.title}, own`.slice(0, 400) }, id: null })
            }
          >
            <Copy size={13} /> {entry.own ? 'Copy' : 'Copy and change'}
          </Button>
          <a
            className={buttonClass()}
            download={`${draft.title.replaceAll(/[^\p{L}\p{N}]+/gu, '-').toLowerCase()}.json`}
            href={`data:application/json,${encodeURIComponent(`${JSON.stringify(draft, null, 2)}\n`)}`}
            title="The command line takes the file with --rules"
          >
            <Download size={13} /> Export JSON
          </a>
          {entry.own && (
            <Button onClick={() => setPast(true)}>
              <History size={13} /> History
            </Button>
          )}
          {entry.own && (
            <Button onClick={() => remove.mutate(entry)}>
              <Trash2 size={13} /> Remove
            </Button>
          )}
        </Bar>
        <div className="min-h-0 overflow-auto p-3">
          <ol className="grid grid-cols-[minmax(0,1fr)] gap-2" aria-label="Rules, in order">
            {draft.rules.map((rule, i) => (
              <RuleCard
                key={i}
                rule={rule}
                open={open === i}
                toggle={() => setOpen(open === i ? null : i)}
                change={(next) => put(draft.rules.map((other, k) => (k === i ? next : other)))}
                up={i > 0 ? () => move(i, i - 1) : null}
                down={i + 1 < draft.rules.length ? () => move(i, i + 1) : null}
                copy={() => put(draft.rules.toSpliced(i + 1, 0, { ...rule, name: nameFor(rule.name) }))}
                remove={() => put(draft.rules.filter((_, k) => k !== i))}
              />
            ))}
          </ol>
          {draft.rules.length === 0 && <p className="pb-2 text-[12px] text-[var(--soft)]">No rule yet.</p>}
          <Button
            className="mt-2"
            onClick={() => {
              put([...draft.rules, { ...NEW_RULE, name: nameFor(NEW_RULE.name) }]);
              setOpen(draft.rules.length);
            }}
          >
            <Plus size={12} /> Rule
          </Button>
          {!entry.own && changed && (
            <p className="pt-2 text-[12px] text-[var(--soft)]">
              A built-in rulebook stays as it is; copy it to keep what you changed.
            </p>
          )}
        </div>
      </div>
      <RunPanel book={draft} />
      {past && (
        <PastDialog
          id={entry.id}
          book={entry.book}
          close={() => setPast(false)}
          take={(book) => {
            save.mutate({ book, id: entry.id });
            setPast(false);
          }}
        />
      )}
    </>
  );
}

/** Receipts go by the names of rules, so that each has its own. */
function freeName(name: string, rules: readonly Rule[]): string {
  const plain = name.replace(/ \(\d+\)$/, '');
  let free = plain;
  for (let i = 2; rules.some((rule) => rule.name === free); i += 1) free = `${plain} (${i})`;
  return free;
}
