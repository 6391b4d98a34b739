import { describe, expect, it } from 'vitest';
import { type AssetState, initialState } from '../../asset/asset.ts';
import type { Destination } from '../../destinations/profile.ts';
import { writeModel } from '../../formats/writeModel.ts';
import { encodePng } from '../../images/encode.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { createDocument, createMesh, createNode, Y_UP } from '../../scene/document.ts';
import { type Channel, createMapUse, createMaterial } from '../../scene/material.ts';
import { berth } from '../../test/berth.ts';
import { answerPatch } from './answerPatch.ts';

const LOOSE: Channel = { value: [0.5, 0.5, 0.5], map: null, source: { from: 'file', detail: '' } };

/** A plate of classic paint with two images, as FBX. */
async function plate(extension = 'fbx', second = 'maps/bump.png') {
  const document = createDocument('fbx', 'made');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 0.01, unitStated: true });
  document.meshes.push(
    createMesh('plate', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  const paint = createMaterial('Paint', 'legacy');
  paint.channels.baseColor = { ...LOOSE, map: createMapUse('paint', 'baseColor') };
  paint.channels.bump = { ...LOOSE, value: 1, map: createMapUse('bump', 'bump') };
  document.materials.push(paint);
  document.images.push(
    { key: 'paint', written: 'maps/paint.png', relative: null, embedded: null },
    { key: 'bump', written: second, relative: null, embedded: null },
  );
  document.nodes.push(createNode('plate', 'mesh', -1, { mesh: 0, materials: [0] }));
  const { files } = writeModel(document, `plate.${extension}`);
  const png = await encodePng({ width: 2, height: 2, components: 3, data: new Uint8Array(12) });
  const source = memorySource('quay', {
    ...Object.fromEntries(files),
    'maps/paint.png': png,
    'maps/bump.png': png,
  });
  const asset = await openAsset(source, `plate.${extension}`);
  return { source: asset.source, state: initialState(asset.source), images: asset.images, read: asset.read };
}

const CLASSIC = berth({ title: 'Berth', metresPerUnit: 0.01, workflow: 'legacy', patch: true, maps: [] });

const refusesPatch = async (...call: Parameters<typeof answerPatch>) => (await answerPatch(...call)).refusal;

const because = async (
  change: (state: AssetState) => object = () => ({}),
  more: Partial<Destination> = {},
) => {
  const asset = await plate();
  return refusesPatch(
    { ...asset, state: { ...asset.state, ...change(asset.state) } },
    { ...CLASSIC, ...more },
  );
};

describe('a source file', () => {
  it('is changed itself where nothing speaks against it', async () => {
    expect(await because()).toBeNull();
    // One tile is an image like any other.
    expect(
      await because(({ images }) => ({
        images: [{ ...images[0], tiles: [{ number: 1001, path: 'a' }] }, images[1]],
      })),
    ).toBeNull();
    // A value that the file has a word for.
    expect(
      await because(({ materials: [paint] }) => ({
        materials: [
          {
            ...paint,
            channels: {
              ...paint.channels,
              baseColor: { ...(paint.channels.baseColor as Channel), value: [1, 0, 0] },
            },
          },
        ],
      })),
    ).toBeNull();
  });

  it('is changed itself where names are others, or parts go', async () => {
    expect(
      await because(({ materials: [paint] }) => ({ materials: [{ ...paint, name: 'Tar' }] })),
    ).toBeNull();
    expect(await because(() => ({ parts: [{ do: 'drop', parts: ['plate'] }] }))).toBeNull();
  });

  it('is no source of another format', async () => {
    expect(await refusesPatch(await plate('obj'), CLASSIC)).toBe('the source is OBJ');
    expect(await because(undefined, { format: 'usd' })).toBe('the source is FBX');
    const asset = await plate();
    expect(await refusesPatch({ ...asset, source: { ...asset.source, model: 'quay.joined' } }, CLASSIC)).toBe(
      'it is several models as one',
    );
  });

  it.each<[string, Partial<Destination>]>([
    ['a size', { size: 2 }],
    ['parts cut by material', { parts: 'materials' }],
    ['files by group', { split: 'groups' }],
    ['a collision shape', { collision: { ...CLASSIC.collision, shape: 'hull' } }],
    ['images inside', { embed: true }],
  ])('is written anew where the destination wants %s', async (_, more) => {
    expect(await because(undefined, more)).toBe('Berth wants other geometry');
  });

  it.each<[string, (state: AssetState) => object, string]>([
    [
      'a part is not taken',
      ({ intake }) => ({ intake: { ...intake, parts: ['meshes'] } }),
      'not everything is taken as it is',
    ],
    [
      'tiles have no place',
      ({ images }) => ({
        images: [
          {
            ...images[0],
            tiles: [
              { number: 1001, path: 'a' },
              { number: 1002, path: 'b' },
            ],
          },
          images[1],
        ],
      }),
      'Berth has no tiles',
    ],
    [
      'parts have other faces',
      () => ({ parts: [{ do: 'turnFaces', parts: ['plate'] }] }),
      'plate has other points or faces',
    ],
    ['materials have numbers', () => ({ numbers: { Paint: 3 } }), 'materials were numbered'],
    [
      'there are more materials',
      ({ materials: [paint] }) => ({ materials: [paint, { ...paint, key: 'Tar' }] }),
      'materials were added or made one',
    ],
  ])('is written anew where %s', async (_, change, why) => {
    expect(await because(change)).toBe(why);
  });

  it('is written anew where something goes along that it does not hold', async () => {
    expect(await because(undefined, { turn: 8 })).toBe('a turn goes along');
    expect(await because(undefined, { stage: { camera: null, lamps: [], environment: null } })).toBe(
      'camera, lamps or environment go along',
    );
    expect(await because(undefined, { workflow: 'metalRough', whiteFactors: true })).toBe(
      'Paint must be brought to the shading model of Berth',
    );
  });

  it('is written anew where it has no word for an edit, or one for two images', async () => {
    const turned = ({ materials: [paint] }: AssetState) => {
      const baseColor = paint.channels.baseColor as Channel;
      const map = baseColor.map && { ...baseColor.map, invert: true };
      return { materials: [{ ...paint, channels: { ...paint.channels, baseColor: { ...baseColor, map } } }] };
    };
    expect(await because(turned)).toBe('Paint: another image or reading of base colour');
    const emptied = ({ materials: [paint] }: AssetState) => ({
      materials: [{ ...paint, channels: { bump: paint.channels.bump } }],
    });
    expect(await because(emptied)).toBe('Paint: base colour was emptied');
    const asset = await plate();
    const [paint, bump] = asset.state.images;
    const same = {
      ...asset,
      state: { ...asset.state, images: [paint, { ...bump, written: paint.written }] },
    };
    expect(await refusesPatch(same, CLASSIC)).toBe('two images wrote the same path');
    const inside = {
      ...same,
      state: { ...same.state, images: [paint, { ...same.state.images[1], status: 'embedded' as const }] },
    };
    expect(await refusesPatch(inside, CLASSIC)).toBeNull();
  });
});
