import { Readable } from 'node:stream';
import { encodePng } from '@kinkajou/core/images/encode';
import { parcelZip } from '@kinkajou/demo/harrowQuay';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { quay } from '../test/quay.ts';
import { findAsset } from './assetRow.ts';
import { benchView } from './benchView.ts';
import { addEdits } from './edits.ts';
import { findParcel, parcelSource } from './parcelFiles.ts';
import { addParcelFile, closeParcel, createParcel } from './parcels.ts';
import { bringBack, hangingOn, removeAsset, removeParcel } from './removal.ts';
import { shelfPage } from './shelf.ts';

closeAfterwards();

describe('a parcel', () => {
  it('is read into assets with what was found in them', async () => {
    const { parcel, assets } = await send('Quay', await quay({ missing: true }));
    expect(await findParcel(parcel)).toMatchObject({ state: 'ready', name: 'Quay', faults: [] });
    const view = await benchView(assets.quay);
    expect(view.state.materials.map(({ name }) => name)).toEqual(['Stone', 'Brass']);
    expect(view.findings.map(({ code }) => code)).toContain('link.missing');
    const [entry] = (await shelfPage()).assets.filter(({ id }) => id === assets.quay);
    expect(entry).toMatchObject({ name: 'quay', parcelId: parcel });
  });

  it('keeps what it was sent, byte for byte', async () => {
    const files = await quay();
    const { parcel } = await send('Quay', files);
    const source = await parcelSource(parcel);
    for (const [path, content] of Object.entries(files)) {
      const expected = typeof content === 'string' ? content : Buffer.from(content).toString('latin1');
      expect(Buffer.from(await source.read(path)).toString('latin1')).toBe(expected);
    }
  });

  it('is unpacked where it is a zip, and read as if it were a folder', async () => {
    const files = Object.fromEntries(
      Object.entries(await quay()).map(([path, content]) => [
        path,
        typeof content === 'string' ? new TextEncoder().encode(content) : content,
      ]),
    );
    const { assets } = await send('Zipped', {
      'quay.zip': await parcelZip({ name: 'quay', files, truth: {} } as never),
    });
    expect(Object.keys(assets)).toEqual(['quay']);
  });

  it('is unpacked where a zip lies within a zip, the images beside their model', async () => {
    const text = (value: string) => new TextEncoder().encode(value);
    const inner = zipSync({
      'hull_color.png': await encodePng({
        width: 2,
        height: 2,
        components: 3,
        data: new Uint8Array(12).fill(90),
      }),
      'deep/notes.txt': text('low tide'),
    });
    const model = { 'hull.obj': text('mtllib hull.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nusemtl Hull\nf 1 2 3\n') };
    const whole = zipSync({
      ...model,
      'hull.mtl': text('newmtl Hull\nmap_Kd maps/hull_color.png\n'),
      'maps.zip': inner,
    });
    const { parcel, assets } = await send('Nested', { 'delivery.zip': whole });
    const { state } = await benchView(assets.hull);
    expect(state.images.map(({ resolved }) => resolved)).toEqual(['maps/hull_color.png']);
    expect((await parcelSource(parcel)).files.map(({ path }) => path)).toContain('maps/deep/notes.txt');
  });

  it('has several zips as folders, nothing of one over the other, and goes on where one is broken', async () => {
    const text = (value: string) => new TextEncoder().encode(value);
    const delivery = (name: string) =>
      zipSync({
        [`${name}.obj`]: text('v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'),
        'maps/notes.txt': text(name),
      });
    const { parcel, assets } = await send('Two', {
      'buoy.zip': delivery('buoy'),
      'winch.zip': delivery('winch'),
      'winch/maps/notes.txt': 'older',
      'cut.zip': 'no zip',
    });
    expect(Object.keys(assets).sort()).toEqual(['buoy', 'winch']);
    const source = await parcelSource(parcel);
    const read = async (path: string) => new TextDecoder().decode(await source.read(path));
    expect(await read('buoy/maps/notes.txt')).toBe('buoy');
    expect(await read('winch/maps/notes.txt')).toBe('older');
    const { faults } = await findParcel(parcel);
    expect(faults.map(({ code, file }) => [code, file]).sort()).toEqual([
      ['zip.broken', 'cut.zip'],
      ['zip.twice', 'winch/maps/notes.txt'],
    ]);
  });

  it('names an archive that is not opened where there is no model', async () => {
    const { parcel } = await send('Packed', { 'boat.7z': '7z' });
    expect((await findParcel(parcel)).faults).toMatchObject([{ code: 'parcel.archive', file: 'boat.7z' }]);
  });

  it('tells which model cannot be read and keeps the others', async () => {
    const { parcel, assets } = await send('Half', { ...(await quay()), 'broken.fbx': 'no model at all' });
    expect(Object.keys(assets)).toEqual(['quay']);
    const { state, faults } = await findParcel(parcel);
    expect(state).toBe('ready');
    expect(faults).toHaveLength(1);
    expect(faults[0].message).toMatch(/broken\.fbx|FBX/);
  });

  it('says so when there is no model in it', async () => {
    const { parcel, assets } = await send('Empty', { 'notes.txt': 'gone fishing' });
    expect(assets).toEqual({});
    expect((await findParcel(parcel)).faults.map(({ code }) => code)).toEqual([
      expect.stringMatching(/^parcel\./),
    ]);
  });

  it('takes no path that leads out of it, and no file after it was closed but images', async () => {
    const parcel = await createParcel('Out');
    await expect(addParcelFile(parcel, '../etc/passwd', null, Readable.from(['x']))).rejects.toMatchObject({
      code: 'parcel.path',
    });
    await expect(
      addParcelFile('00000000-0000-4000-8000-000000000000', 'a.png', null, Readable.from(['x'])),
    ).rejects.toMatchObject({ code: 'notFound' });
  });

  it('is removed with its assets', async () => {
    const { parcel, assets } = await send('Gone', await quay());
    await removeParcel(parcel);
    await expect(findAsset(assets.quay)).rejects.toMatchObject({ code: 'notFound' });
    const other = await send('Gone too', await quay());
    await removeAsset(other.assets.quay);
    await expect(findAsset(other.assets.quay)).rejects.toMatchObject({ code: 'notFound' });
  });

  it('comes back with its log as it was, when an asset of it was removed by mistake', async () => {
    const { assets } = await send('Mistake', await quay());
    await addEdits(assets.quay, [
      {
        kind: 'setAlpha',
        materials: ['Stone'],
        change: { doubleSided: true },
        origin: { from: 'hand', detail: '' },
      },
    ]);
    expect(await hangingOn(assets.quay)).toMatchObject({
      edits: 1,
      handoffs: 0,
      deliveries: 0,
      watches: null,
      files: 4,
      siblings: [],
    });
    await removeAsset(assets.quay);
    await expect(removeAsset(assets.quay)).rejects.toMatchObject({ code: 'notFound' });
    await expect(addEdits(assets.quay, [])).rejects.toMatchObject({ code: 'edit.none' });
    await expect(benchView(assets.quay)).rejects.toMatchObject({ code: 'notFound' });
    expect((await shelfPage()).assets.map(({ id }) => id)).not.toContain(assets.quay);
    expect((await shelfPage({ removed: true })).assets.map(({ id }) => id)).toContain(assets.quay);
    await bringBack(assets.quay);
    const view = await benchView(assets.quay);
    expect(view.state.materials.find(({ name }) => name === 'Stone')?.doubleSided).toBe(true);
    expect((await shelfPage()).assets.map(({ id }) => id)).toContain(assets.quay);
    await expect(bringBack(assets.quay)).rejects.toMatchObject({ code: 'notFound' });
  });

  it('is not lost when it is read twice', async () => {
    const { parcel, assets } = await send('Twice', await quay());
    await closeParcel(parcel);
    await work();
    expect((await benchView(assets.quay)).state.materials).toHaveLength(2);
  });
});
