'use client';

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { CircleCheck } from 'lucide-react';
import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import type { QuestionGroup } from '@/server/services/questions';
import type { RunResult } from '@/server/services/runs';
import { AppStrip } from '@/ui/AppStrip';
import { api, blobUrl, pictureUrl } from '@/ui/api';
import { Bar } from '@/ui/Bar';
import { Button } from '@/ui/Button';
import { Chip } from '@/ui/Chip';
import { useCommands } from '@/ui/commands/useCommands';
import { count, plural } from '@/ui/format';
import { followJob } from '@/ui/jobs';
import { Link } from '@/ui/Link';
import { ListButton } from '@/ui/ListButton';
import { Mark, markOfSeverity } from '@/ui/Mark';
import { useUndoRun } from '../runs/useRuns.ts';
import { useSelected } from '../shelf/selected.ts';
import { overAssets, settles } from './questionGroups.ts';
import { questionTitle } from './questions.ts';

const KEY = ['questions'];
/** Assets that are shown with their pictures. */
const SHOWN = 12;

/**
 * What is asked over the whole shelf, or what is selected on it: alike doubts as one, answered by one key.
 */
export function QuestionsView() {
  const { data, error, isSuccess } = useQuery({
    queryKey: KEY,
    queryFn: async () => (await api<{ questions: QuestionGroup[] }>('/api/questions')).questions,
  });
  const selected = useSelected(({ ids }) => ids);
  const [within, setWithin] = useState(false);
  const [later, setLater] = useState<ReadonlySet<string>>(new Set());
  const [chosen, setChosen] = useState('');
  const all = useMemo(
    () => overAssets(data ?? [], within && selected.size > 0 ? selected : null),
    [data, within, selected],
  );
  const open = all.filter(({ kind }) => !later.has(kind));
  const index = Math.max(
    0,
    open.findIndex(({ kind }) => kind === chosen),
  );
  const group = open[index];
  const answer = useAnswer();
  const go = (by: number) => setChosen(open[Math.min(open.length - 1, Math.max(0, index + by))]?.kind ?? '');
  const putOff = () => {
    if (!group) return;
    setChosen(open[index + 1]?.kind ?? open[index - 1]?.kind ?? '');
    setLater(new Set([...later, group.kind]));
  };
  useCommands({
    move: (event) => {
      const by = { ArrowDown: 1, ArrowUp: -1 }[event?.key ?? ''];
      if (by === undefined) return false;
      go(by);
    },
    answer: (event) => {
      const choice = Number(event?.key) - 1;
      if (!group?.choices[choice] || answer.isPending) return false;
      answer.mutate({ group, choice });
    },
    notNow: putOff,
  });
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <Bar>
        <h1 className="text-[14px] font-bold">Questions</h1>
        <span className="text-[var(--soft)]">
          {isSuccess &&
            `${plural(open.length, 'question')}, ${plural(
              open.reduce((sum, { members }) => sum + members.length, 0),
              'doubt',
            )}`}
        </span>
        {selected.size > 0 && (
          <Chip aria-pressed={within} onClick={() => setWithin(!within)}>
            of the {count(selected.size)} selected alone
          </Chip>
        )}
        {later.size > 0 && <Chip onClick={() => setLater(new Set())}>show {count(later.size)} put off</Chip>}
        <span className="flex-1" />
        <span className="text-[11.8px] text-[var(--soft)]">
          <kbd className="kbd kbd-xs font-mono">↑</kbd> <kbd className="kbd kbd-xs font-mono">↓</kbd> other
          questions, <kbd className="kbd kbd-xs font-mono">1</kbd> to{' '}
          <kbd className="kbd kbd-xs font-mono">9</kbd> answer, <kbd className="kbd kbd-xs font-mono">N</kbd>{' '}
          not now
        </span>
      </Bar>
      {error && <p className="p-8 text-center text-error">{error.message}</p>}
      {isSuccess && open.length === 0 && (
        <div className="grid justify-items-center gap-2 py-20 text-center">
          <CircleCheck size={30} className="text-success" />
          <p className="text-[15px] font-semibold">
            {later.size > 0 ? 'Nothing else is asked' : 'Nothing is asked'}
          </p>
          <p className="text-[var(--soft)]">
            What needs a person's choice comes here, alike doubts of all assets as one.
          </p>
        </div>
      )}
      {group && (
        <div className="grid min-h-0 flex-1" style={{ gridTemplateColumns: '330px minmax(0, 1fr)' }}>
          <nav
            className="overflow-auto border-r border-[var(--line)] bg-base-200 py-2"
            aria-label="All that is asked"
          >
            <ul className="grid gap-1">
              {open.map((one) => (
                <li key={one.kind}>
                  <ListButton
                    current={one === group}
                    className="flex items-start gap-2 text-[12.5px]"
                    onClick={() => setChosen(one.kind)}
                  >
                    <Mark kind={markOfSeverity(one.severity)} />
                    <span className="min-w-0 flex-1">
                      <span className="block truncate">{questionTitle(one)}</span>
                      <span className="block truncate text-[11.5px] font-normal text-[var(--soft)]">
                        {one.message}
                      </span>
                    </span>
                    <span className="font-mono text-[11.5px]">{count(one.members.length)}</span>
                  </ListButton>
                </li>
              ))}
            </ul>
          </nav>
          <OneQuestion
            key={group.kind}
            group={group}
            busy={answer.isPending}
            answer={(choice) => answer.mutate({ group, choice })}
            putOff={putOff}
          />
        </div>
      )}
    </div>
  );
}

