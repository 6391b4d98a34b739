'use client';

import type { Rulebook } from '@kinkajou/core/rules/rulebook';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Undo2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import type { RunOutcome, RunResult } from '@/server/services/runs';
import type { TrialPicture } from '@/server/services/trialPictures';
import { api, blobUrl } from '@/ui/api';
import { Button } from '@/ui/Button';
import { Field } from '@/ui/Field';
import { count, plural, when } from '@/ui/format';
import { followJob } from '@/ui/jobs';
import { Link } from '@/ui/Link';
import { Mark } from '@/ui/Mark';
import { fared, isGoing, useRuns, useUndoRun } from '../runs/useRuns.ts';
import { filterParams } from '../shelf/selected.ts';
import { conflictPairs } from './ruleWords.ts';
import { useTrialPictures } from './useTrialPictures.ts';

/** Outcomes that are listed; the rest is counted. */
const LISTED = 200;

/** Tries a rulebook on the shelf, applies it, and undoes what was applied. */
export function RunPanel({ book }: { book: Rulebook }) {
  const client = useQueryClient();
  const [words, setWords] = useState('');
  const [shown, setShown] = useState<{ result: RunResult; apply: boolean } | null>(null);
  const run = useMutation({
    mutationFn: async (apply: boolean) => {
      const assets = words.trim() === '' ? null : await assetsNamed(words.trim());
      if (assets?.length === 0) throw new Error(`No asset fits "${words.trim()}".`);
      const { job } = await api<{ job: string }>('/api/runs', {
        method: 'POST',
        body: { book, assets, apply },
      });
      const result = await followJob<RunResult>(
        job,
        apply ? `Applying ${book.title}` : `Trying ${book.title}`,
      );
      return result && { result, apply };
    },
    onSuccess: (made) => {
      if (!made) return;
      setShown(made);
      if (made.apply) void client.invalidateQueries({ queryKey: ['runs'] });
    },
    onError: (error) => toast.error(error.message),
  });
  const pictures = useTrialPictures(book, shown && !shown.apply ? shown.result : null);
  return (
    <aside
      className="flex min-h-0 flex-col border-l border-[var(--line)] bg-base-200"
      aria-label="Try and apply"
    >
      <div className="grid gap-2 border-b border-[var(--line)] p-3">
        <label className="flex items-center gap-2 text-[12.3px]">
          Over
          <Field
            className="flex-1"
            value={words}
            placeholder="the whole shelf, or words of names"
            onChange={(event) => setWords(event.target.value)}
          />
        </label>
        <div className="flex items-center gap-2">
          <Button disabled={run.isPending} onClick={() => run.mutate(false)}>
            Try
          </Button>
          <Button main disabled={run.isPending} onClick={() => run.mutate(true)}>
            Apply
          </Button>
          <span className="text-[11.8px] text-[var(--soft)]">
            {run.isPending ? 'working ...' : 'Trying changes nothing.'}
          </span>
        </div>
      </div>
      <div className="min-h-0 flex-1 overflow-auto p-3">
        {shown ? (
          <Outcomes {...shown} pictures={pictures} />
        ) : (
          <p className="text-[12px] text-[var(--soft)]">
            Try it to see what each rule would do, asset by asset.
          </p>
        )}
        <Runs />
      </div>
    </aside>
  );
}

/** Ids of the assets that a search of the shelf finds, over all its pages. */
async function assetsNamed(search: string): Promise<string[]> {
  return (await api<{ ids: string[] }>(`/api/shelf/ids?${filterParams({ search })}`)).ids;
}

interface OutcomesProps {
  result: RunResult;
  apply: boolean;
  /** How assets look and would look, as far as that was drawn. */
  pictures: ReadonlyMap<string, TrialPicture>;
}

function Outcomes({ result: { outcomes }, apply, pictures }: OutcomesProps) {
  const changed = outcomes.filter(({ edits }) => edits.length > 0);
  const failed = outcomes.filter(({ fault }) => fault !== null);
  const asked = outcomes.filter(({ left }) => left.some(({ rule }) => rule !== null));
  const byRule = new Map<string, number>();
  for (const { edits } of outcomes)
    for (const { rule } of edits) byRule.set(rule, (byRule.get(rule) ?? 0) + 1);
  const listed = [...failed, ...changed, ...asked.filter((one) => !changed.includes(one))];
  return (
    <section aria-label="What it does" className="mb-4">
      <p className="mb-1.5 text-[12.5px] font-semibold" role="status">
        {apply ? 'Changed' : 'Would change'} {count(changed.length)} of {plural(outcomes.length, 'asset')}
        {asked.length > 0 && `, asks in ${count(asked.length)}`}
        {failed.length > 0 && `, could not do ${count(failed.length)}`}
      </p>
      <ul className="mb-2 text-[12px]">
        {[...byRule].map(([rule, edits]) => (
          <li key={rule} className="flex justify-between gap-2">
            <span className="truncate">{rule}</span>
            <span className="shrink-0 font-mono text-[11.3px] text-[var(--soft)]">
              {plural(edits, 'edit')}
            </span>
          </li>
        ))}
      </ul>
      <Conflicts outcomes={outcomes} />
      <ul className="grid gap-1.5">
        {listed.slice(0, LISTED).map((outcome) => (
          <OutcomeRow key={outcome.id} outcome={outcome} picture={pictures.get(outcome.id)} />
        ))}
      </ul>
      {listed.length > LISTED && (
        <p className="mt-1 text-[12px] text-[var(--soft)]">and {count(listed.length - LISTED)} more</p>
      )}
    </section>
  );
}

