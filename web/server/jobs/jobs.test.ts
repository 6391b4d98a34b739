import { KinkajouError } from '@kinkajou/core/errors';
import { eq, sql } from 'drizzle-orm';
import { beforeEach, describe, expect, it } from 'vitest';
import { db, pool } from '../db/client.ts';
import { jobs } from '../db/schema.ts';
import { closeAfterwards } from '../test/harness.ts';
import { HANDLERS } from './handlers.ts';
import { cancelJob, enqueue, findJob } from './queue.ts';
import { type JobEnd, type JobHandler, type JobHandlers, JobRunner, MOST_ATTEMPTS } from './runJob.ts';

closeAfterwards();

const ASSET = '00000000-0000-4000-8000-00000000000a';
const ends: JobEnd[] = [];
beforeEach(() => {
  ends.length = 0;
});

/** A runner whose `draw-thumbnail` does what a test wants. */
function runner(work: JobHandler<'draw-thumbnail'>['work']): JobRunner {
  const ended = async (_data: unknown, end: JobEnd) => void ends.push(end);
  return new JobRunner({ ...HANDLERS, 'draw-thumbnail': { work, ended } } as JobHandlers);
}

const add = (options = {}) => enqueue('draw-thumbnail', { assetId: ASSET }, options);
const row = async (id: string) => (await db().select().from(jobs).where(eq(jobs.id, id)))[0];

/** A promise and what fulfils it. */
function gate() {
  let open = () => {};
  const opened = new Promise<void>((resolve) => {
    open = resolve;
  });
  return { open, opened };
}

describe('a job', () => {
  it('is given its data, tells how far it is, and keeps what it made', async () => {
    const id = await add();
    expect(await findJob(id)).toMatchObject({
      kind: 'draw-thumbnail',
      subject: ASSET,
      state: 'queued',
      attempts: 0,
      finishedAt: null,
    });
    const { open, opened } = gate();
    const running = runner(async ({ data, attempt, progress }) => {
      progress(0.25, 'mixing colours');
      await opened;
      return { drawn: data.assetId, attempt };
    }).run(id);
    await expect.poll(async () => (await row(id)).doing).toBe('mixing colours');
    expect(await row(id)).toMatchObject({ state: 'running', progress: 0.25, attempts: 1 });
    expect((await row(id)).leaseUntil?.getTime()).toBeGreaterThan(Date.now());
    open();
    await running;
    expect(await row(id)).toMatchObject({
      state: 'done',
      progress: 1,
      result: { drawn: ASSET, attempt: 1 },
      fault: null,
      worker: null,
      leaseUntil: null,
    });
    expect((await row(id)).finishedAt).not.toBeNull();
    // A message that comes twice does nothing the second time.
    await runner(async () => 'again').run(id);
    expect((await row(id)).result).toEqual({ drawn: ASSET, attempt: 1 });
    expect(ends).toEqual([]);
  });

  it('that fails for a reason of its own says it and is not tried again', async () => {
    const id = await add();
    await runner(async () => {
      throw new KinkajouError(
        'image.broken',
        'it ends after 12 of 40 bytes',
        { file: 'maps/rope.png' },
        'Export it again.',
      );
    }).run(id);
    expect(await row(id)).toMatchObject({
      state: 'failed',
      attempts: 1,
      fault: { code: 'image.broken', file: 'maps/rope.png', hint: 'Export it again.' },
    });
    expect((await row(id)).fault?.message).toContain('it ends after 12 of 40 bytes');
    expect(ends).toEqual([{ state: 'failed', fault: expect.objectContaining({ code: 'image.broken' }) }]);
  });

  it('that fails for no reason of its own is tried again, three times at most', async () => {
    const id = await add();
    const stumbling = runner(async () => {
      throw new Error('connection reset');
    });
    for (let attempt = 1; attempt <= MOST_ATTEMPTS; attempt += 1) {
      expect(ends).toEqual([]);
      await stumbling.run(id);
      expect((await row(id)).attempts).toBe(attempt);
    }
    expect(await row(id)).toMatchObject({ state: 'failed', fault: { code: 'internal' } });
    expect(ends).toHaveLength(1);
  });

  it('is stopped at once while it waits, and when it next tells while it runs', async () => {
    const waiting = await add();
    await cancelJob(waiting);
    expect((await row(waiting)).finishedAt).toBeInstanceOf(Date);
    await runner(async () => 'done').run(waiting);
    expect(await row(waiting)).toMatchObject({ state: 'cancelled', result: null });

    const id = await add();
    const running = runner(async ({ signal, progress }) => {
      while (!signal.aborted) await new Promise((resolve) => setTimeout(resolve, 20));
      progress(0.9, 'too late');
    }).run(id);
    await expect.poll(async () => (await row(id)).state).toBe('running');
    await cancelJob(id);
    // It ends when it looks up.
    expect((await row(id)).finishedAt).toBeNull();
    await running;
    expect(await row(id)).toMatchObject({ state: 'cancelled', fault: null });
    expect(ends).toEqual([{ state: 'cancelled', fault: null }]);
    await expect(cancelJob(ASSET)).rejects.toMatchObject({ code: 'notFound' });
  });

  it('that another worker has taken over ends here without a word', async () => {
    const id = await add();
    const running = runner(async ({ signal, progress }) => {
      while (!signal.aborted) await new Promise((resolve) => setTimeout(resolve, 20));
      progress(1, 'too late');
    }).run(id);
    await expect.poll(async () => (await row(id)).state).toBe('running');
    await db().update(jobs).set({ worker: 'another' }).where(eq(jobs.id, id));
    await running;
    expect(ends).toEqual([]);
    expect(await row(id)).toMatchObject({ state: 'running', worker: 'another', fault: null });
  });

  it('waits once where one is enough, until it is taken', async () => {
    const first = await add({ key: 'buoy', delaySeconds: 60 });
    expect(await add({ key: 'buoy', delaySeconds: 60 })).toBe(first);
    expect(await add({ key: 'fender' })).not.toBe(first);
    expect((await row(first)).runAfter.getTime()).toBeGreaterThan(Date.now() + 50_000);
    await runner(async () => null).run(first);
    expect(await add({ key: 'buoy' })).not.toBe(first);
  });
});

