import { Readable } from 'node:stream';
import type { Edit } from '@kinkajou/core/asset/asset';
import { webGltf } from '@kinkajou/core/destinations/webGltf';
import { decodeImage } from '@kinkajou/core/images/decode';
import { eq } from 'drizzle-orm';
import { beforeAll, describe, expect, it } from 'vitest';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { conversions } from '../db/schema.ts';
import { cancelJob } from '../jobs/queue.ts';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { plain, quay } from '../test/quay.ts';
import { assetImages, findAsset } from './assetRow.ts';
import { benchView } from './benchView.ts';
import { listConversions, requestConversion } from './conversions.ts';
import { closeDelivery, undoDelivery } from './deliveries.ts';
import { listDeliveries } from './deliveryList.ts';
import { listDerivedMaps, requestDerivedMap } from './derivedMaps.ts';
import { destinationById, listDestinations, removeDestination, saveDestination } from './destinations.ts';
import { addEdits } from './edits.ts';
import {
  dropFromShelf,
  keepOnShelf,
  listMaterials,
  previewReplacing,
  requestReplacing,
} from './materials.ts';
import { findParcel } from './parcelFiles.ts';
import { addParcelFile, createParcel } from './parcels.ts';
import { previewTags, requestTags } from './tags.ts';
import { listTemplates, removeTemplate, saveTemplate } from './templates.ts';

closeAfterwards();

const NOWHERE = '00000000-0000-4000-8000-000000000000';
const origin = { from: 'hand', detail: '' } as const;

async function make(more: Parameters<typeof quay>[0] = {}): Promise<string> {
  return (await send('Quay', await quay(more))).assets.quay;
}

async function channelOf(id: string, material: string, channel: 'baseColor' | 'roughness' | 'metalness') {
  return (await benchView(id)).state.materials.find(({ key }) => key === material)?.channels[channel];
}

/** Lays newer files over an asset, as an upload does. */
async function deliver(
  id: string,
  name: string,
  files: Record<string, Uint8Array | string>,
): Promise<string> {
  const parcel = await createParcel(name);
  for (const [path, content] of Object.entries(files))
    await addParcelFile(parcel, path, null, Readable.from([Buffer.from(content)]));
  await closeDelivery(parcel, id);
  await work();
  return parcel;
}

describe('a newer delivery', () => {
  let id: string;
  beforeAll(async () => {
    id = await make({ missing: true });
    const rough: Edit = {
      kind: 'setValues',
      slots: [{ material: 'Brass', channel: 'roughness' }],
      value: 0.6,
      origin,
    };
    await addEdits(id, [rough]);
  });

  it('replaces by name, brings what lacked, and keeps the edits', async () => {
    await deliver(id, 'Second', {
      'stone_basecolor.png': await plain(200, 60, 50),
      'stone_roughness.png': await plain(90, 90, 90),
    });
    const [{ summary }] = await listDeliveries(id);
    expect(summary).toMatchObject({
      from: 'Second',
      replaced: ['stone_basecolor.png'],
      added: ['stone_roughness.png'],
      modelChanged: false,
      skipped: [],
    });
    expect(summary.findingsGone.join()).toMatch(/stone_roughness|missing/i);
    expect((await channelOf(id, 'Brass', 'roughness'))?.value).toBe(0.6);
    const image = (await assetImages(await findAsset(id))).find(({ path }) => path === 'stone_basecolor.png');
    const { data } = await decodeImage(await blobs.get(image?.sha256 ?? ''), 'a.png');
    expect([...data.subarray(0, 3)]).toEqual([200, 60, 50]);
  });

  it('tells edits that have nowhere to go any more', async () => {
    const { 'quay.obj': model, 'quay.mtl': materials } = await quay();
    await deliver(id, 'Third', {
      'quay.obj': String(model).replaceAll('Brass', 'Bronze'),
      'quay.mtl': String(materials).replaceAll('Brass', 'Bronze'),
    });
    const [{ summary }] = await listDeliveries(id);
    expect(summary).toMatchObject({
      modelChanged: true,
      materialsAdded: ['Bronze'],
      materialsRemoved: ['Brass'],
    });
    expect(summary.skipped.join()).toContain('material Brass is not there');
  });

  it('is taken back, one after the other, and then no more', async () => {
    await undoDelivery(id);
    expect((await channelOf(id, 'Brass', 'roughness'))?.value).toBe(0.6);
    await undoDelivery(id);
    expect(await listDeliveries(id)).toEqual([]);
    await expect(undoDelivery(id)).rejects.toMatchObject({ code: 'delivery.none' });
  });

  it('that holds nothing changes nothing', async () => {
    const parcel = await deliver(id, 'Empty', {});
    expect(await findParcel(parcel)).toMatchObject({ state: 'failed', faults: [{ code: 'parcel.empty' }] });
    expect(await listDeliveries(id)).toEqual([]);
    await expect(closeDelivery(parcel, id)).rejects.toMatchObject({ code: 'conflict' });
    await expect(closeDelivery(parcel, NOWHERE)).rejects.toMatchObject({ code: 'notFound' });
  });
});

