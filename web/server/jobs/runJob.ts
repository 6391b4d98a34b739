import { randomUUID } from 'node:crypto';
import { KinkajouError, toKinkajouError } from '@kinkajou/core/errors';
import { and, eq, getTableColumns, isNull, lt, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import type { FaultRecord, JobState } from '../db/rowTypes.ts';
import { jobs } from '../db/schema.ts';
import { leaseSeconds } from '../env.ts';
import { publish } from '../events.ts';
import { log } from '../log.ts';
import type { JobData, JobName } from './kinds.ts';
import { type JobRow, sendMessage } from './queue.ts';

/** What the work of a job is given. */
export interface JobRun<N extends JobName> {
  id: string;
  data: JobData[N];
  /** 1 the first time. */
  attempt: number;
  signal: AbortSignal;
  /** Tells the share done, in 0..1, and what is being done. Throws `job.stopped` once the signal says so. */
  progress(share: number, doing: string): void;
}

/** How a kind of job is done, and what follows its end. */
export interface JobHandler<N extends JobName> {
  /**
   * Does the work; what it returns is kept with the job. It may be run again after its worker died in the
   * middle.
   */
  work(run: JobRun<N>): Promise<unknown>;
  /** Brings what the job is about to rest when it did not come to its own end. */
  ended?(data: JobData[N], end: JobEnd): Promise<void>;
}
/** The handler of every kind of job. */
export type JobHandlers = { [N in JobName]: JobHandler<N> };

/** How a job ended that was not done. */
export interface JobEnd {
  state: 'failed' | 'cancelled';
  fault: FaultRecord | null;
}

/** A job that failed so often for no reason of its own is put aside. */
export const MOST_ATTEMPTS = 3;
const TELL_MS = 400;
const STOP_MS = 5000;
type StopReason = 'cancelled' | 'lost' | 'stopping';

interface Running {
  abort: AbortController;
  done: Promise<void>;
}

/** Runs jobs in this process, under a name by which their leases are known. */
export class JobRunner {
  readonly worker = randomUUID();
  private readonly running = new Map<string, Running>();

  constructor(private readonly handlers: JobHandlers) {}

  /** Runs one job to its end, unless it waits no more. Never throws for what the job does. */
  async run(id: string): Promise<void> {
    const job = await this.claim(id);
    if (!job) return;
    const abort = new AbortController();
    const done = this.perform(job, abort);
    this.running.set(id, { abort, done });
    try {
      await done;
    } finally {
      this.running.delete(id);
    }
  }

  /** Gives what still runs back to the queue. */
  async stop(): Promise<void> {
    for (const { abort } of this.running.values()) abort.abort('stopping' satisfies StopReason);
    const all = Promise.allSettled([...this.running.values()].map(({ done }) => done));
    await Promise.race([all, new Promise((resolve) => setTimeout(resolve, STOP_MS))]);
    const left = await db().update(jobs).set(BACK).where(this.mine()).returning();
    for (const job of left) await sendMessage(job);
  }

  /** Takes care of jobs whose worker is gone and of those that no message leads to. */
  async recover(): Promise<void> {
    const lapsed = and(eq(jobs.state, 'running'), lt(jobs.leaseUntil, sql`now()`));
    for (const job of await db().select().from(jobs).where(lapsed)) {
      if (job.attempts >= MOST_ATTEMPTS) {
        const end: JobEnd = { state: 'failed', fault: GONE(job) };
        await this.handlerOf(job).ended?.(job.data as never, end);
        await db()
          .update(jobs)
          .set({ ...end, ...RESTED })
          .where(and(eq(jobs.id, job.id), lapsed));
        await tell(job, 'failed');
        continue;
      }
      const values = {
        state: 'queued' as const,
        worker: null,
        leaseUntil: null,
        doing: 'waiting again, since its worker ended',
      };
      const [back] = await db()
        .update(jobs)
        .set(values)
        .where(and(eq(jobs.id, job.id), lapsed))
        .returning();
      if (back) await sendMessage(back);
    }
    for (const job of await forgotten()) await sendMessage(job);
  }

  private handlerOf({ kind }: Pick<JobRow, 'kind'>): JobHandler<JobName> {
    return this.handlers[kind] as JobHandler<JobName>;
  }

  private mine(id?: string) {
    return and(
      eq(jobs.worker, this.worker),
      eq(jobs.state, 'running'),
      id === undefined ? undefined : eq(jobs.id, id),
    );
  }

  private async claim(id: string): Promise<JobRow | null> {
    const [row] = await db()
      .update(jobs)
      .set({
        state: 'running',
        worker: this.worker,
        attempts: sql`${jobs.attempts} + 1`,
        leaseUntil: leaseEnd(),
        startedAt: new Date(),
        doing: '',
      })
      .where(and(eq(jobs.id, id), eq(jobs.state, 'queued'), isNull(jobs.finishedAt)))
      .returning();
    return row ?? null;
  }

  private async perform(job: JobRow, abort: AbortController): Promise<void> {
    const { id } = job;
    const reported = { progress: 0, doing: '' };
    let news = true;
    const tick = setInterval(
      () => void report().catch((error) => log.warn({ err: error, job: job.kind }, 'progress')),
      TELL_MS,
    );
    const report = async () => {
      const [row] = await db()
        .update(jobs)
        .set({ ...reported, leaseUntil: leaseEnd() })
        .where(this.mine(id))
        .returning({ cancel: jobs.cancelRequested });
      if (!row) abort.abort('lost' satisfies StopReason);
      else if (row.cancel) abort.abort('cancelled' satisfies StopReason);
      if (news) await tell(job, 'running');
      news = false;
    };
    const progress = (share: number, doing: string) => {
      if (abort.signal.aborted)
        throw new KinkajouError('job.stopped', `stopped: ${abort.signal.reason as StopReason}`);
      news ||= doing !== reported.doing || share !== reported.progress;
      Object.assign(reported, { progress: share, doing });
    };
    const started = Date.now();
    try {
      const result = await this.handlerOf(job).work({
        id,
        data: job.data as never,
        attempt: job.attempts,
        signal: abort.signal,
        progress,
      });
      clearInterval(tick);
      await persist(() =>
        this.finish(job, { state: 'done', progress: 1, result: result ?? null, fault: null }),
      );
      log.info({ job: job.kind, ms: Date.now() - started }, 'job done');
    } catch (error) {
      clearInterval(tick);
      await persist(() => this.fail(job, error, abort.signal));
    }
  }

  private async fail(job: JobRow, error: unknown, signal: AbortSignal): Promise<void> {
    const reason = signal.aborted ? (signal.reason as StopReason) : null;
    if (reason === 'lost') return;
    if (reason === 'stopping') {
      const [back] = await db().update(jobs).set(BACK).where(this.mine(job.id)).returning();
      if (back) await sendMessage(back);
      return;
    }
    const again = reason === null && !(error instanceof KinkajouError) && job.attempts < MOST_ATTEMPTS;
    log[reason ? 'info' : 'error']({ err: error, job: job.kind, again }, reason ?? 'job failed');
    if (again) {
      const values = {
        state: 'queued' as const,
        worker: null,
        leaseUntil: null,
        runAfter: new Date(Date.now() + 1000 * 2 ** job.attempts),
      };
      const [back] = await db().update(jobs).set(values).where(this.mine(job.id)).returning();
      if (back) await sendMessage(back);
      return;
    }
    const end: JobEnd =
      reason === 'cancelled'
        ? { state: 'cancelled', fault: null }
        : { state: 'failed', fault: faultOf(error) };
    await this.handlerOf(job).ended?.(job.data as never, end);
    await this.finish(job, end);
  }

  private async finish(
    job: JobRow,
    values: Partial<typeof jobs.$inferInsert> & { state: JobState },
  ): Promise<void> {
    const [row] = await db()
      .update(jobs)
      .set({ ...values, ...RESTED })
      .where(this.mine(job.id))
      .returning();
    if (row) await tell(job, row.state);
  }
}

/** Back in the queue as if it had never been taken. */
const BACK = {
  state: 'queued' as const,
  worker: null,
  leaseUntil: null,
  doing: 'waiting for a worker',
  attempts: sql`${jobs.attempts} - 1`,
};
const RESTED = { worker: null, leaseUntil: null, doing: '', finishedAt: sql`now()` as unknown as Date };

const GONE = ({ kind, attempts }: JobRow): FaultRecord => ({
  code: 'job.gone',
  message: `Its worker ended ${attempts} times while doing it (${kind}), so it was put aside.`,
  hint: 'Try it with a smaller or another file, or give the worker more memory.',
  file: '',
});

/** An error as it is kept with a job: code, words, hint and file. */
export function faultOf(error: unknown, file = ''): FaultRecord {
  const typed = toKinkajouError(error, 'internal', { file });
  return { code: typed.code, message: typed.toText(), hint: typed.hint, file: typed.place.file ?? file };
}

function leaseEnd(): Date {
  return sql`now() + make_interval(secs => ${leaseSeconds()})` as unknown as Date;
}

function tell({ kind, subject }: JobRow, state: JobState): Promise<void> {
  return publish({ topic: 'job', kind, id: subject, state });
}

/** What must be written is tried again while the database is away. */
async function persist(write: () => Promise<void>): Promise<void> {
  for (let tries = 1; ; tries += 1) {
    try {
      await write();
      return;
    } catch (error) {
      if (tries >= 10) {
        log.error({ err: error }, 'a job could not be put to rest; its lease will lapse');
        return;
      }
      await new Promise((resolve) => setTimeout(resolve, 500 * tries));
    }
  }
}

/**
 * Queued jobs whose time came half a minute ago and that no message of the queue leads to. One that a worker
 * took so long ago leads nowhere: whoever takes a message claims its job at once, unless it was killed in
 * between.
 */
async function forgotten(): Promise<JobRow[]> {
  const leads = sql`(m.state in ('created', 'retry') or (m.state = 'active' and m.started_on > now() - interval '30 seconds'))`;
  const message = sql`select 1 from pgboss.job m where m.name = ${jobs.kind} and m.data->>'jobId' = ${jobs.id}::text and ${leads}`;
  return db()
    .select(getTableColumns(jobs))
    .from(jobs)
    .where(
      and(
        eq(jobs.state, 'queued'),
        lt(jobs.runAfter, sql`now() - interval '30 seconds'`),
        sql`not exists (${message})`,
      ),
    );
}
