'use client';

import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Square } from 'lucide-react';
import type { ReactNode } from 'react';
import { toast } from 'sonner';
import type { ListedJob, Workload } from '@/server/services/workload';
import { AppStrip } from '@/ui/AppStrip';
import { api } from '@/ui/api';
import { Bar } from '@/ui/Bar';
import { Button } from '@/ui/Button';
import { count, plural, when } from '@/ui/format';
import { Mark } from '@/ui/Mark';
import { JOB_WORDS, lasting } from './jobWords.ts';

const KEY = ['work'];
/** The page asks again this often; what workers tell of each step would be far more. */
const ASK_MS = 2000;

/** Who works, at what, how long things wait, and what failed of late. */
export function WorkersView() {
  const { data, error } = useQuery({
    queryKey: KEY,
    queryFn: () => api<Workload>('/api/work'),
    refetchInterval: ASK_MS,
  });
  const alive = data?.workers.filter((worker) => worker.alive).length ?? 0;
  const waiting = data?.kinds.reduce((sum, kind) => sum + kind.waiting, 0) ?? 0;
  return (
    <div className="flex h-full flex-col">
      <AppStrip />
      <Bar>
        <h1 className="text-[14px] font-bold">Workers</h1>
        <span className="text-[var(--soft)]">
          {data && `${plural(alive, 'worker')} at work, ${plural(waiting, 'job')} waiting`}
        </span>
      </Bar>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it is scrolled by keys */}
      <main className="min-h-0 flex-1 overflow-auto bg-base-200" tabIndex={0}>
        <div className="mx-auto grid max-w-5xl gap-5 p-6">
          {error && <p className="text-center text-error">{error.message}</p>}
          {data && (
            <>
              <WorkerList work={data} />
              <KindTable work={data} />
              <GoingList jobs={data.going} />
              <FailedList jobs={data.failed} />
            </>
          )}
        </div>
      </main>
    </div>
  );
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="rounded-md border border-[var(--line)] bg-base-100 p-4" aria-label={title}>
      <h2 className="mb-2 text-[14px] font-bold">{title}</h2>
      {children}
    </section>
  );
}

function WorkerList({ work: { workers, going } }: { work: Workload }) {
  return (
    <Section title="Workers">
      <ul className="grid gap-1 text-[12.5px]">
        {workers.map(({ id, alive, seenAt }) => {
          const own = going.filter((job) => job.state === 'running' && job.worker === id);
          return (
            <li
              key={id}
              className="grid items-center gap-2"
              style={{ gridTemplateColumns: '16px minmax(0, 220px) minmax(0, 1fr)' }}
            >
              <Mark kind={alive ? 'fine' : 'broken'} />
              <b className="truncate font-mono text-[11.8px]" title={id}>
                {id}
              </b>
              <span className="truncate">
                {!alive && <span className="text-error">not seen since {when(seenAt)}</span>}
                {alive && own.length === 0 && <span className="text-[var(--soft)]">idle</span>}
                {alive &&
                  own
                    .map(
                      (job) =>
                        `${JOB_WORDS[job.kind]}${job.about ? `: ${job.about}` : ''}, ${Math.round(job.progress * 100)}%`,
                    )
                    .join('; ')}
              </span>
            </li>
          );
        })}
        {workers.length === 0 && (
          <li className="text-error">
            No worker has started: nothing is read and nothing handed off until one does.
          </li>
        )}
      </ul>
      <p className="mt-2 text-[12px] text-[var(--soft)]">
        More of them share the work: <code className="font-mono">npm run worker</code> with this database and
        these contents.
      </p>
    </Section>
  );
}

const HEADS = ['', 'waiting', 'longest', 'running', 'done', 'failed', 'waited', 'took'];

function KindTable({ work: { kinds } }: { work: Workload }) {
  return (
    <Section title="By kind">
      <table className="w-full text-[12.5px]">
        <thead>
          <tr className="text-left text-[11.5px] text-[var(--soft)]">
            {HEADS.map((head) => (
              <th key={head} className={`pb-1 font-semibold ${head === '' ? '' : 'text-right'}`} scope="col">
                {head || <span className="sr-only">kind</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {kinds.map(({ kind, waiting, longest, running, done, failed, waited, took }) => (
            <tr key={kind} className="border-t border-[var(--line-soft)]" data-kind={kind}>
              <th scope="row" className="py-1 text-left font-semibold">
                {JOB_WORDS[kind]}
              </th>
              {[
                count(waiting),
                lasting(longest),
                count(running),
                count(done),
                count(failed),
                lasting(waited),
                lasting(took),
              ].map((text, i) => (
                <td key={HEADS[i + 1]} className="py-1 text-right font-mono text-[11.8px]">
                  {text}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-[12px] text-[var(--soft)]">
        Done, failed, and the middle of how long they waited and took, within a day.
      </p>
    </Section>
  );
}

function GoingList({ jobs }: { jobs: ListedJob[] }) {
  const client = useQueryClient();
  const stop = useMutation({
    mutationFn: (id: string) => api(`/api/jobs/${id}/cancel`, { method: 'POST' }),
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
    onError: (error) => toast.error(error.message),
  });
  return (
    <Section title="At work and waiting">
      <ul className="grid gap-1 text-[12.5px]">
        {jobs.map(({ id, kind, about, state, doing, progress, at }) => (
          <li
            key={id}
            className="grid items-center gap-2"
            style={{ gridTemplateColumns: '180px minmax(0, 1fr) minmax(0, 1fr) 110px 26px' }}
          >
            <span className="truncate">{JOB_WORDS[kind]}</span>
            <b className="truncate" title={about}>
              {about}
            </b>
            <span className="truncate text-[var(--soft)]">
              {state === 'running' ? `${doing}, ${Math.round(progress * 100)}%` : doing}
            </span>
            <span className="truncate text-right text-[var(--soft)]">{when(at)}</span>
            <Button
              aria-label={`Stop ${JOB_WORDS[kind]} ${about}`}
              title="Stop"
              onClick={() => stop.mutate(id)}
            >
              <Square size={11} />
            </Button>
          </li>
        ))}
        {jobs.length === 0 && <li className="text-[var(--soft)]">Nothing is to be done.</li>}
      </ul>
    </Section>
  );
}

function FailedList({ jobs }: { jobs: ListedJob[] }) {
  if (jobs.length === 0) return null;
  return (
    <Section title="Failed of late">
      <ul className="grid gap-1 text-[12.5px]">
        {jobs.map(({ id, kind, about, message, at }) => (
          <li
            key={id}
            className="grid gap-2"
            style={{ gridTemplateColumns: '180px minmax(0, 200px) minmax(0, 1fr) 110px' }}
          >
            <span className="truncate">{JOB_WORDS[kind]}</span>
            <b className="truncate" title={about}>
              {about}
            </b>
            <span>{message}</span>
            <span className="truncate text-right text-[var(--soft)]">{when(at)}</span>
          </li>
        ))}
      </ul>
    </Section>
  );
}
