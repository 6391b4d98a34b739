import { desc, eq, inArray, or, sql } from 'drizzle-orm';
import { db } from '../db/client.ts';
import type { JobState } from '../db/rowTypes.ts';
import { jobs, workers } from '../db/schema.ts';
import type { JobName } from '../jobs/kinds.ts';
import { WORKER_ALIVE_MS } from './health.ts';

/** A job as the list of work shows it. */
export interface ListedJob {
  id: string;
  kind: JobName;
  state: JobState;
  /** Name of the asset or parcel that it is about; empty where it is about neither. */
  about: string;
  doing: string;
  progress: number;
  worker: string | null;
  message: string | null;
  at: string;
}

/** How many jobs of a kind wait, run and failed of late. */
export interface KindLoad {
  kind: JobName;
  waiting: number;
  running: number;
  /** Seconds that the one that waits longest has waited; null where none waits. */
  longest: number | null;
  /**
   * Of those that ended within a day: how many, and the middle of how long they waited and took, in seconds.
   */
  done: number;
  failed: number;
  waited: number | null;
  took: number | null;
}

/** Who works, at what, and what waits. */
export interface Workload {
  workers: { id: string; seenAt: string; alive: boolean }[];
  kinds: KindLoad[];
  /** What runs and what waits, in the order in which it is taken. */
  going: ListedJob[];
  failed: ListedJob[];
}

const MOST_GOING = 100;
const MOST_FAILED = 20;

/** Who works, at what, what waits for how long, and what failed of late. */
export async function workload(): Promise<Workload> {
  const [known, kinds, going, failed] = await Promise.all([
    db().select().from(workers).orderBy(workers.id),
    loads(),
    goingJobs(),
    failedJobs(),
  ]);
  return {
    workers: known.map(({ id, seenAt }) => ({
      id,
      seenAt: seenAt.toISOString(),
      alive: Date.now() - seenAt.getTime() <= WORKER_ALIVE_MS,
    })),
    kinds,
    going,
    failed,
  };
}

async function loads(): Promise<KindLoad[]> {
  const due = sql`greatest(${jobs.createdAt}, ${jobs.runAfter})`;
  const ended = sql`${jobs.startedAt} is not null and ${jobs.finishedAt} is not null`;
  const middle = (seconds: ReturnType<typeof sql>) =>
    sql<
      number | null
    >`percentile_cont(0.5) within group (order by extract(epoch from ${seconds})) filter (where ${ended})`;
  return db()
    .select({
      kind: jobs.kind,
      waiting: sql<number>`count(*) filter (where ${jobs.state} = 'queued')::int`,
      running: sql<number>`count(*) filter (where ${jobs.state} = 'running')::int`,
      longest: sql<
        number | null
      >`(max(greatest(0, extract(epoch from now() - ${due}))) filter (where ${jobs.state} = 'queued'))::float8`,
      done: sql<number>`count(*) filter (where ${jobs.state} = 'done')::int`,
      failed: sql<number>`count(*) filter (where ${jobs.state} = 'failed')::int`,
      waited: middle(sql`greatest(interval '0', ${jobs.startedAt} - ${due})`),
      took: middle(sql`${jobs.finishedAt} - ${jobs.startedAt}`),
    })
    .from(jobs)
    .where(or(inArray(jobs.state, ['queued', 'running']), sql`${jobs.finishedAt} > now() - interval '1 day'`))
    .groupBy(jobs.kind)
    .orderBy(jobs.kind);
}

const LISTED = {
  id: jobs.id,
  kind: jobs.kind,
  state: jobs.state,
  about: sql<string>`coalesce((select name from assets where id::text = ${jobs.subject}), (select name from parcels where id::text = ${jobs.subject}), '')`,
  doing: jobs.doing,
  progress: jobs.progress,
  worker: jobs.worker,
  message: sql<string | null>`${jobs.fault}->>'message'`,
};

async function goingJobs(): Promise<ListedJob[]> {
  const rows = await db()
    .select({ ...LISTED, at: sql<string>`coalesce(${jobs.startedAt}, ${jobs.createdAt})` })
    .from(jobs)
    .where(inArray(jobs.state, ['running', 'queued']))
    .orderBy(desc(jobs.state), jobs.createdAt)
    .limit(MOST_GOING);
  return rows.map(dated);
}

async function failedJobs(): Promise<ListedJob[]> {
  const rows = await db()
    .select({ ...LISTED, at: sql<string>`${jobs.finishedAt}` })
    .from(jobs)
    .where(eq(jobs.state, 'failed'))
    .orderBy(desc(jobs.finishedAt))
    .limit(MOST_FAILED);
  return rows.map(dated);
}

function dated(row: ListedJob): ListedJob {
  return { ...row, at: new Date(row.at).toISOString() };
}
