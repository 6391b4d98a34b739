import type { Edit } from '@kinkajou/core/asset/asset';
import { sha256 } from '@kinkajou/core/parcel/hash';
import { TAKE_ALL } from '@kinkajou/core/scene/intake';
import { eq } from 'drizzle-orm';
import { expect, it } from 'vitest';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { handoffs } from '../db/schema.ts';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { plain, quay } from '../test/quay.ts';
import { benchView } from './benchView.ts';
import { deliverFiles, undoDelivery } from './deliveries.ts';
import { addEdits } from './edits.ts';
import { requestHandoffs } from './handoffs.ts';
import { requestJoin } from './joining.ts';
import { findParcel } from './parcelFiles.ts';

closeAfterwards();

const origin = { from: 'hand' as const, detail: '' };
const rough = (value: number): Edit => ({
  kind: 'setValues',
  slots: [{ material: 'Brass', channel: 'roughness' }],
  value,
  origin,
});
const contentOf = async (id: string, material: string) => {
  const { state, images } = await benchView(id);
  const key = state.materials.find(({ name }) => name === material)?.channels.baseColor?.map?.image;
  const path = state.images.find((image) => image.key === key)?.resolved;
  return [path, images.find((image) => image.path === path)?.sha256];
};
const partsOf = async (id: string) =>
  (await benchView(id)).source.nodes.filter(({ polygons }) => polygons > 0).length;

it('another asset comes beside what is there, as it was settled; newer files go on, and all is taken back', async () => {
  const other = { ...(await quay({ wide: 2 })), 'stone_basecolor.png': await plain(9, 8, 7) };
  const { assets } = await send('Stair', await quay());
  const { assets: lamps } = await send('Lamps', other);
  await addEdits(assets.quay, [rough(0.25)]);
  await addEdits(lamps.quay, [rough(0.75)]);
  const before = await benchView(assets.quay);
  const shapes = await partsOf(assets.quay);

  const order = {
    from: lamps.quay,
    name: 'Lamp',
    at: [10, 0, 0] as [number, number, number],
    turn: 0,
    scale: 1,
  };
  const { parcel } = await requestJoin(assets.quay, order);
  expect((await findParcel(parcel)).state).toBe('reading');
  await work();
  expect(await findParcel(parcel)).toMatchObject({ state: 'ready', name: 'Stair' });

  const view = await benchView(assets.quay);
  expect(view.source).toMatchObject({ name: 'quay', model: 'quay.joined', format: 'obj' });
  expect(await partsOf(assets.quay)).toBe(2 * shapes);
  const names = before.source.materials.map(({ name }) => name);
  expect(view.source.materials.map(({ name }) => name)).toEqual([
    ...names,
    ...names.map((name) => `Lamp_${name}`),
  ]);
  const roughnessOf = (name: string) =>
    view.state.materials.find((material) => material.name === name)?.channels.roughness?.value;
  expect([roughnessOf('Brass'), roughnessOf('Lamp_Brass')]).toEqual([0.25, 0.75]);
  expect(view.log.map(({ undone }) => undone)).toEqual([false]);
  expect(view.deliveries[0].summary).toMatchObject({ from: 'Joined Lamp', replaced: [], skipped: [] });
  // Two wide, ten metres to the side.
  expect(view.source.bounds?.max[0]).toBeCloseTo(12, 5);
  const own = [
    ...new Set(
      before.state.materials.flatMap(({ channels }) =>
        channels.baseColor?.map ? [channels.baseColor.map.image] : [],
      ),
    ),
  ];
  expect(own.length).toBeGreaterThan(0);
  const stone = names.find((name) => /stone/i.test(name)) as string;
  expect((await contentOf(assets.quay, stone))[0]).toBe('stone_basecolor.png');
  expect(await contentOf(assets.quay, `Lamp_${stone}`)).toEqual([
    'joined/Lamp/stone_basecolor.png',
    sha256(other['stone_basecolor.png']),
  ]);

  // A newer image of that name is for the asset's own; a newer model of the lamp's leaves both together.
  const newer = await plain(1, 1, 1);
  await deliverFiles(assets.quay, 'Newer', [
    { path: 'stone_basecolor.png', sha256: await blobs.put(newer), size: newer.length, modified: null },
  ]);
  expect((await contentOf(assets.quay, stone))[1]).toBe(sha256(newer));
  expect((await contentOf(assets.quay, `Lamp_${stone}`))[1]).toBe(sha256(other['stone_basecolor.png']));
  const wider = new TextEncoder().encode((await quay({ wide: 5 }))['quay.obj'] as string);
  await deliverFiles(assets.quay, 'Wider', [
    { path: 'joined/Lamp/quay.obj', sha256: await blobs.put(wider), size: wider.length, modified: null },
  ]);
  expect((await benchView(assets.quay)).source).toMatchObject({
    model: 'quay.joined',
    bounds: { max: [expect.closeTo(15, 5), expect.anything(), expect.anything()] },
  });

  // What was joined can itself be joined, and goes out with the rest.
  await requestJoin(lamps.quay, { ...order, from: assets.quay, name: 'All', at: [0, 3, 0] });
  await requestHandoffs(lamps.quay, [{ destination: 'web-gltf', choices: {} }]);
  await work();
  expect(await partsOf(lamps.quay)).toBe(3 * shapes);
  const [{ receipt }] = await db().select().from(handoffs).where(eq(handoffs.assetId, lamps.quay));
  expect(receipt?.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);

  for (let i = 0; i < 3; i += 1) await undoDelivery(assets.quay);
  const after = await benchView(assets.quay);
  expect([after.source.model, after.source.bounds, after.parcel.id]).toEqual([
    'quay.obj',
    before.source.bounds,
    before.parcel.id,
  ]);
});

it('it stands where it is put as the asset is seen, whatever unit its file states', async () => {
  const { assets } = await send('Tall', await quay());
  const { assets: posts } = await send('Post', await quay({ wide: 2 }));
  await addEdits(assets.quay, [{ kind: 'setIntake', choice: { ...TAKE_ALL, metresPerUnit: 0.01 }, origin }]);
  await requestJoin(assets.quay, { from: posts.quay, name: 'Post', at: [10, 0, 0], turn: 0, scale: 1 });
  await work();
  // Ten metres and the two of its width are 1200 of the asset's centimetres, which its file takes for metres.
  expect((await benchView(assets.quay)).source.bounds?.max[0]).toBeCloseTo(1200, 3);
});

it('what is not on the shelf is not joined', async () => {
  const { assets } = await send('Alone', await quay());
  const nobody = {
    from: '00000000-0000-4000-8000-000000000000',
    name: '',
    at: [0, 0, 0] as [number, number, number],
    turn: 0,
    scale: 1,
  };
  await expect(requestJoin(assets.quay, nobody)).rejects.toMatchObject({ code: 'notFound' });
});
