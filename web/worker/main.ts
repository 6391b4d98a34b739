import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import { db, pool } from '../server/db/client.ts';
import { workers } from '../server/db/schema.ts';
import { log } from '../server/log.ts';
import { type JobData, type JobName, queue } from '../server/queue.ts';
import { redrawThumbnail } from '../server/services/assets.ts';
import { convertImage } from '../server/services/conversions.ts';
import { readDelivery } from '../server/services/deliveries.ts';
import { lookAtImages } from '../server/services/facts.ts';
import { runHandoff } from '../server/services/handoffJob.ts';
import { runMaking } from '../server/services/makings.ts';
import { readParcel } from '../server/services/parcels.ts';
import { indexRoot } from '../server/services/searchRoots.ts';
import { startWatching } from '../server/services/watches.ts';

const BEAT_MS = 4000;
const POLL_SECONDS = 0.5;

/** Takes jobs from the queue until told to stop. Start more of these against one database to do more at a time. */
const id = randomUUID();
const boss = await queue();
await beat();
const timer = setInterval(() => void beat().catch((error) => log.warn({ err: error }, 'heartbeat')), BEAT_MS);

await take('read-parcel', ({ parcelId }) => readParcel(parcelId));
await take('hand-off', ({ handoffId }) => runHandoff(handoffId));
await take('look-at-images', ({ parcelId }) => lookAtImages(parcelId));
await take('read-delivery', ({ parcelId, assetId }) => readDelivery(parcelId, assetId));
await take('index-root', ({ rootId }) => indexRoot(rootId));
await take('convert-image', ({ conversionId }) => convertImage(conversionId));
await take('make-maps', ({ makingId }) => runMaking(makingId));
await take('draw-thumbnail', ({ assetId }) => redrawThumbnail(assetId));
const watching = startWatching();
log.info({ worker: id }, 'worker ready');

for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => void stop());
process.on('unhandledRejection', (error) => log.error({ err: error }, 'unhandled'));

async function take<N extends JobName>(name: N, work: (data: JobData[N]) => Promise<void>): Promise<void> {
  await boss.work<JobData[N]>(name, { batchSize: 1, pollingIntervalSeconds: POLL_SECONDS }, async ([job]) => {
    const started = Date.now();
    try {
      await work(job.data);
      log.info({ job: name, ms: Date.now() - started }, 'job done');
    } catch (error) {
      log.error({ err: error, job: name }, 'job failed');
      throw error;
    }
  });
}

async function beat(): Promise<void> {
  const row = { seenAt: new Date() };
  await db()
    .insert(workers)
    .values({ id, ...row })
    .onConflictDoUpdate({ target: workers.id, set: row });
}

async function stop(): Promise<void> {
  clearInterval(timer);
  await watching.stop();
  await boss.stop({ graceful: true, timeout: 5000 });
  await db().delete(workers).where(eq(workers.id, id));
  await pool().end();
  process.exit(0);
}
