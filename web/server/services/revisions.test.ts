import { Readable } from 'node:stream';
import type { Edit } from '@kinkajou/core/asset/asset';
import { eq } from 'drizzle-orm';
import { beforeEach, describe, expect, it } from 'vitest';
import { db } from '../db/client.ts';
import { assets } from '../db/schema.ts';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { plain, quay } from '../test/quay.ts';
import { applyBenchDelta, type BenchAnswer, type BenchData, viewOf } from '../wire/bench.ts';
import { currentState } from './assetState.ts';
import { benchAnswer, benchView } from './benchView.ts';
import { addEdits, moveCursor } from './edits.ts';
import { keepImage } from './keepImage.ts';
import { saveWord } from './knowledge.ts';
import { addParcelFile } from './parcels.ts';
import { versionOf } from './revisions.ts';

closeAfterwards();

const origin = { from: 'hand', detail: '' } as const;
const set = (channel: 'roughness' | 'metalness', value: number, material = 'Brass'): Edit => ({
  kind: 'setValues',
  slots: [{ material, channel }],
  value,
  origin,
});

let id: string;
let parcel: string;
beforeEach(async () => {
  const sent = await send('Quay', await quay());
  id = sent.assets.quay;
  parcel = sent.parcel;
  await work();
});

const revision = async () =>
  (await db().select({ revision: assets.revision }).from(assets).where(eq(assets.id, id)))[0].revision;
const whole = (answer: BenchAnswer): BenchData => {
  if (!('whole' in answer)) throw new Error('only a part was told');
  return answer.whole;
};

describe('a revision', () => {
  it('moves by one with every edit, undo and redo, however many at once', async () => {
    const first = await revision();
    await addEdits(id, [set('roughness', 0.5), set('metalness', 0.2)]);
    await moveCursor(id, { by: -1 });
    await moveCursor(id, { by: 1 });
    expect(await revision()).toBe(first + 3);
    await Promise.all(Array.from({ length: 5 }, (_, i) => addEdits(id, [set('roughness', i / 10)])));
    expect(await revision()).toBe(first + 8);
  });

  it('moves when files come or pixels are looked at, and so does the version when words are learned', async () => {
    const before = await revision();
    await addParcelFile(
      parcel,
      'brass_roughness.png',
      null,
      Readable.from([Buffer.from(await plain(50, 50, 50))]),
    );
    expect(await revision()).toBeGreaterThan(before);
    const added = await revision();
    await work();
    expect(await revision()).toBeGreaterThan(added);
    const version = await versionOf(id);
    await saveWord('glimmer', 'emission');
    expect(await versionOf(id)).not.toBe(version);
    expect(await versionOf('00000000-0000-4000-8000-000000000000')).toBeNull();
  });

  it('has its state made once, and anew when it moves', async () => {
    const [one, two] = await Promise.all([currentState(id), currentState(id)]);
    expect(one).toBe(two);
    expect(await currentState(id)).toBe(one);
    await addEdits(id, [set('roughness', 0.9)]);
    const next = await currentState(id);
    expect(next).not.toBe(one);
    expect(next.state.materials.find(({ key }) => key === 'Brass')?.channels.roughness?.value).toBe(0.9);
  });
});