describe('destinations of one’s own', () => {
  const mine = { ...webGltf, id: 'quay-web', title: 'Quay, web' };

  it('are saved, found, renamed and removed; built-in ones are not touched', async () => {
    const existing = async () =>
      (await listDestinations()).filter(({ own }) => own).map(({ profile }) => profile.id);
    await saveDestination(mine, null);
    expect(await destinationById('quay-web')).toMatchObject({ title: 'Quay, web' });
    await saveDestination({ ...mine, id: 'quay-web-2', title: 'Second' }, 'quay-web');
    expect(await existing()).toEqual(['quay-web-2']);
    await expect(destinationById('quay-web')).rejects.toMatchObject({ code: 'handoff.destination' });
    await saveDestination({ ...mine, id: 'quay-web-3' }, null);
    await expect(saveDestination({ ...mine, id: 'quay-web-3' }, 'quay-web-2')).rejects.toMatchObject({
      code: 'destination.taken',
    });
    await expect(saveDestination({ ...mine, id: 'web-gltf' }, null)).rejects.toMatchObject({
      code: 'destination.taken',
    });
    await expect(saveDestination({ ...mine, normalY: 'Y-' }, null)).rejects.toThrow(/normalY/);
    await removeDestination('quay-web-2');
    await removeDestination('quay-web-3');
    await removeDestination('web-gltf');
    expect(await existing()).toEqual([]);
    expect(await destinationById('web-gltf')).toMatchObject({ id: 'web-gltf' });
  });
});

describe('templates', () => {
  it('are kept by name, replaced and removed', async () => {
    const id = await make();
    const [saved] = await saveTemplate(id, 'Stone', 'Two maps');
    expect(saved.template.slots.map(({ channel }) => channel).sort()).toEqual([
      'baseColor',
      'metalness',
      'roughness',
    ]);
    await saveTemplate(id, 'Stone', 'Two maps');
    expect(await listTemplates()).toHaveLength(1);
    await expect(saveTemplate(id, 'Mast', 'None')).rejects.toMatchObject({ code: 'template.material' });
    expect(await removeTemplate(saved.id)).toEqual([]);
  });
});

describe('materials of the shelf', () => {
  it('take the place of those whose names fit, images and all, and only when it is meant', async () => {
    const [one, two] = [await make(), await make({ tint: '0.2 0.2 0.2' })];
    const [kept] = (await keepOnShelf(one, 'Stone', 'Granite')).filter(({ name }) => name === 'Granite');
    const preview = await previewReplacing(kept.id, 'St*', two);
    expect(preview).toMatchObject({ count: 1, assets: [{ id: two, materials: ['Stone'] }] });
    expect((await benchView(two)).log).toEqual([]);
    await requestReplacing(kept.id, 'St*', two);
    await work();
    const { state, images, log } = await benchView(two);
    expect(log).toHaveLength(1);
    const stone = state.materials.find(({ key }) => key === 'Stone');
    const path = state.images.find(({ key }) => key === stone?.channels.roughness?.map?.image)?.resolved;
    expect(images.map((image) => image.path)).toContain(path);
    expect(stone?.channels.baseColor?.value).toEqual([1, 1, 1]);
    await expect(requestReplacing(2 ** 30, '*', null)).rejects.toMatchObject({ code: 'notFound' });
    await dropFromShelf(kept.id);
    expect((await listMaterials()).filter(({ name }) => name === 'Granite')).toEqual([]);
  });
});