describe('a job whose worker is gone', () => {
  /** As a worker leaves it that was killed. */
  async function killed(attempts: number): Promise<string> {
    const id = await add();
    await db()
      .update(jobs)
      .set({
        state: 'running',
        worker: 'gone',
        attempts,
        leaseUntil: sql`now() - interval '1 second'` as unknown as Date,
      })
      .where(eq(jobs.id, id));
    return id;
  }

  it('goes back to the queue when its lease has lapsed, and not before', async () => {
    const id = await killed(1);
    const alive = await add();
    await db()
      .update(jobs)
      .set({ state: 'running', worker: 'alive', leaseUntil: new Date(Date.now() + 60_000) })
      .where(eq(jobs.id, alive));
    const other = runner(async ({ attempt }) => attempt);
    await other.recover();
    expect(await row(id)).toMatchObject({ state: 'queued', worker: null });
    expect(await row(alive)).toMatchObject({ state: 'running', worker: 'alive' });
    await other.run(id);
    expect(await row(id)).toMatchObject({ state: 'done', result: 2 });
    await db().delete(jobs).where(eq(jobs.id, alive));
  });

  it('is put aside with its reason when that happened three times', async () => {
    const id = await killed(MOST_ATTEMPTS);
    await runner(async () => null).recover();
    expect(await row(id)).toMatchObject({ state: 'failed', fault: { code: 'job.gone' } });
    expect((await row(id)).fault?.message).toContain('3 times');
    expect(ends).toHaveLength(1);
  });

  it('is not ended by the first worker once a second has it', async () => {
    const id = await add();
    const { open, opened } = gate();
    const slow = runner(async () => {
      await opened;
      return 'first';
    });
    const running = slow.run(id);
    await expect.poll(async () => (await row(id)).state).toBe('running');
    await db()
      .update(jobs)
      .set({ leaseUntil: sql`now() - interval '1 second'` as unknown as Date, worker: 'stalled' })
      .where(eq(jobs.id, id));
    const second = runner(async () => 'second');
    await second.recover();
    await second.run(id);
    open();
    await running;
    expect(await row(id)).toMatchObject({ state: 'done', result: 'second' });
  });

  it('is given back at once, and uncounted, by a worker that is asked to stop', async () => {
    const id = await add();
    const polite = runner(async ({ signal, progress }) => {
      while (!signal.aborted) await new Promise((resolve) => setTimeout(resolve, 20));
      progress(0.5, 'half way');
    });
    const running = polite.run(id);
    await expect.poll(async () => (await row(id)).state).toBe('running');
    await polite.stop();
    await running;
    expect(await row(id)).toMatchObject({ state: 'queued', attempts: 0, worker: null });
    expect(ends).toEqual([]);
  });

  it('is carried to the workers again when its message is lost', async () => {
    const id = await add();
    const messages = async () =>
      (
        await pool().query(
          "select 1 from pgboss.job where name = 'draw-thumbnail' and data->>'jobId' = $1 and state = 'created'",
          [id],
        )
      ).rowCount;
    expect(await messages()).toBe(1);
    await pool().query("delete from pgboss.job where data->>'jobId' = $1", [id]);
    await runner(async () => null).recover();
    expect(await messages()).toBe(0);
    await db()
      .update(jobs)
      .set({ runAfter: new Date(Date.now() - 31_000) })
      .where(eq(jobs.id, id));
    await runner(async () => null).recover();
    expect(await messages()).toBe(1);
    await runner(async () => null).recover();
    expect(await messages()).toBe(1);
  });

  it('is carried to the workers again when a worker was killed between taking its message and claiming it', async () => {
    const id = await add();
    const messages = async () =>
      (
        await pool().query(
          "select 1 from pgboss.job where name = 'draw-thumbnail' and data->>'jobId' = $1 and state = 'created'",
          [id],
        )
      ).rowCount;
    const taken = (ago: string) =>
      pool().query(
        "update pgboss.job set state = 'active', started_on = now() - $2::interval where data->>'jobId' = $1",
        [id, ago],
      );
    await db()
      .update(jobs)
      .set({ runAfter: new Date(Date.now() - 31_000) })
      .where(eq(jobs.id, id));
    await taken('5 seconds');
    await runner(async () => null).recover();
    expect(await messages()).toBe(0);
    await taken('40 seconds');
    await runner(async () => null).recover();
    expect(await messages()).toBe(1);
    const again = runner(async () => 'drawn');
    await again.run(id);
    expect(await row(id)).toMatchObject({ state: 'done', result: 'drawn', attempts: 1 });
  });
});
