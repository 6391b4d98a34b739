import { type ChildProcess, spawn } from 'node:child_process';
import { Readable } from 'node:stream';
import { smallParcel } from '@kinkajou/core/test/harbour';
import { stormLantern } from '@kinkajou/demo/stormLantern';
import { inArray, sql } from 'drizzle-orm';
import { workerArguments } from '../../scripts/lib/serverBuild.mjs';
import { db, pool } from '../server/db/client.ts';
import { assets, jobs, workers } from '../server/db/schema.ts';
import { queue } from '../server/jobs/queue.ts';
import { requestHandoffs } from '../server/services/handoffs.ts';
import { addParcelFile, closeParcel, createParcel } from '../server/services/parcels.ts';

/** Parcels that are sent to each number of workers. */
const PARCELS = 16;
const STARTED_BY = await workerArguments();
const { files } = await smallParcel(stormLantern, 256);

let alone = 0;
for (const count of [1, 2, 4]) {
  const seconds = await measure(count);
  if (count === 1) alone = seconds;
  const pace = ((2 * PARCELS) / seconds).toFixed(2);
  console.log(
    `${count === 1 ? 'one worker' : `${count} workers`}: ${PARCELS} lanterns read and handed off in ${seconds.toFixed(1)} s, ${pace} jobs a second, ${(alone / seconds).toFixed(2)} times one worker`,
  );
}
await (await queue()).stop({ graceful: false });
await pool().end();

/** From the first parcel sent until the last package is made, with workers that are ready before. */
async function measure(count: number): Promise<number> {
  await db().delete(workers);
  const children = Array.from({ length: count }, () =>
    spawn(process.execPath, STARTED_BY, { stdio: 'ignore', env: process.env }),
  );
  try {
    await until(children, async () => (await db().select().from(workers)).length === count);
    const start = performance.now();
    const parcels = await Promise.all(
      Array.from({ length: PARCELS }, (_, i) => sent(`Lantern ${count}-${i}`)),
    );
    await until(children, allDone);
    const rows = await db().select({ id: assets.id }).from(assets).where(inArray(assets.parcelId, parcels));
    if (rows.length !== PARCELS) throw new Error(`${rows.length} of ${PARCELS} parcels became assets`);
    for (const { id } of rows) await requestHandoffs(id, [{ destination: 'web-gltf', choices: {} }]);
    await until(children, allDone);
    const failed = await db().select().from(jobs).where(sql`${jobs.state} = 'failed'`);
    if (failed.length > 0)
      throw new Error(`${failed.length} jobs failed, the first: ${failed[0].fault?.message}`);
    return (performance.now() - start) / 1000;
  } finally {
    for (const child of children) child.kill('SIGKILL');
  }
}

async function sent(name: string): Promise<string> {
  const parcel = await createParcel(name);
  for (const [path, bytes] of Object.entries(files))
    await addParcelFile(parcel, path, null, Readable.from([Buffer.from(bytes)]));
  await closeParcel(parcel);
  return parcel;
}

async function allDone(): Promise<boolean> {
  const left = await db()
    .select({ id: jobs.id })
    .from(jobs)
    .where(sql`${jobs.state} in ('queued', 'running')`)
    .limit(1);
  return left.length === 0;
}

async function until(children: readonly ChildProcess[], isSo: () => Promise<boolean>): Promise<void> {
  while (!(await isSo())) {
    if (children.some(({ exitCode }) => exitCode !== null)) throw new Error('a worker ended');
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}
