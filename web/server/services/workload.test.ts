import { eq } from 'drizzle-orm';
import { describe, expect, it } from 'vitest';
import { db } from '../db/client.ts';
import { jobs, workers } from '../db/schema.ts';
import { closeAfterwards, send } from '../test/harness.ts';
import { quay } from '../test/quay.ts';
import { requestHandoffs } from './handoffs.ts';
import { workload } from './workload.ts';

closeAfterwards();

const ago = (seconds: number) => new Date(Date.now() - seconds * 1000);

describe('what there is to do', () => {
  it('is told by worker, by kind and by job, with what waits longest and the middle of what it took', async () => {
    const { assets } = await send('Quayside', await quay());
    const [name, id] = Object.entries(assets)[0];
    await db().delete(jobs);
    await db()
      .insert(workers)
      .values([
        { id: 'quay-1', seenAt: new Date() },
        { id: 'quay-2', seenAt: ago(60) },
      ]);
    const [handoff] = await requestHandoffs(id, [{ destination: 'web-gltf', choices: {} }]);
    await db()
      .update(jobs)
      .set({ createdAt: ago(30), runAfter: ago(30) })
      .where(eq(jobs.kind, 'hand-off'));
    const ended = (waited: number, took: number) => ({
      startedAt: ago(100 - waited),
      finishedAt: ago(100 - waited - took),
      createdAt: ago(100),
      runAfter: ago(100),
    });
    const row = (more: Partial<typeof jobs.$inferInsert>) => ({
      kind: 'read-parcel' as const,
      data: { parcelId: id },
      subject: id,
      ...more,
    });
    await db()
      .insert(jobs)
      .values([
        row({ state: 'done', ...ended(1, 10) }),
        row({ state: 'done', ...ended(2, 20) }),
        row({
          state: 'failed',
          ...ended(9, 60),
          fault: { code: 'zip.damaged', message: 'the zip is cut off', hint: '', file: 'a.zip' },
        }),
        // Of another day.
        row({ state: 'done', createdAt: ago(200_000), startedAt: ago(190_000), finishedAt: ago(180_000) }),
        row({ state: 'running', worker: 'quay-1', progress: 0.25, doing: 'unpacking', startedAt: ago(3) }),
      ]);

    const told = await workload();
    expect(told.workers.map((worker) => [worker.id, worker.alive])).toEqual([
      ['quay-1', true],
      ['quay-2', false],
    ]);
    const [handoffs, reading] = told.kinds;
    expect(handoffs).toMatchObject({
      kind: 'hand-off',
      waiting: 1,
      running: 0,
      done: 0,
      failed: 0,
      waited: null,
      took: null,
    });
    expect(Math.abs((handoffs.longest ?? 0) - 30)).toBeLessThan(5);
    expect(reading).toMatchObject({
      kind: 'read-parcel',
      waiting: 0,
      running: 1,
      longest: null,
      done: 2,
      failed: 1,
    });
    // The middle of 1, 2 and 9, and of 10, 20 and 60.
    expect([reading.waited, reading.took].map((seconds) => Math.round(seconds ?? 0))).toEqual([2, 20]);
    expect(told.going.map(({ kind, state, about, worker }) => [kind, state, about, worker])).toEqual([
      ['read-parcel', 'running', name, 'quay-1'],
      ['hand-off', 'queued', name, null],
    ]);
    expect(told.going[1].id).toBe(handoff.id);
    expect(told.failed.map(({ message, about }) => [message, about])).toEqual([['the zip is cut off', name]]);
  });
});
