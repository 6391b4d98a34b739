import { type ChildProcess, spawn } from 'node:child_process';
import { Readable } from 'node:stream';
import { eq } from 'drizzle-orm';
import { afterEach, describe, expect, it } from 'vitest';
import { workerArguments } from '../../scripts/lib/serverBuild.mjs';
import { db, pool } from '../server/db/client.ts';
import { assets, jobs, workers } from '../server/db/schema.ts';
import { enqueue } from '../server/jobs/queue.ts';
import { requestHandoffs } from '../server/services/handoffs.ts';
import { findParcel } from '../server/services/parcelFiles.ts';
import { addParcelFile, closeParcel, createParcel } from '../server/services/parcels.ts';
import { closeAfterwards } from '../server/test/harness.ts';
import { quay } from '../server/test/quay.ts';

closeAfterwards();

const startedBy = await workerArguments();
const started: ChildProcess[] = [];
afterEach(() => {
  for (const child of started.splice(0)) child.kill('SIGKILL');
});

/** A worker as the start command starts it, whose leases are short. */
function start(env: Record<string, string> = {}): ChildProcess {
  const child = spawn(process.execPath, startedBy, {
    stdio: 'ignore',
    env: { ...process.env, KINKAJOU_LEASE_SECONDS: '2', ...env },
  });
  started.push(child);
  return child;
}

const PATIENT = { timeout: 100_000, interval: 20 };
const statesOf = async (kind: 'read-parcel' | 'hand-off') =>
  (await db().select({ state: jobs.state }).from(jobs).where(eq(jobs.kind, kind))).map(({ state }) => state);

async function sendParcel(name: string): Promise<string> {
  const parcel = await createParcel(name);
  for (const [path, content] of Object.entries(await quay()))
    await addParcelFile(parcel, path, null, Readable.from([Buffer.from(content)]));
  await closeParcel(parcel);
  return parcel;
}

describe('a worker', () => {
  it('that is killed in the middle of reading and of a handoff leaves nothing hanging', async () => {
    const parcel = await sendParcel('Quay');
    const first = start();
    await expect.poll(() => statesOf('read-parcel'), PATIENT).toEqual(['running']);
    first.kill('SIGKILL');
    const second = start();
    await expect.poll(async () => (await findParcel(parcel)).state, PATIENT).toBe('ready');
    const rows = await db().select().from(assets).where(eq(assets.parcelId, parcel));
    expect(rows.map(({ name }) => name)).toEqual(['quay']);
    await expect.poll(() => statesOf('read-parcel'), PATIENT).toEqual(['done']);
    expect((await db().select().from(jobs).where(eq(jobs.kind, 'read-parcel')))[0].attempts).toBe(2);

    await requestHandoffs(rows[0].id, [{ destination: 'web-gltf', choices: {} }]);
    await expect.poll(() => statesOf('hand-off'), PATIENT).toEqual(['running']);
    second.kill('SIGKILL');
    start();
    await expect.poll(() => statesOf('hand-off'), PATIENT).toEqual(['done']);
  });

  it('goes on after the database threw it out, and tells of itself again', async () => {
    start();
    await expect.poll(async () => (await db().select().from(workers)).length, PATIENT).toBeGreaterThan(0);
    await pool()
      .query(
        'select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()',
      )
      .catch(() => undefined);
    const parcel = await sendParcel('After');
    await expect.poll(async () => (await findParcel(parcel)).state, PATIENT).toBe('ready');
  });

  it('that is asked to stop gives its job back uncounted', async () => {
    const child = start();
    const ended = new Promise((resolve) => child.once('exit', resolve));
    const parcel = await sendParcel('Polite');
    await expect
      .poll(
        () =>
          db()
            .select()
            .from(jobs)
            .where(eq(jobs.subject, parcel))
            .then(([job]) => job.state),
        PATIENT,
      )
      .toBe('running');
    child.kill('SIGTERM');
    expect(await ended).toBe(0);
    const [job] = await db().select().from(jobs).where(eq(jobs.subject, parcel));
    expect(['queued', 'done']).toContain(job.state);
    if (job.state === 'queued') expect(job.attempts).toBe(0);
    start();
    await expect.poll(async () => (await findParcel(parcel)).state, PATIENT).toBe('ready');
  });

  it('whose job never pauses keeps its lease, and is ended when it has been stuck for too long', async () => {
    const id = await enqueue('draw-thumbnail', { assetId: '00000000-0000-4000-8000-00000000000b' });
    const lapsed = new Date(Date.now() - 60_000);
    await db()
      .update(jobs)
      .set({ state: 'running', worker: 'busy', leaseUntil: lapsed })
      .where(eq(jobs.id, id));
    const data = { databaseUrl: process.env.DATABASE_URL, worker: 'busy', leaseSeconds: 1, stuckSeconds: 3 };
    const busy = `
      const { Worker } = await import('node:worker_threads');
      const ticks = new Int32Array(new SharedArrayBuffer(4));
      new Worker(new URL('${new URL('./heartbeat.mjs', import.meta.url).href}'), { execArgv: [], workerData: { ...${JSON.stringify(data)}, ticks } });
      setTimeout(() => { for (;;); }, 200);`;
    const stuck = spawn(process.execPath, ['--input-type=module', '-e', busy], { stdio: 'ignore' });
    started.push(stuck);
    const leaseOf = async () =>
      (await db().select().from(jobs).where(eq(jobs.id, id)))[0].leaseUntil?.getTime() ?? 0;
    await expect.poll(leaseOf, PATIENT).toBeGreaterThan(Date.now() - 10_000);
    const signal = await new Promise((resolve) => stuck.once('exit', (_code, reason) => resolve(reason)));
    expect(signal).toBe('SIGKILL');
    const last = await leaseOf();
    await new Promise((resolve) => setTimeout(resolve, 1200));
    expect(await leaseOf()).toBe(last);
  });
});
