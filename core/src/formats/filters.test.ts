import { TextureInfo } from '@gltf-transform/core';
import { beforeAll, describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { DESTINATIONS, findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { type HandoffResult, handOff } from '../handoff/handoff.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { quadGlb, textureOf } from '../test/quad.ts';
import { gltfIo } from './gltf/io.ts';

const { MagFilter, MinFilter } = TextureInfo;
let flags: Uint8Array;

/** A flag whose four swatches are read one by one, with a normal map that is filtered smoothly. */
beforeAll(async () => {
  flags = await quadGlb('Flag', async (material, gltf) => {
    const swatches = [200, 30, 30, 240, 200, 40, 30, 60, 160, 250, 250, 250];
    const weave = [128, 128, 255, 140, 128, 254, 128, 140, 254, 116, 128, 254];
    material
      .setBaseColorTexture(await textureOf(gltf, 'swatches', 2, swatches))
      .setNormalTexture(await textureOf(gltf, 'weave', 2, weave));
    material.getBaseColorTextureInfo()?.setMagFilter(MagFilter.NEAREST).setMinFilter(MinFilter.NEAREST);
    material
      .getNormalTextureInfo()
      ?.setMagFilter(MagFilter.LINEAR)
      .setMinFilter(MinFilter.LINEAR_MIPMAP_LINEAR);
  });
});

async function handedTo(destination: Destination): Promise<HandoffResult> {
  const asset = await openAsset(memorySource('flags', { 'flags.glb': flags }), 'flags.glb');
  return handOff({ ...asset, state: initialState(asset.source), edits: [], findings: [], destination });
}

describe('texels that are taken one by one', () => {
  it('are read of glTF, map by map', async () => {
    const [{ channels }] = (await readModel('flags.glb', memorySource('flags', { 'flags.glb': flags })))
      .materials;
    expect([channels.baseColor?.map?.filter, channels.normal?.map?.filter]).toEqual(['nearest', undefined]);
  });

  it('are written to glTF, and others are left to the reader', async () => {
    const { files } = await handedTo(findDestination('web-gltf') as Destination);
    const written = await (await gltfIo()).readBinary(files.get('flags.glb') as Uint8Array);
    const [material] = written.getRoot().listMaterials();
    // OpenGL's number, as glTF has it.
    expect(material.getBaseColorTextureInfo()?.getMagFilter()).toBe(9728);
    expect(material.getBaseColorTextureInfo()?.getMinFilter()).toBe(9728);
    expect(material.getNormalTextureInfo()?.getMagFilter()).toBeNull();
  });

  it.each(DESTINATIONS.map((destination) => [destination.id, destination] as const))(
    'reach %s, in the model or by the sheet, and the receipt holds',
    async (_id, destination) => {
      const { receipt, sheet } = await handedTo(destination);
      expect(receipt.readBack.checks.filter(({ ok }) => !ok)).toEqual([]);
      const palettes = sheet.materials.flatMap(({ maps }) => maps.filter(({ palette }) => palette));
      expect(palettes).toHaveLength(1);
      const lacking = destination.format === 'gltf' ? 0 : 1;
      expect(sheet.unsaid.filter((line) => line.includes('taken one by one'))).toHaveLength(lacking);
    },
  );
});
