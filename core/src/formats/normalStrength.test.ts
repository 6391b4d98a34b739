import { beforeAll, describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { DESTINATIONS } from '../destinations/destinations.ts';
import { handOff } from '../handoff/handoff.ts';
import { sideOf } from '../handoff/readBack/proof.ts';
import { openAsset } from '../inspect.ts';
import { fileName, memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { quadGlb, textureOf } from '../test/quad.ts';
import { decodeOutside, put } from '../test/tools.ts';
import { writeModel } from './writeModel.ts';

/** A vector that leans by 0.6 in x and -0.48 in y, as every pixel of a map. */
const LEANING = [0.6, -0.48, 0.64].map((component) => Math.round((component * 0.5 + 0.5) * 255));
let glb: Uint8Array;

beforeAll(async () => {
  glb = await quadGlb('Fender', async (material, gltf) => {
    const codes = Array.from({ length: 16 }, () => LEANING).flat();
    material
      .setNormalTexture(await textureOf(gltf, 'fender_normal', 4, codes))
      .setNormalScale(0.5)
      .setRoughnessFactor(0.6);
  });
});

const strengthIn = async (name: string, files: Record<string, Uint8Array>) =>
  (await readModel(name, memorySource('fender', files))).materials[0].channels.normal?.map?.strength;

describe('the strength of a normal map', () => {
  it('is read of glTF, and said by USD and MTL', async () => {
    expect(await strengthIn('fender.glb', { 'fender.glb': glb })).toBe(0.5);
    const document = await readModel('fender.glb', memorySource('fender', { 'fender.glb': glb }));
    const usda = writeModel(document, 'fender.usda', {}).files;
    const text = new TextDecoder().decode(usda.get('fender.usda'));
    expect(text).toMatch(/inputs:scale = \(1, 1, 2, 1\)/);
    expect(text).toMatch(/inputs:bias = \(-0.5, -0.5, -1, 0\)/);
    expect(await strengthIn('fender.usda', Object.fromEntries(usda))).toBe(0.5);
    const obj = writeModel(document, 'fender.obj', {}).files;
    expect(new TextDecoder().decode(obj.get('fender.mtl'))).toMatch(/^norm -bm 0.5 /m);
    expect(await strengthIn('fender.obj', Object.fromEntries(obj))).toBe(0.5);
    const { losses } = writeModel(document, 'fender.fbx', {});
    expect(losses).toContainEqual(expect.objectContaining({ code: 'fbx.inverted', channel: 'normal' }));
  });

  it.each(DESTINATIONS.map(({ id }) => id))('is in the pixels that %s gets', async (id) => {
    const asset = await openAsset(memorySource('fender', { 'fender.glb': glb }), 'fender.glb');
    const destination = DESTINATIONS.find((one) => one.id === id) as (typeof DESTINATIONS)[number];
    const { document, source, images, read } = asset;
    const { files, receipt } = await handOff({
      document,
      source,
      state: initialState(source),
      edits: [],
      findings: [],
      images,
      destination,
      read,
    });
    expect(receipt.verdicts).toEqual({ model: 'same', sheet: 'same' });
    const model = [...files.keys()].find((name) => /\.(glb|fbx|obj|usd[acz])$/.test(name)) as string;
    const side = await sideOf(memorySource('package', Object.fromEntries(files)), model);
    const use = side.materials[0].channels.normal?.map;
    if (destination.id === 'building-parts') {
      expect(use).toBeUndefined();
      expect(receipt.losses.join()).toContain('the map of normal has no place');
      return;
    }
    const image = side.images.find(({ key }) => key === use?.image);
    const pixels = decodeOutside(
      put(`${id}_${fileName(image?.resolved ?? '')}`, await side.read(image?.resolved ?? '')),
      'R,G,B',
      true,
    );
    // (0.3, -0.24, 0.64), of length 0.7463; green turned where the destination wants Y-.
    const y = destination.normalY === 'Y-' ? 0.3216 : -0.3216;
    [0.402, y, 0.8576].forEach((component, k) =>
      expect(Math.abs(pixels[k] - (component * 0.5 + 0.5))).toBeLessThanOrEqual(2 / 255),
    );
  });
});
