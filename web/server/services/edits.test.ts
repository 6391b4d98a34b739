import type { Edit } from '@kinkajou/core/asset/asset';
import { beforeAll, describe, expect, it } from 'vitest';
import { closeAfterwards, send } from '../test/harness.ts';
import { quay } from '../test/quay.ts';
import { benchView } from './benchView.ts';
import { addEdits, moveCursor } from './edits.ts';
import { shelfPage } from './shelf.ts';

closeAfterwards();

const origin = { from: 'hand', detail: '' } as const;
const rough = (value: number): Edit =>
  ({ kind: 'setValues', slots: [{ material: 'Brass', channel: 'roughness' }], value, origin }) as Edit;

let id: string;
beforeAll(async () => {
  id = (await send('Quay', await quay())).assets.quay;
});

const roughness = async () =>
  (await benchView(id)).state.materials.find(({ key }) => key === 'Brass')?.channels.roughness?.value;

describe('edits of an asset', () => {
  it('are kept, undone and redone act by act', async () => {
    await addEdits(id, [rough(0.5)]);
    await addEdits(id, [rough(0.6), rough(0.7)]);
    expect(await roughness()).toBe(0.7);
    // Two edits of one act are one step.
    await moveCursor(id, { by: -1 });
    expect(await roughness()).toBe(0.5);
    await moveCursor(id, { by: -1 });
    expect(await roughness()).toBeCloseTo(0.3, 9);
    await expect(moveCursor(id, { by: -1 })).rejects.toMatchObject({ code: 'edit.none' });
    await moveCursor(id, { by: 1 });
    await moveCursor(id, { by: 1 });
    expect(await roughness()).toBe(0.7);
    await expect(moveCursor(id, { by: 1 })).rejects.toMatchObject({ code: 'edit.none' });
  });

  it('leads to the end of an act when asked for its midst, and back to nothing', async () => {
    await moveCursor(id, { to: 0 });
    await moveCursor(id, { to: 2 });
    expect((await benchView(id)).log.filter(({ undone }) => !undone)).toHaveLength(3);
    await moveCursor(id, { to: 0 });
    expect((await benchView(id)).log.every(({ undone }) => undone)).toBe(true);
  });

  it('take the place of what was undone', async () => {
    await moveCursor(id, { to: 0 }).catch(() => undefined);
    const { dropped } = await addEdits(id, [rough(0.9)]);
    expect(dropped).toEqual([rough(0.5), rough(0.6), rough(0.7)]);
    expect((await benchView(id)).log.map(({ undone }) => undone)).toEqual([false]);
    expect(await roughness()).toBe(0.9);
  });

  it('that are sent again, since the answer was lost, are added once, and contradict nobody', async () => {
    const { revision, log } = await benchView(id);
    const again = { author: 'page', seen: revision, job: 'e7a3c1a0-5f0d-4c7a-9f43-6d2f0c9b1a55' };
    for (let i = 0; i < 3; i += 1) await addEdits(id, [rough(0.95)], again);
    expect((await benchView(id)).log).toHaveLength(log.length + 1);
    await moveCursor(id, { by: -1 });
  });

  it('do not get lost when many come at once', async () => {
    await Promise.all(Array.from({ length: 8 }, (_, i) => addEdits(id, [rough((i + 1) / 10)])));
    const { log } = await benchView(id);
    expect(log).toHaveLength(9);
    expect(log.every(({ undone }) => !undone)).toBe(true);
  });

  it('change what the shelf tells of the asset', async () => {
    const [entry] = (await shelfPage()).assets.filter((one) => one.id === id);
    expect(entry.lastEdit).toMatch(/roughness/i);
  });

  it('refuse nothing to do, and assets that are not there', async () => {
    await expect(addEdits(id, [])).rejects.toMatchObject({ code: 'edit.none' });
    await expect(addEdits('00000000-0000-4000-8000-000000000000', [rough(0.1)])).rejects.toMatchObject({
      code: 'notFound',
    });
  });
});