describe('tags over several assets', () => {
  it('are told first and changed then, each asset with its own undo', async () => {
    const ids = [await make(), await make()];
    const repair = { to: 'lin_ap1_scene', keyword: 'basecolor' } as const;
    const preview = await previewTags(ids, repair);
    expect(preview).toMatchObject({ changes: 2, assets: ids.map((id) => ({ id, changes: 1 })) });
    expect((await channelOf(ids[0], 'Stone', 'baseColor'))?.map?.space).toBe('srgb_rec709_scene');
    await requestTags(ids, repair);
    await work();
    for (const id of ids) {
      expect((await channelOf(id, 'Stone', 'baseColor'))?.map?.space).toBe('lin_ap1_scene');
      expect((await channelOf(id, 'Stone', 'roughness'))?.map?.space).toBe('data');
      expect((await benchView(id)).log).toHaveLength(1);
    }
    expect((await previewTags(ids, repair)).changes).toBe(0);
  });
});

describe('jobs that make images', () => {
  it('put a recipe’s images beside the originals, and wire them', async () => {
    const id = await make({ tint: '0.5 0.25 1' });
    const job = await requestDerivedMap(id, { materials: ['Stone'], recipe: 'bake-tint', params: {} });
    await work();
    const [made] = await listDerivedMaps(id);
    expect(made).toMatchObject({ id: job, state: 'done' });
    const base = await channelOf(id, 'Stone', 'baseColor');
    expect(base?.value).toEqual([1, 1, 1]);
    const { state, images } = await benchView(id);
    const path = state.images.find(({ key }) => key === base?.map?.image)?.resolved;
    const image = images.find((one) => one.path === path);
    const { data } = await decodeImage(await blobs.get(image?.sha256 ?? ''), path ?? '');
    // sRGB 120 of 255 is 0.1878 of light; half of that is 0.0939, which is 86 of 255.
    expect(Math.abs(data[0] - 86)).toBeLessThanOrEqual(1);
    // The original is as it was.
    expect(images.map((one) => one.path)).toContain('stone_basecolor.png');
  });

  it('are refused before they wait, cancelled while they wait, and run once', async () => {
    const id = await make({ tint: '0.5 0.5 0.5' });
    await expect(
      requestDerivedMap(id, { materials: ['Stone'], recipe: 'polish', params: {} }),
    ).rejects.toThrow(/polish/);
    await cancelJob(await requestDerivedMap(id, { materials: ['Stone'], recipe: 'bake-tint', params: {} }));
    await work();
    expect((await listDerivedMaps(id)).map(({ state }) => state)).toEqual(['cancelled']);
    expect((await benchView(id)).log).toEqual([]);
    await expect(cancelJob(NOWHERE)).rejects.toMatchObject({ code: 'notFound' });
  });

  it('convert one image to another space', async () => {
    const id = await make();
    const job = await requestConversion(id, {
      image: 'stone_basecolor.png',
      from: 'srgb_rec709_scene',
      to: 'lin_rec709_scene',
      exponent: 1,
    });
    await work();
    const [done] = await listConversions(id);
    expect(done.state).toBe('done');
    const [kept] = await db().select().from(conversions).where(eq(conversions.id, job));
    const image = (await assetImages(await findAsset(id))).find(
      ({ path }) => path === (kept as { path?: string }).path || /lin/.test(path),
    );
    const { data } = await decodeImage(await blobs.get(image?.sha256 ?? ''), image?.path ?? '');
    // 120 of 255 by the curve of IEC 61966-2-1.
    const light = ((120 / 255 + 0.055) / 1.055) ** 2.4;
    const found =
      data instanceof Float32Array ? data[0] : data[0] / (data instanceof Uint16Array ? 65535 : 255);
    expect(Math.abs(found - light)).toBeLessThan(1 / 1000);
    await expect(
      requestConversion(id, { image: 'none.png', from: 'data', to: 'data', exponent: 1 }),
    ).rejects.toMatchObject({ code: 'image.missing' });
  });
});
