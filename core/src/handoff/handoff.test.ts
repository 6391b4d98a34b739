import { NodeIO } from '@gltf-transform/core';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { channelBuoy } from '../../../demo/src/channelBuoy.ts';
import type { DemoParcel } from '../../../demo/src/scene.ts';
import { stormLantern } from '../../../demo/src/stormLantern.ts';
import { initialState } from '../asset/asset.ts';
import { webGltf } from '../destinations/webGltf.ts';
import { replay } from '../edits/log.ts';
import { listModels, mendAsset, type OpenAsset, openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { harbourParcel } from '../test/harbour.ts';
import { type HandoffResult, handOff } from './handoff.ts';

async function open(parcel: DemoParcel): Promise<OpenAsset> {
  const source = memorySource(parcel.id, parcel.files);
  return openAsset(source, listModels(source)[0]);
}

function make(asset: OpenAsset, variant: 'glb' | 'gltf'): Promise<HandoffResult> {
  const { edits, state, findings } = mendAsset(asset.source, asset.images, 'all');
  return handOff({
    document: asset.document,
    source: asset.source,
    state,
    edits,
    findings,
    images: asset.images,
    destination: webGltf,
    choices: { variant },
    read: asset.read,
  });
}

let parcels: DemoParcel[];
let lantern: OpenAsset;
beforeAll(async () => {
  parcels = [await harbourParcel(stormLantern), await harbourParcel(channelBuoy)];
  lantern = await open(parcels[0]);
});

describe('the harbour', () => {
  it('replays the log to the same state and undoes to the source', () => {
    const { edits, state } = mendAsset(lantern.source, lantern.images, 'all');
    expect(replay(lantern.source, edits, lantern.images).state).toEqual(state);
    expect(replay(lantern.source, [], lantern.images).state).toEqual(initialState(lantern.source));
  });
});

describe('what cannot be handed off', () => {
  it('is refused by name: points and lines are no surface', async () => {
    const source = memorySource('line', {
      'line.obj': new TextEncoder().encode('v 0 0 0\nv 1 0 0\nl 1 2\nf 1 2 1\n'),
    });
    const asset = await openAsset(source, 'line.obj');
    const { document } = asset;
    const bare = {
      ...asset,
      document: {
        ...document,
        meshes: document.meshes.map((mesh) => ({
          ...mesh,
          faceCounts: new Uint32Array(),
          faceCorners: new Uint32Array(),
        })),
      },
    };
    await expect(make(bare, 'glb')).rejects.toMatchObject({
      code: 'handoff.empty',
      place: { file: 'line.obj' },
    });
  });
});

describe('web-gltf', () => {
  it('packs the lantern: each pixel from the image that it should come from', async () => {
    const { files, receipt } = await make(lantern, 'glb');
    expect(receipt.readBack.checks.filter((check) => !check.ok)).toEqual([]);
    expect(receipt.readBack.validator?.errors).toBe(0);
    const gltf = await new NodeIO().readBinary(files.get('lantern.glb') as Uint8Array);
    const brass = gltf
      .getRoot()
      .listMaterials()
      .find((material) => material.getName() === 'Brass');
    expect(brass?.getAlphaMode()).toBe('OPAQUE');
    expect(brass?.getOcclusionTexture()).toBe(brass?.getMetallicRoughnessTexture());
    const raw = (bytes: Uint8Array) => sharp(bytes).raw().toBuffer();
    const packed = await raw(brass?.getMetallicRoughnessTexture()?.getImage() as Uint8Array);
    const source = (name: string) =>
      raw(parcels[0].files[`storm-lantern/textures/lantern_brass_${name}.png`]);
    const [ao, gloss, metal] = [await source('ao'), await source('glossiness'), await source('metalness')];
    const step = ao.length / (1024 * 1024);
    for (let i = 0; i < 1024 * 1024; i += 4099) {
      expect([packed[i * 3], packed[i * 3 + 1], packed[i * 3 + 2]]).toEqual([
        ao[i * step],
        255 - gloss[i * step],
        metal[i * step],
      ]);
    }
  });

  it('gives the same bytes for the same input, also beside its maps', async () => {
    const [a, b] = [await make(lantern, 'gltf'), await make(lantern, 'gltf')];
    expect(a.receipt).toEqual(b.receipt);
    expect(a.receipt.outputs.map((file) => file.path)).toContain('lantern.gltf');
    expect(a.receipt.readBack.validator?.errors).toBe(0);
  });
});
