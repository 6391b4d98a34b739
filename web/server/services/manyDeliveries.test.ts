import { Readable } from 'node:stream';
import { zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import { closeAfterwards, send, work } from '../test/harness.ts';
import { plain, quay } from '../test/quay.ts';
import { benchView } from './benchView.ts';
import { addEdits } from './edits.ts';
import { findParcel } from './parcelFiles.ts';
import { addParcelFile, createParcel } from './parcels.ts';
import { findRun, repeatRun, requestRun, undoRun } from './runs.ts';

closeAfterwards();

const bytes = (content: string | Uint8Array) =>
  typeof content === 'string' ? new TextEncoder().encode(content) : content;

/** Files as a zip that was uploaded and not closed. */
async function upload(files: Record<string, string | Uint8Array>): Promise<string> {
  const parcel = await createParcel('newer.zip');
  const zip = zipSync(
    Object.fromEntries(Object.entries(files).map(([path, content]) => [path, bytes(content)])),
  );
  await addParcelFile(parcel, 'newer.zip', null, Readable.from([Buffer.from(zip)]));
  return parcel;
}

/** The files of the square under another stem. */
async function named(stem: string, wide = 1): Promise<Record<string, string | Uint8Array>> {
  const files = await quay({ wide });
  return Object.fromEntries(
    Object.entries(files).map(([path, content]) => [
      path.replace('quay.', `${stem}.`),
      typeof content === 'string' ? content.replace('quay.mtl', `${stem}.mtl`) : content,
    ]),
  );
}

const widthOf = async (id: string) => {
  const { bounds } = (await benchView(id)).source;
  return bounds ? bounds.max[0] - bounds.min[0] : 0;
};

describe('a delivery for several assets', () => {
  it('gives each what is its own, keeps their edits, names who got nothing, and is undone as a whole but for what moved on', async () => {
    const { post } = (await send('Post', await named('post'))).assets;
    const { stair } = (await send('Stair', await named('stair'))).assets;
    const { crate } = (await send('Crate', await named('crate'))).assets;
    const tint = {
      kind: 'setValues' as const,
      slots: [{ material: 'Brass', channel: 'roughness' as const }],
      value: 0.8,
      origin: { from: 'hand' as const, detail: '' },
    };
    await addEdits(post, [tint]);
    const parcel = await upload({
      ...(await named('post', 3)),
      'stairs/stair.obj': (await named('stair', 5))['stair.obj'],
      'readme.txt': 'newer',
    });
    const run = await requestRun({
      title: 'Newer',
      deliver: parcel,
      assets: [post, stair, crate],
      apply: true,
    });
    await work();
    const { outcomes, counts, state } = await findRun(run);
    expect(state).toBe('done');
    expect(outcomes.map(({ name, delivered, fault }) => [name, delivered?.text ?? null, fault])).toEqual([
      ['post', expect.stringMatching(/^newer files: 1 replaced, 0 added/), null],
      ['stair', expect.stringMatching(/^newer files: 1 replaced, 0 added/), null],
      // It has images of the same names, which are the same.
      ['crate', 'nothing in the delivery is new', null],
    ]);
    expect(counts).toMatchObject({ changed: 2, failed: 0 });
    expect([await widthOf(post), await widthOf(stair), await widthOf(crate)]).toEqual([3, 5, 1]);
    expect(
      (await benchView(post)).state.materials.find(({ name }) => name === 'Brass')?.channels.roughness?.value,
    ).toBe(0.8);
    await expect(findParcel(parcel)).rejects.toMatchObject({ code: 'notFound' });

    const { undone } = await undoRun(run);
    expect(undone).toEqual({ assets: 2, kept: [] });
    expect([await widthOf(post), await widthOf(stair)]).toEqual([1, 1]);
  });

  it('says who it has nothing for; what a newer one came over stays when it is undone; a spent one is not repeated', async () => {
    const { buoy } = (
      await send('Buoy', { ...(await named('buoy')), 'stone_basecolor.png': await plain(1, 2, 3) })
    ).assets;
    const { rail } = (await send('Rail', { 'rail.obj': 'v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n' })).assets;
    const run = await requestRun({
      deliver: await upload({ 'buoy.obj': (await named('buoy', 2))['buoy.obj'] }),
      mend: true,
      assets: [buoy, rail],
      apply: true,
    });
    await work();
    const { outcomes } = await findRun(run);
    expect(outcomes.map(({ fault }) => fault)).toEqual([
      null,
      expect.stringContaining('nothing in the delivery is called as a file of this asset'),
    ]);
    await expect(repeatRun(run)).rejects.toMatchObject({ code: 'run.delivery' });
    const later = await requestRun({
      deliver: await upload({ 'buoy.obj': (await named('buoy', 4))['buoy.obj'] }),
      assets: [buoy],
      apply: true,
    });
    await work();
    expect((await undoRun(run)).undone).toMatchObject({ kept: ['buoy'] });
    expect(await widthOf(buoy)).toBe(4);
    await undoRun(later);
    expect(await widthOf(buoy)).toBe(2);
  });

  it('needs an upload of its own that nobody closed', async () => {
    const { parcel, assets } = await send('Closed', await named('mole'));
    await expect(requestRun({ deliver: parcel, assets: [assets.mole], apply: true })).rejects.toMatchObject({
      code: 'conflict',
    });
  });
});
