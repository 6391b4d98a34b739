import { expect, it } from 'vitest';
import { initialState } from '../../asset/asset.ts';
import { DESTINATIONS, findDestination } from '../../destinations/destinations.ts';
import type { Destination } from '../../destinations/profile.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { quadGlb, textureOf } from '../../test/quad.ts';
import { handOff } from '../handoff.ts';
import { prepare } from './prepare.ts';

it.each(DESTINATIONS.map((destination) => [destination.id, destination] as const))(
  '%s goes out with the value where an image is none, and names it',
  async (_, destination) => {
    const glb = await quadGlb('Sail', async (material, gltf) => {
      const swatch = Array.from({ length: 4 }, () => [200, 150, 100]).flat();
      const canvas = await textureOf(gltf, 'canvas', 2, swatch);
      canvas.setImage(new TextEncoder().encode('no image at all'));
      material
        .setBaseColorTexture(canvas)
        .setMetallicRoughnessTexture(await textureOf(gltf, 'rough', 2, swatch))
        .setBaseColorFactor([0.5, 0.25, 0.125, 1]);
    });
    const asset = await openAsset(memorySource('sail', { 'sail.glb': glb }), 'sail.glb');
    const state = initialState(asset.source);
    const { receipt } = await handOff({ ...asset, state, edits: [], findings: [], destination });
    expect(receipt.verdict).toBe('with remarks');
    expect(receipt.losses.join('\n')).toMatch(/base colour is missing; its value stands alone|canvas/);
  },
);

it('an image that no conversion wanted is left to the plan', async () => {
  const glb = await quadGlb('Sail', async (material, gltf) => {
    const canvas = gltf
      .createTexture('canvas')
      .setImage(new TextEncoder().encode('none'))
      .setMimeType('image/png');
    material.setBaseColorTexture(canvas);
  });
  const { source, images, read } = await openAsset(memorySource('sail', { 'sail.glb': glb }), 'sail.glb');
  const asset = { source, state: initialState(source), images, read };
  const missing = async (id: string) =>
    (await prepare(asset, findDestination(id) as Destination)).losses.map(({ channel }) => channel);
  expect(await missing('web-gltf')).toEqual([]);
  expect(await missing('render-specgloss')).toEqual(['baseColor']);
});
