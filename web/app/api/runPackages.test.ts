import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buffer } from 'node:stream/consumers';
import { eq } from 'drizzle-orm';
import { unzipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { db } from '@/server/db/client';
import { handoffs, jobs } from '@/server/db/schema';
import type { RunData } from '@/server/jobs/kinds';
import { addEdits } from '@/server/services/edits';
import { listHandoffs } from '@/server/services/handoffs';
import { packagesOfRun, runWithPackages } from '@/server/services/runPackages';
import { applyRulebook, findRun, requestRun } from '@/server/services/runs';
import { writePackages } from '@/server/services/writePackages';
import { closeAfterwards, request, send, withId, work } from '@/server/test/harness';
import { quay } from '@/server/test/quay';
import { GET, POST } from './runs/[id]/packages/route.ts';

closeAfterwards();

async function unpacked(run: string): Promise<Record<string, Uint8Array>> {
  const { stream } = await packagesOfRun(run);
  return unzipSync(new Uint8Array(await buffer(stream)));
}

const text = (bytes: Uint8Array) => new TextDecoder().decode(bytes);

describe('the packages of a run', () => {
  it('are one zip, a folder for each, with the bytes of the packages and a note of what was not made', async () => {
    const [one, two] = [
      (await send('Pack one', await quay())).assets.quay,
      (await send('Pack two', await quay({ wide: 2 }))).assets.quay,
    ];
    const run = await requestRun({
      title: 'Both: for the web',
      destinations: ['web-gltf'],
      assets: [one, two],
      apply: true,
    });
    const [{ data }] = await db().select().from(jobs).where(eq(jobs.id, run));
    const result = await applyRulebook({
      id: run,
      data: data as RunData,
      attempt: 1,
      signal: new AbortController().signal,
      progress: () => undefined,
    });
    await db().update(jobs).set({ state: 'done', result, finishedAt: new Date() }).where(eq(jobs.id, run));
    expect((await runWithPackages(run)).packages).toEqual({ made: 0, going: 2, lost: 0 });
    await expect(packagesOfRun(run)).rejects.toMatchObject({
      code: 'run.packages',
      message: expect.stringContaining('2 packages are still being made'),
    });
    await work();
    expect((await runWithPackages(run)).packages).toEqual({ made: 2, going: 0, lost: 0 });

    const { fileName } = await packagesOfRun(run);
    expect(fileName).toBe('Both_ for the web.zip');
    const files = await unpacked(run);
    // Both are called quay; folders are told apart.
    expect([...new Set(Object.keys(files).map((path) => path.split('/')[0]))].sort()).toEqual([
      'quay',
      'quay_2',
    ]);
    expect(Object.keys(files)).toEqual(
      expect.arrayContaining([
        'quay/quay.glb',
        'quay/receipt.json',
        'quay_2/quay.glb',
        'quay_2/receipt.json',
      ]),
    );
    for (const [folder, id] of [
      ['quay', one],
      ['quay_2', two],
    ] as const) {
      const [{ receipt }] = await listHandoffs(id);
      expect(JSON.parse(text(files[`${folder}/receipt.json`]))).toMatchObject({ verdict: receipt?.verdict });
      expect(text(files[`${folder}/quay.glb`].subarray(0, 4))).toBe('glTF');
    }

    // One that failed its reading back has a zip, which is not handed out.
    const [{ id: bad }] = await listHandoffs(two);
    await db()
      .update(jobs)
      .set({
        state: 'failed',
        fault: { code: 'handoff.check', message: 'a face went elsewhere', hint: '', file: '' },
      })
      .where(eq(jobs.id, bad));
    expect((await runWithPackages(run)).packages).toEqual({ made: 1, going: 0, lost: 1 });
    expect(text((await unpacked(run))['not in here.txt'])).toBe('quay for web-gltf: a face went elsewhere\n');
    await db().update(jobs).set({ state: 'done', fault: null }).where(eq(jobs.id, bad));
    await db().update(handoffs).set({ zip: null }).where(eq(handoffs.assetId, two));
    expect((await runWithPackages(run)).packages).toEqual({ made: 1, going: 0, lost: 1 });
    const fewer = await unpacked(run);
    expect(text(fewer['not in here.txt'])).toBe('quay for web-gltf: it was not made\n');
    expect(Object.keys(fewer).filter((path) => path.startsWith('quay_2/'))).toEqual([]);
  });

  it('are named by destination where there are several; a run without any says so', async () => {
    const { quay: id } = (await send('Pack three', await quay())).assets;
    const run = await requestRun({ destinations: ['web-gltf', 'modelling'], assets: [id], apply: true });
    await work();
    const files = Object.keys(await unpacked(run));
    expect(new Set(files.map((path) => path.split('/')[0]))).toEqual(
      new Set(['quay_web-gltf', 'quay_modelling']),
    );
    const none = await requestRun({ mend: true, assets: [id], apply: true });
    await work();
    expect((await runWithPackages(none)).packages).toEqual({ made: 0, going: 0, lost: 0 });
    const answer = await GET(request(`/api/runs/${none}/packages`), withId(none));
    expect([answer.status, (await answer.json()).error.code]).toEqual([400, 'run.packages']);
    const sent = await GET(request(`/api/runs/${run}/packages`), withId(run));
    expect([sent.status, sent.headers.get('content-type')]).toEqual([200, 'application/zip']);
    await sent.body?.cancel();
  });

  it('are written to a folder of the server, each whole; nothing that lies there is written over, and one that ended goes on', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'kinkajou-out-'));
    process.env.KINKAJOU_FOLDERS = tmpdir();
    const ids = [
      (await send('Out one', await quay())).assets.quay,
      (await send('Out two', await quay({ wide: 3 }))).assets.quay,
    ];
    const run = await requestRun({ destinations: ['web-gltf'], assets: ids, apply: true });
    await work();
    const ask = async (to: string) =>
      (
        await POST(
          request(`/api/runs/${run}/packages`, {
            method: 'POST',
            body: { folder: to },
            origin: 'http://localhost',
          }),
          withId(run),
        )
      ).json();
    expect((await ask('/etc')).error.code).toBe('folder.notAllowed');
    expect((await ask('out')).error.code).toBe('folder.relative');
    const { job } = await ask(folder);
    await work();
    const [{ result }] = await db().select().from(jobs).where(eq(jobs.id, job));
    expect(result).toEqual({ folder, written: ['quay', 'quay_2'], lost: [] });
    expect((await readdir(folder)).sort()).toEqual(['quay', 'quay_2']);
    const zipped = await unpacked(run);
    for (const path of ['quay/quay.glb', 'quay_2/receipt.json', 'quay/handoff.json'])
      expect(Buffer.compare(await readFile(join(folder, path)), zipped[path])).toBe(0);

    const again = (await ask(folder)).job;
    await work();
    const [{ state, fault }] = await db().select().from(jobs).where(eq(jobs.id, again));
    expect([state, fault?.code, fault?.message]).toEqual([
      'failed',
      'out.occupied',
      expect.stringContaining('quay, quay_2 lie there already'),
    ]);

    // A worker ended between the two.
    await rm(join(folder, 'quay_2'), { recursive: true });
    const row = {
      id: job,
      data: { run, folder },
      attempt: 2,
      signal: new AbortController().signal,
      progress: () => undefined,
    };
    expect((await writePackages(row)).written).toEqual(['quay', 'quay_2']);
    await rm(join(folder, 'quay_2'), { recursive: true });
    await writeFile(join(folder, 'quay/receipt.json'), '{}');
    await expect(writePackages(row)).rejects.toMatchObject({ code: 'out.occupied' });
    await rm(folder, { recursive: true });
  });
});

describe('packages held against their assets', () => {
  it('are as the asset is, or the asset moved on; one without any says so', async () => {
    const sendOne = async (name: string) => (await send(name, await quay())).assets.quay;
    const [handed, moved, none] = [await sendOne('Held'), await sendOne('Moved'), await sendOne('Bare')];
    await requestRun({ destinations: ['web-gltf', 'modelling'], assets: [handed, moved], apply: true });
    await work();
    await addEdits(moved, [
      {
        kind: 'setValues',
        slots: [{ material: 'Brass', channel: 'roughness' }],
        value: 0.7,
        origin: { from: 'hand', detail: '' },
      },
    ]);
    const run = await requestRun({ compare: true, assets: [handed, moved, none], apply: true });
    await work();
    const { outcomes, counts } = await findRun(run);
    expect(
      outcomes.map(({ compared }) =>
        compared?.map(({ destination, verdict }) => `${destination} ${verdict}`),
      ),
    ).toEqual([['modelling same', 'web-gltf same'], ['modelling changed', 'web-gltf changed'], []]);
    expect([counts.changed, counts.failed, counts.compared, counts.apart]).toEqual([0, 0, 3, 2]);
  });
});