/** Rules that say otherwise than one before them, each pair once. */
function Conflicts({ outcomes }: { outcomes: readonly RunOutcome[] }) {
  const pairs = conflictPairs(outcomes);
  if (pairs.length === 0) return null;
  return (
    <ul className="mb-2 grid gap-1 text-[12px]" aria-label="Rules that contradict each other">
      {pairs.map(({ rule, over, about, assets }) => (
        <li
          key={`${rule} ${over}`}
          className="flex gap-1.5 rounded-[5px] border border-[var(--line)] bg-[var(--honey-wash)] px-2 py-1"
        >
          <Mark kind="doubtful" />
          <span className="min-w-0 break-words">
            <b>{rule}</b> says otherwise than <b>{over}</b> in {plural(assets, 'asset')} ({about}). The later
            one holds.
          </span>
        </li>
      ))}
    </ul>
  );
}

const SHOWN_EDITS = 4;

function OutcomeRow({
  outcome: { id, name, edits, left, makes, fault },
  picture,
}: {
  outcome: RunOutcome;
  picture: TrialPicture | undefined;
}) {
  const asked = left.filter(({ rule }) => rule !== null);
  return (
    <li className="rounded-[5px] border border-[var(--line)] bg-base-100 px-2 py-1.5 text-[12px]">
      <Link href={`/assets/${id}`} className="font-semibold hover:underline">
        {name}
      </Link>
      {fault && <p className="text-error">{fault}</p>}
      {picture?.before && picture.after && (
        <span className="my-1 grid grid-cols-2 gap-1">
          <Look sha256={picture.before} words="as it is" />
          <Look
            sha256={picture.after}
            words={picture.after === picture.before ? 'looks the same' : 'as it would be'}
          />
        </span>
      )}
      {edits.slice(0, SHOWN_EDITS).map(({ text }, i) => (
        <p key={i} className="break-words text-[var(--soft)]">
          {text}
        </p>
      ))}
      {edits.length > SHOWN_EDITS && (
        <p className="text-[var(--soft)]">and {count(edits.length - SHOWN_EDITS)} more</p>
      )}
      {asked.map(({ code, subject, rule }) => (
        <p key={`${code} ${subject} ${rule}`} className="text-[var(--honey-ink)]">
          asks: {code} {subject}
        </p>
      ))}
      {makes > 0 && (
        <p className="text-[var(--soft)]">{plural(makes, 'new image')} to be made on its bench</p>
      )}
    </li>
  );
}

function Look({ sha256, words }: { sha256: string; words: string }) {
  return (
    <figure className="grid overflow-hidden rounded border border-[var(--line-soft)] bg-[var(--sky-mid)]">
      <img src={blobUrl(sha256)} alt={words} className="h-20 w-full object-contain" />
      <figcaption className="bg-base-100 px-1 text-center text-[11px] text-[var(--soft)]">{words}</figcaption>
    </figure>
  );
}

/** The last runs, of whatever kind, with a way back. */
function Runs() {
  const { data: runs = [] } = useRuns();
  const undo = useUndoRun();
  if (runs.length === 0) return null;
  return (
    <section aria-label="Runs">
      <h3 className="mb-1 text-[11.5px] font-semibold text-[var(--soft)]">Runs</h3>
      <ul className="grid gap-1">
        {runs.slice(0, SHOWN_RUNS).map((run) => (
          <li key={run.id} className="flex items-center gap-2 text-[12px]">
            <Link
              href={`/runs?run=${run.id}`}
              className="min-w-0 flex-1 truncate hover:underline"
              title={run.fault?.message ?? run.title}
            >
              {run.title}
            </Link>
            <span className="shrink-0 text-[var(--soft)]">
              {fared(run)}, {when(run.createdAt)}
            </span>
            {!isGoing(run) && run.counts.changed > 0 && !run.undone && (
              <Button disabled={undo.isPending} onClick={() => undo.mutate(run.id)}>
                <Undo2 size={12} /> Undo
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

const SHOWN_RUNS = 12;
