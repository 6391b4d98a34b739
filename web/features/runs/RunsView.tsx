'use client';

import { Package, Repeat, Square, Undo2 } from 'lucide-react';
import { useRouter, useSearchParams } from 'next/navigation';
import type { ReactNode } from 'react';
import { toast } from 'sonner';
import type { RunOutcome } from '@/server/services/runs';
import { needsLook } from '@/server/wire/compared';
import { AppStrip } from '@/ui/AppStrip';
import { api } from '@/ui/api';
import { Bar } from '@/ui/Bar';
import { Button, buttonClass } from '@/ui/Button';
import { count, plural, when } from '@/ui/format';
import { Link } from '@/ui/Link';
import { ListButton } from '@/ui/ListButton';
import { Mark, type MarkKind } from '@/ui/Mark';
import { RowList } from '@/ui/RowList';
import { useLearnRules } from '../rulebooks/useRulebooks.ts';
import { comparedWords } from './comparedWords.ts';
import {
  fared,
  isGoing,
  type RunWithPackages,
  useRepeatRun,
  useRun,
  useRuns,
  useUndoRun,
} from './useRuns.ts';
import { WriteToFolder } from './WriteToFolder.tsx';

const ROW = 26;
const COLUMNS = '18px minmax(0, 190px) 88px minmax(0, 1.5fr) minmax(0, 1fr)';

/** What was done to many assets at once: each run with how every asset fared. */
export function RunsView() {
  const { data: runs = [], isSuccess, error } = useRuns();
  const router = useRouter();
  const asked = useSearchParams().get('run');
  const id = asked ?? runs[0]?.id ?? null;
  const show = (run: string) => router.replace(`/runs?run=${run}`);
  const { data: run, error: fault } = useRun(id);
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <Bar>
        <h1 className="text-[14px] font-bold">Runs</h1>
        <span className="text-[var(--soft)]">
          {isSuccess && (runs.length === 1 ? 'one run' : `the last ${count(runs.length)}`)}
        </span>
      </Bar>
      {(error ?? fault) && <p className="p-8 text-center text-error">{(error ?? fault)?.message}</p>}
      {isSuccess && runs.length === 0 ? (
        <p className="p-16 text-center text-[var(--soft)]">
          Nothing was done to several assets at once yet. Select some on the <Link href="/">shelf</Link>, or
          apply a rulebook.
        </p>
      ) : (
        <main className="grid min-h-0 flex-1" style={{ gridTemplateColumns: '290px minmax(0, 1fr)' }}>
          <nav className="overflow-auto border-r border-[var(--line)] bg-base-200 py-2" aria-label="Runs">
            <ul className="grid gap-1">
              {runs.map((entry) => (
                <li key={entry.id}>
                  <ListButton
                    current={entry.id === id}
                    className="grid gap-0.5 text-[12.5px]"
                    onClick={() => show(entry.id)}
                  >
                    <span className="line-clamp-2">{entry.title}</span>
                    <span className="truncate text-[11.5px] font-normal text-[var(--soft)]">
                      {fared(entry)}, {when(entry.createdAt)}
                    </span>
                  </ListButton>
                </li>
              ))}
            </ul>
          </nav>
          {run ? <OneRun run={run} show={show} /> : <span />}
        </main>
      )}
    </div>
  );
}