/** Answers all members of a group; the notice takes the run back. */
function useAnswer() {
  const client = useQueryClient();
  const undo = useUndoRun();
  return useMutation({
    mutationFn: async ({ group, choice }: { group: QuestionGroup; choice: number }) => {
      const { label } = group.choices[choice];
      const answers = group.members.map(({ asset, finding, choices }) => ({
        asset,
        finding,
        choice: choices[choice],
      }));
      const title = `${group.title}: ${label}`.slice(0, 200);
      const { job } = await api<{ job: string }>('/api/questions', {
        method: 'POST',
        body: { title, answers },
      });
      return { job, result: await followJob<RunResult>(job, title), label };
    },
    onSuccess: ({ job, result, label }) => {
      void client.invalidateQueries({ queryKey: KEY });
      void client.invalidateQueries({ queryKey: ['runs'] });
      const settled = result?.outcomes.filter(({ edits }) => edits.length > 0).length ?? 0;
      if (settled === 0) {
        toast.error('What is asked has changed meanwhile, and nothing was answered. Look at it again.');
        return;
      }
      toast(`${label}, in ${plural(settled, 'asset')}`, {
        action: { label: 'Undo', onClick: () => undo.mutate(job) },
        duration: 12_000,
      });
    },
    onError: (error) => toast.error(error.message),
  });
}

interface OneQuestionProps {
  group: QuestionGroup;
  busy: boolean;
  answer(choice: number): void;
  putOff(): void;
}

function OneQuestion({ group, busy, answer, putOff }: OneQuestionProps) {
  const { title, message, evidence, choices, members, step } = group;
  return (
    <section className="overflow-auto p-4" aria-label={title}>
      <h2 className="text-[16px] font-bold">{questionTitle(group)}</h2>
      <p className="mt-0.5 text-[12.8px]">{message}</p>
      <ul className="mt-1.5 text-[12px] text-[var(--soft)]">
        {evidence.slice(0, 6).map((line) => (
          <li key={line} className="break-words">
            {line}
          </li>
        ))}
      </ul>
      <ol className="mt-3 grid gap-2" aria-label="Answers">
        {choices.map(({ id, label, reason, path, pictures }, i) => (
          <li
            key={id}
            className="flex items-center gap-3 rounded-[5px] border border-[var(--line)] bg-base-100 p-2.5"
          >
            <kbd className="kbd kbd-sm font-mono">{i < 9 ? i + 1 : ''}</kbd>
            {pictures.slice(0, 4).map((sha256) => (
              <img
                key={sha256}
                src={pictureUrl(sha256, 128)}
                alt=""
                className="h-14 w-14 rounded-[3px] border border-[var(--line)] object-cover"
              />
            ))}
            <span className="min-w-0 flex-1">
              <b className="block truncate text-[13px]">{label}</b>
              <span className="block truncate text-[11.8px] text-[var(--soft)]" title={path}>
                {[path === label ? '' : path, reason].filter(Boolean).join(', ')}
              </span>
            </span>
            <span className="shrink-0 text-[11.8px] text-[var(--soft)]">{settles(group)}</span>
            <Button main={i === 0} disabled={busy} onClick={() => answer(i)}>
              Answer
            </Button>
          </li>
        ))}
      </ol>
      <div className="mt-2">
        <Button onClick={putOff}>Not now</Button>
      </div>
      <h3 className="mt-4 mb-1.5 text-[12px] font-semibold text-[var(--soft)]">
        {plural(members.length, 'doubt')} of this kind
      </h3>
      <ul className="grid gap-2" style={{ gridTemplateColumns: 'repeat(auto-fill, minmax(130px, 1fr))' }}>
        {members.slice(0, SHOWN).map(({ asset, name, thumbnail, finding }) => (
          <li
            key={`${asset} ${finding}`}
            className="overflow-hidden rounded-[5px] border border-[var(--line)] bg-base-100 text-[12px]"
          >
            <Link href={`/assets/${asset}/${step}`} className="block hover:underline">
              {thumbnail ? (
                <img
                  src={blobUrl(thumbnail)}
                  alt=""
                  className="h-24 w-full object-contain"
                  style={{ background: 'var(--sky-low)' }}
                />
              ) : (
                <span className="grid h-24 place-items-center text-[11px] text-[var(--soft)]">
                  no picture
                </span>
              )}
              <span className="block truncate px-2 py-1 font-semibold">{name}</span>
            </Link>
          </li>
        ))}
      </ul>
      {members.length > SHOWN && (
        <p className="mt-1.5 text-[12px] text-[var(--soft)]">and {count(members.length - SHOWN)} more</p>
      )}
    </section>
  );
}
