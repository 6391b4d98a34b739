import { Worker } from 'node:worker_threads';
import { installGuard } from '@kinkajou/core/guard/guard';
import { ThreadGuard } from '@kinkajou/core/guard/threads';
import { limitsFromEnvironment } from '@kinkajou/core/parcel/limits';
import { eq } from 'drizzle-orm';
import { db, pool } from '../server/db/client.ts';
import { workers } from '../server/db/schema.ts';
import { databaseUrl, leaseSeconds, stuckSeconds } from '../server/env.ts';
import { subscribe } from '../server/events.ts';
import { HANDLERS } from '../server/jobs/handlers.ts';
import { JOB_NAMES, type JobName } from '../server/jobs/kinds.ts';
import { queue } from '../server/jobs/queue.ts';
import { JobRunner } from '../server/jobs/runJob.ts';
import { log } from '../server/log.ts';
import { tallyOldAssets } from '../server/services/shelf.ts';
import { startWatching } from '../server/services/watches.ts';

/**
 * How often the queue is asked when no notification came, and how often jobs of dead workers are looked for.
 */
const POLL_SECONDS = 2;
const RECOVER_MS = Math.min(5000, leaseSeconds() * 500);
const TICK_MS = 1000;

installGuard(
  new ThreadGuard(new URL('../../core/src/guard/thread.mjs', import.meta.url), limitsFromEnvironment()),
);

/**
 * Takes jobs from the queue until told to stop. Start more of these against one database to do more at a
 * time.
 */
const runner = new JobRunner(HANDLERS);
const ticks = new Int32Array(new SharedArrayBuffer(4));
const counting = setInterval(() => Atomics.add(ticks, 0, 1), TICK_MS);
const heartbeat = new Worker(new URL('./heartbeat.mjs', import.meta.url), {
  workerData: {
    databaseUrl: databaseUrl(),
    worker: runner.worker,
    ticks,
    leaseSeconds: leaseSeconds(),
    stuckSeconds: stuckSeconds(),
  },
  // Nothing of the loader of this process is needed there.
  execArgv: [],
});
heartbeat.on('error', (error) => {
  log.error({ err: error }, 'heartbeat');
  process.exit(1);
});

const boss = await queue();
const takers = new Map<JobName, string>();
const unsubscribe = subscribe((event) => {
  const taker = event.topic === 'job' && event.state === 'queued' ? takers.get(event.kind) : undefined;
  if (taker) boss.notifyWorker(taker);
});
const watching = startWatching();
const recovering = setInterval(() => void recover(), RECOVER_MS);
for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => void stop());
process.on('unhandledRejection', (error) => log.error({ err: error }, 'unhandled'));

await recover();
for (const name of JOB_NAMES) {
  const taker = await boss.work<{ jobId: string }>(
    name,
    { batchSize: 1, pollingIntervalSeconds: POLL_SECONDS },
    ([{ data }]) => runner.run(data.jobId),
  );
  takers.set(name, taker);
}
log.info({ worker: runner.worker }, 'worker ready');
tallyOldAssets()
  .then((assets) => assets > 0 && log.info({ assets }, 'tallied assets of before'))
  .catch((error) => log.warn({ err: error }, 'tallying assets of before'));

async function recover(): Promise<void> {
  await runner.recover().catch((error) => log.warn({ err: error }, 'looking for lapsed jobs'));
}

async function stop(): Promise<void> {
  clearInterval(recovering);
  clearInterval(counting);
  unsubscribe();
  await watching.stop();
  await Promise.all([...takers.values()].map((taker) => boss.offWork({ id: taker })));
  await runner.stop().catch((error) => log.warn({ err: error }, 'giving jobs back'));
  await heartbeat.terminate();
  await boss.stop({ graceful: false }).catch(() => undefined);
  await db()
    .delete(workers)
    .where(eq(workers.id, runner.worker))
    .catch(() => undefined);
  await pool().end();
  process.exit(0);
}