function OneRun({ run, show }: { run: RunWithPackages; show(id: string): void }) {
  const undo = useUndoRun();
  const repeat = useRepeatRun(show);
  const learn = useLearnRules(`/api/runs/${run.id}/rules`);
  const { id, title, state, doing, progress, counts, undone, fault, outcomes, packages } = run;
  const going = isGoing(run);
  const left = counts.failed > 0 || state === 'cancelled' || state === 'failed';
  const stop = () =>
    api(`/api/jobs/${id}/cancel`, { method: 'POST' }).catch((error: Error) => toast.error(error.message));
  return (
    <section className="grid min-h-0" style={{ gridTemplateRows: 'auto minmax(0, 1fr)' }} aria-label={title}>
      <div className="flex flex-wrap items-center gap-2 border-b border-[var(--line)] px-4 py-2 text-[12.5px]">
        <span role="status" className="min-w-0">
          <b>{stateInWords(going, progress, state)}</b>
          {going && doing !== '' && `, ${doing}`}:{' '}
          {counts.compared > 0
            ? `${count(counts.compared - counts.apart)} of ${plural(counts.compared, 'asset')} as their packages`
            : `${count(counts.changed)} of ${plural(counts.reached, 'asset')} changed`}
          {counts.asks > 0 && `, ${count(counts.asks)} asked about`}
          {counts.failed > 0 && `, ${count(counts.failed)} could not be done`}
          {packages.going > 0 && `, ${plural(packages.going, 'package')} still being made`}
          {packages.lost > 0 && `, ${plural(packages.lost, 'package')} not made`}
          {undone && `; undone in ${count(undone.assets)}`}
          {fault && <span className="text-error">; {fault.message}</span>}
        </span>
        <span className="flex-1" />
        {going && (
          <Button onClick={() => void stop()}>
            <Square size={11} /> Stop
          </Button>
        )}
        {!going && left && (
          <Button disabled={repeat.isPending} onClick={() => repeat.mutate(id)}>
            <Repeat size={12} /> {state === 'done' ? 'Repeat what failed' : 'Go on with the rest'}
          </Button>
        )}
        {packages.going === 0 && packages.made > 0 && (
          <a className={buttonClass()} href={`/api/runs/${id}/packages`} download>
            <Package size={12} />{' '}
            {packages.made === 1 ? 'The package' : `All ${count(packages.made)} packages`} as one zip
          </a>
        )}
        {packages.going === 0 && packages.made > 0 && <WriteToFolder run={id} />}
        {!going && !undone && outcomes.some(({ edits }) => edits.some(({ rule }) => rule === '')) && (
          <Button
            disabled={learn.isPending}
            title="What was answered and mended here becomes a rulebook, to be tried and changed"
            onClick={() => learn.mutate(undefined)}
          >
            Make rules of it
          </Button>
        )}
        {!going && counts.changed > 0 && !undone && (
          <Button disabled={undo.isPending} onClick={() => undo.mutate(id)}>
            <Undo2 size={12} /> Undo the run
          </Button>
        )}
      </div>
      <RowList
        label="Assets of the run"
        columns={COLUMNS}
        heads={['', 'Asset', 'Edits', 'What was done', 'Left']}
        rows={outcomes}
        height={ROW}
        state={(outcome) => ({ key: outcome.id, selected: false })}
        pick={() => undefined}
        cells={cellsOf}
        empty={going ? 'No asset is done yet.' : 'This run came to no asset.'}
      />
    </section>
  );
}

function stateInWords(going: boolean, progress: number, state: string): string {
  if (going) return `${Math.round(progress * 100)}%`;
  return state === 'cancelled' ? 'stopped' : state;
}

function markOf({ fault, left, edits, handOffs, delivered, compared, removed }: RunOutcome): MarkKind {
  if (fault) return 'broken';
  if (compared) return needsLook(compared) ? 'doubtful' : 'fine';
  if (left.some(({ rule }) => rule !== null)) return 'doubtful';
  return edits.length + handOffs.length > 0 || delivered?.parcel || removed ? 'fine' : 'empty';
}

function cellsOf(outcome: RunOutcome): ReactNode[] {
  const { id, name, edits, left, handOffs, delivered, compared, removed, makes, fault } = outcome;
  const done = [
    ...(fault ? [fault] : []),
    ...handOffs.map((to) => `package for ${to}`),
    ...(delivered ? [delivered.text] : []),
    ...(compared ? comparedWords(compared) : []),
    ...(removed ? ['removed'] : []),
    ...edits.map(({ text }) => text),
    ...(makes > 0 ? [`${plural(makes, 'map')} wanted, made on the bench`] : []),
  ].join('; ');
  const open = [...new Set(left.map(({ title, code, subject }) => `${title ?? code}: ${subject}`))];
  return [
    <Mark key="mark" kind={markOf(outcome)} />,
    <Link key="name" href={`/assets/${id}`} className="truncate font-semibold hover:underline" title={name}>
      {name}
    </Link>,
    <span key="edits" className="font-mono text-[11.3px]">
      {edits.length > 0 ? count(edits.length) : ''}
    </span>,
    <span key="done" className={`truncate ${fault ? 'text-error' : ''}`} title={done}>
      {done}
    </span>,
    <span key="left" className="truncate text-[var(--soft)]" title={open.join('\n')}>
      {left.length === 0 ? '' : `${count(left.length)}: ${open[0]}`}
    </span>,
  ];
}
