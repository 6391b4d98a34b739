import { and, eq, getTableColumns, sql } from 'drizzle-orm';
import PgBoss from 'pg-boss';
import { db, type Transaction } from '../db/client.ts';
import { jobs } from '../db/schema.ts';
import { databaseUrl } from '../env.ts';
import { publish } from '../events.ts';
import { log } from '../log.ts';
import { notFound } from '../respond.ts';
import { JOB_NAMES, type JobData, type JobName, subjectOf } from './kinds.ts';

/**
 * The table `jobs` holds what each job is, how far it is and how it ended. The queue of pg-boss, in the same
 * database, only carries their ids to workers: a message that is lost is sent again, one that comes twice
 * does nothing the second time.
 */
export type JobRow = typeof jobs.$inferSelect;

/** What a row of a job's result shows of its job. */
export const JOB_FIELDS = {
  state: jobs.state,
  progress: jobs.progress,
  doing: jobs.doing,
  fault: jobs.fault,
  finishedAt: jobs.finishedAt,
};

const holder = globalThis as unknown as { kinkajouQueue?: Promise<PgBoss> };
const MESSAGE_HOURS = 23;

/** The queue in PostgreSQL, started once per process. */
export function queue(): Promise<PgBoss> {
  holder.kinkajouQueue ??= startQueue().catch((error) => {
    holder.kinkajouQueue = undefined;
    throw error;
  });
  return holder.kinkajouQueue;
}

async function startQueue(): Promise<PgBoss> {
  const boss = new PgBoss({ connectionString: databaseUrl(), max: 4 });
  boss.on('error', (error) => log.warn({ err: error }, 'queue'));
  await boss.start();
  for (const name of JOB_NAMES) await boss.createQueue(name);
  return boss;
}

/** When a job is due, and which others it stands for. */
export interface EnqueueOptions {
  /** Of several jobs with the same key that wait, one is enough. */
  key?: string;
  delaySeconds?: number;
  /** Adds what belongs to the job, in the same transaction. */
  with?(tx: Transaction, id: string): Promise<unknown>;
}

/** Adds a job and returns its id, or that of the waiting one with the same key. */
export async function enqueue<N extends JobName>(
  kind: N,
  data: JobData[N],
  options: EnqueueOptions = {},
): Promise<string> {
  const { key, delaySeconds = 0 } = options;
  const runAfter = new Date(Date.now() + delaySeconds * 1000);
  const values = { kind, data, subject: subjectOf(kind, data), key: key ?? null, runAfter };
  const row = await db().transaction(async (tx) => {
    const [added] = await tx.insert(jobs).values(values).onConflictDoNothing().returning();
    if (added) await options.with?.(tx, added.id);
    return added;
  });
  if (row) {
    await sendMessage(row);
    return row.id;
  }
  const waiting = and(eq(jobs.kind, kind), eq(jobs.key, key ?? ''), eq(jobs.state, 'queued'));
  const [same] = await db().select({ id: jobs.id }).from(jobs).where(waiting);
  // It was taken in between, so that what is asked for now may come too late for it.
  return same?.id ?? enqueue(kind, data, options);
}

/** Carries a queued job to the workers. */
export async function sendMessage({
  id,
  kind,
  runAfter,
  subject,
}: Pick<JobRow, 'id' | 'kind' | 'runAfter' | 'subject'>): Promise<void> {
  const startAfter = runAfter.getTime() > Date.now() ? runAfter : undefined;
  await (await queue()).send(
    kind,
    { jobId: id },
    { retryLimit: 0, expireInHours: MESSAGE_HOURS, startAfter },
  );
  await publish({ topic: 'job', kind, id: subject, state: 'queued' });
}

/** Stops a job: at once while it waits, as soon as it looks up while it runs. */
export async function cancelJob(id: string): Promise<void> {
  const [row] = await db()
    .update(jobs)
    .set({
      cancelRequested: true,
      state: sql`case when ${jobs.state} = 'queued' then 'cancelled' else ${jobs.state} end`,
      finishedAt: sql`case when ${jobs.state} = 'queued' then now() else ${jobs.finishedAt} end`,
    })
    .where(eq(jobs.id, id))
    .returning();
  if (!row) throw notFound('job');
  await publish({ topic: 'job', kind: row.kind, id: row.subject, state: row.state });
}

/** A job by its id, without its data; throws `notFound`. */
export async function findJob(id: string): Promise<Omit<JobRow, 'data' | 'key'>> {
  const { data: _data, key: _key, ...columns } = getTableColumns(jobs);
  const [row] = await db().select(columns).from(jobs).where(eq(jobs.id, id));
  if (!row) throw notFound('job');
  return row;
}