describe('two pages on one asset', () => {
  it('change other things beside each other, and are refused on the same', async () => {
    const seen = await revision();
    await addEdits(id, [set('roughness', 0.5)], { author: 'one', seen });
    await addEdits(id, [set('metalness', 0.1)], { author: 'two', seen });
    await expect(addEdits(id, [set('roughness', 0.8)], { author: 'two', seen })).rejects.toMatchObject({
      code: 'conflict',
      message: expect.stringMatching(/roughness/i),
    });
    const brass = (await benchView(id)).state.materials.find(({ key }) => key === 'Brass')?.channels;
    expect([brass?.roughness?.value, brass?.metalness?.value]).toEqual([0.5, 0.1]);
    // Having seen it, it may.
    await addEdits(id, [set('roughness', 0.8)], { author: 'two', seen: await revision() });
  });

  it('see what was undone as a change too', async () => {
    await addEdits(id, [set('roughness', 0.5)], { author: 'one' });
    const seen = await revision();
    await moveCursor(id, { by: -1 }, { author: 'one', seen });
    await expect(addEdits(id, [set('roughness', 0.8)], { author: 'two', seen })).rejects.toMatchObject({
      code: 'conflict',
    });
  });

  it('undo only what they have seen and, by one step, only their own', async () => {
    const seen = await revision();
    await addEdits(id, [set('roughness', 0.5)], { author: 'one', seen });
    await expect(moveCursor(id, { by: -1 }, { author: 'one', seen })).rejects.toMatchObject({
      code: 'conflict',
    });
    await expect(moveCursor(id, { by: -1 }, { author: 'two', seen: await revision() })).rejects.toMatchObject(
      {
        code: 'conflict',
        message: expect.stringMatching(/another page/),
      },
    );
    expect(await benchView(id)).toMatchObject({ cursor: 1 });
    // The log leads there all the same.
    await moveCursor(id, { to: 0 }, { author: 'two', seen: await revision() });
    expect(await benchView(id)).toMatchObject({ cursor: 0 });
  });

  it('are not hindered by news of files', async () => {
    const seen = await revision();
    await keepImage(parcel, 'kinkajou/new.png', await plain(1, 2, 3));
    await addParcelFile(parcel, 'other.png', null, Readable.from([Buffer.from(await plain(9, 9, 9))]));
    await addEdits(id, [set('roughness', 0.5)], { author: 'one', seen });
    await expect(moveCursor(id, { by: -1 }, { author: 'one', seen: seen + 2 })).resolves.toBeUndefined();
  });

  it('are told which undone edits a new one took the place of', async () => {
    await addEdits(id, [set('roughness', 0.1)]);
    await addEdits(id, [set('roughness', 0.2), set('metalness', 0.3)]);
    await moveCursor(id, { to: 0 });
    const { dropped, seq } = await addEdits(id, [set('metalness', 0.9)]);
    expect(dropped).toEqual([set('roughness', 0.1), set('roughness', 0.2), set('metalness', 0.3)]);
    expect(seq).toBe(1);
  });
});

describe('what a page is told', () => {
  it('makes the same state as the server has', async () => {
    await addEdits(id, [
      set('roughness', 0.35),
      { kind: 'clearSlots', slots: [{ material: 'Stone', channel: 'roughness' }], origin },
    ]);
    const data = whole(await benchAnswer(id, null));
    const { state } = await currentState(id);
    expect(viewOf(data).state).toEqual(state);
    expect(viewOf({ ...data, cursor: 0 }).state.materials).toEqual(data.source.materials);
    expect(viewOf(data).log.map(({ undone, text }) => [undone, text])).toEqual([
      [false, expect.stringMatching(/roughness/i)],
      [false, expect.stringMatching(/roughness/i)],
    ]);
  });

  it('is little where little changed, and adds up to the whole', async () => {
    let page = whole(await benchAnswer(id, null));
    const steps = [
      () => addEdits(id, [set('roughness', 0.5)]),
      () => addEdits(id, [set('metalness', 0.5), set('roughness', 0.6)]),
      () => moveCursor(id, { by: -1 }),
      () =>
        addEdits(id, [
          { kind: 'clearSlots', slots: [{ material: 'Stone', channel: 'baseColor' }], origin } as Edit,
        ]),
      () => addParcelFile(parcel, 'brass_normal.png', null, Readable.from([Buffer.from(new Uint8Array())])),
      () => moveCursor(id, { to: 0 }),
    ];
    for (const step of steps) {
      await step();
      const answer = await benchAnswer(id, page.version);
      if (!('delta' in answer)) throw new Error('all was told again');
      expect(JSON.stringify(answer).length).toBeLessThan(10_000);
      page = applyBenchDelta(page, answer.delta);
      const current = await currentState(id);
      expect(page.version).toBe(current.version);
      expect(page.findings).toEqual(JSON.parse(JSON.stringify(current.findings)));
      expect(viewOf(page).state).toEqual(current.state);
      expect(page).toEqual(JSON.parse(JSON.stringify(whole(await benchAnswer(id, null)))));
    }
  });

  it('is everything where the version is not known any more', async () => {
    expect(whole(await benchAnswer(id, '999.1')).id).toBe(id);
  });
});
