import type { Edit } from '@kinkajou/core/asset/asset';
import { sheetOfPackage } from '@kinkajou/core/handoff/readBack/sheetOfPackage';
import { memorySource } from '@kinkajou/core/parcel/fileSource';
import { unzipSync } from 'fflate';
import { beforeAll, describe, expect, it } from 'vitest';
import { blobs } from '../blobs.ts';
import { cancelJob } from '../jobs/queue.ts';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { quay } from '../test/quay.ts';
import { compareSides, listSides, pictureOfSides, viewSide } from './compare.ts';
import { compareWhole } from './compareWhole.ts';
import { addEdits } from './edits.ts';
import { findHandoff, listHandoffs, previewPlan, requestHandoffs } from './handoffs.ts';

closeAfterwards();

let id: string;
beforeAll(async () => {
  id = (await send('Quay', await quay())).assets.quay;
});

async function make(destination: string): Promise<string> {
  const [row] = await requestHandoffs(id, [{ destination, choices: {} }]);
  expect(row).toMatchObject({ state: 'queued', destination });
  await work();
  return row.id;
}

describe('a handoff', () => {
  it('keeps a package whose files are those that its plan told, and both verdicts', async () => {
    const plan = await previewPlan(id, { destination: 'modelling', choices: {} });
    const row = await findHandoff(await make('modelling'));
    expect(row).toMatchObject({ state: 'done', progress: 1, fault: null });
    expect(row.receipt?.verdicts).toEqual({ model: 'same', sheet: 'same' });
    const inside = unzipSync(await blobs.get(row.zip as string));
    expect(Object.keys(inside).sort()).toEqual(plan.files.map(({ path }) => path).sort());
    expect(
      (await sheetOfPackage(memorySource('zip', inside)))?.materials.map(({ name }) => name).sort(),
    ).toEqual(['Brass', 'Stone']);
    expect(JSON.parse(new TextDecoder().decode(inside['receipt.json']))).toMatchObject({
      verdict: row.receipt?.verdict,
    });
  });

  it('is refused for a destination that nobody knows, before any is queued', async () => {
    const before = (await listHandoffs(id)).length;
    await expect(
      requestHandoffs(id, [
        { destination: 'web-gltf', choices: {} },
        { destination: 'nowhere', choices: {} },
      ]),
    ).rejects.toThrow(/nowhere/);
    expect(await listHandoffs(id)).toHaveLength(before);
  });

  it('is cancelled while it waits, and then not made', async () => {
    const [row] = await requestHandoffs(id, [{ destination: 'web-gltf', choices: {} }]);
    await cancelJob(row.id);
    await work();
    expect(await findHandoff(row.id)).toMatchObject({ state: 'cancelled', zip: null });
  });

  it('is one side to compare, with the numbers of every channel', async () => {
    const side = `handoff:${await make('web-gltf')}`;
    expect((await listSides(id)).map((entry) => entry.side)).toContain(side);
    const view = await viewSide(id, side);
    expect(view.materials).toEqual({ Stone: 'Stone', Brass: 'Brass' });
    // Edits of parts shape the asset itself, and what was written is as it is.
    expect([view.models[0].id, (await viewSide(id, 'edited')).models[0].id]).toEqual([null, id]);
    const channels = await compareSides(id, { a: 'edited', b: side, material: 'Stone', limit: 1.5 / 255 });
    expect(channels.find(({ channel }) => channel === 'baseColor')).toMatchObject({ beyond: 0 });
    const picture = await pictureOfSides(id, {
      a: 'edited',
      b: side,
      material: 'Stone',
      limit: 0,
      channel: 'baseColor',
      what: 'b',
      scale: 1,
    });
    expect([...picture.subarray(1, 4)]).toEqual([...Buffer.from('PNG')]);
    // What its receipt has proven, told losses and all.
    const whole = await compareWhole(id, 'edited', side);
    expect(whole.verdict).toBe('same');
    expect(whole.proven).not.toBeNull();
    expect(await compareWhole(id, 'delivered', side)).toMatchObject({ verdict: 'same' });
  });

  it('proves nothing of what was changed since, nor of the source before its edits', async () => {
    const own = (await send('Own', await quay())).assets.quay;
    const edit = (value: number) =>
      addEdits(own, [
        {
          kind: 'setValues',
          slots: [{ material: 'Brass', channel: 'roughness' }],
          value,
          origin: { from: 'hand', detail: '' },
        },
      ]);
    await edit(0.7);
    const [row] = await requestHandoffs(own, [{ destination: 'web-gltf', choices: {} }]);
    await work();
    const side = `handoff:${row.id}`;
    expect(await compareWhole(own, 'edited', side)).toMatchObject({ verdict: 'same', unproven: null });
    expect(await compareWhole(own, side, 'delivered')).toMatchObject({ verdict: null, unproven: 'edited' });
    await edit(0.2);
    expect(await compareWhole(own, 'edited', side)).toMatchObject({
      verdict: null,
      differences: [],
      unproven: 'changed',
    });
  });
});

describe('what lies beside an asset', () => {
  it('is told in every difference, and is none of the asset’s own', async () => {
    const wider = (await send('Wider', await quay({ wide: 2, tint: '0.5 0.5 0.5' }))).assets.quay;
    const side = `asset:${wider}`;
    expect((await listSides(id)).find((entry) => entry.side === side)).toMatchObject({ title: 'quay' });
    expect((await viewSide(id, side)).materials).toEqual({ Stone: 'Stone', Brass: 'Brass' });
    const whole = await compareWhole(id, 'edited', side);
    expect(whole).toMatchObject({ verdict: 'different', proven: null });
    expect(
      whole.differences.map(({ code, part, material, channel }) => [code, part ?? material, channel]),
    ).toEqual([
      ['shape.points', 'Wall', null],
      ['channel.differs', 'Stone', 'baseColor'],
    ]);
    const [base] = (
      await compareSides(id, { a: 'edited', b: side, material: 'Stone', limit: 1.5 / 255 })
    ).filter(({ channel }) => channel === 'baseColor');
    expect(base.beyond).toBe(1);
  });

  it('is the same as what it was sent as, until an edit changes that', async () => {
    const twin = (await send('Twin', await quay())).assets.quay;
    expect(await compareWhole(id, 'delivered', `asset:${twin}`)).toMatchObject({
      verdict: 'same',
      differences: [],
    });
    const metal = {
      kind: 'setValues',
      slots: [{ material: 'Brass', channel: 'metalness' }],
      value: 0,
      origin: { from: 'hand', detail: '' },
    } as Edit;
    await addEdits(twin, [metal]);
    const { differences } = await compareWhole(id, 'delivered', `asset:${twin}`);
    expect(differences.map(({ code, material, channel }) => [code, material, channel])).toEqual([
      ['channel.differs', 'Brass', 'metalness'],
    ]);
  });

  it('is refused where there is no such side', async () => {
    for (const side of [
      'nothing',
      'handoff:1',
      'asset:00000000-0000-4000-8000-000000000000',
      'handoff:00000000-0000-4000-8000-000000000000',
    ])
      await expect(compareWhole(id, 'edited', side)).rejects.toMatchObject({ code: 'notFound' });
  });
});
