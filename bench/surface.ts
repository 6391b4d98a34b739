import type { AssetState } from '@kinkajou/core/asset/asset';
import { makeMaps } from '@kinkajou/core/asset/makeMaps';
import { TAKE_ALL } from '@kinkajou/core/scene/intake';
import { createMapUse, createMaterial } from '@kinkajou/core/scene/material';
import sharp from 'sharp';
import { bigMap, SIDE as SIZE } from './classify.ts';

/** A metal/rough set of large square maps: painted base colour, metalness in ramps. */
export async function bigSet(): Promise<{ base: Uint8Array; metal: Uint8Array }> {
  const ramp = Uint8Array.from({ length: SIZE * SIZE }, (_, i) => (i % SIZE) >> 4);
  const metal = await sharp(ramp, { raw: { width: SIZE, height: SIZE, channels: 1 } })
    .toColourspace('b-w')
    .png({ compressionLevel: 6 })
    .toBuffer();
  return { base: await bigMap('colour'), metal };
}

/** Our recipe: metal/rough to spec/gloss, as the application runs it. */
export async function convertOurs({ base, metal }: { base: Uint8Array; metal: Uint8Array }): Promise<void> {
  const material = createMaterial('Hull', 'metalRough');
  const source = { from: 'file' as const, detail: '' };
  material.channels.baseColor = { value: [1, 1, 1], map: createMapUse('base.png', 'baseColor'), source };
  material.channels.metalness = { value: 1, map: createMapUse('metal.png', 'metalness'), source };
  const images = ['base.png', 'metal.png'].map((path) => ({
    key: path,
    written: path,
    relative: null,
    status: 'found' as const,
    resolved: path,
    how: '',
  }));
  const state: AssetState = { materials: [material], images, intake: TAKE_ALL };
  await makeMaps({ materials: ['Hull'], recipe: 'spec-gloss', params: {} }, state, async (path) =>
    path === 'base.png' ? base : metal,
  );
}

/** The same sums in a bare script: sharp decodes and encodes, tables and one loop between. */
export async function convertBare({ base, metal }: { base: Uint8Array; metal: Uint8Array }): Promise<void> {
  const [colour, mask] = await Promise.all([
    sharp(base).raw().toBuffer(),
    sharp(metal).toColourspace('b-w').raw().toBuffer(),
  ]);
  const decode = Float32Array.from({ length: 256 }, (_, code) =>
    code / 255 <= 0.04045 ? code / 255 / 12.92 : ((code / 255 + 0.055) / 1.055) ** 2.4,
  );
  const encode = Uint8Array.from({ length: 65536 }, (_, i) =>
    Math.round(
      255 * (i / 65535 <= 0.0031308 ? (12.92 * i) / 65535 : 1.055 * (i / 65535) ** (1 / 2.4) - 0.055),
    ),
  );
  const [diffuse, specular] = [new Uint8Array(colour.length), new Uint8Array(colour.length)];
  for (let i = 0, at = 0; i < mask.length; i += 1) {
    const metalness = mask[i] / 255;
    for (let k = 0; k < 3; k += 1, at += 1) {
      const light = decode[colour[at]];
      diffuse[at] = encode[Math.round(light * (1 - metalness) * 65535)];
      specular[at] = encode[Math.round((0.04 + (light - 0.04) * metalness) * 65535)];
    }
  }
  const raw = { raw: { width: SIZE, height: SIZE, channels: 3 as const } };
  for (const data of [diffuse, specular]) await sharp(data, raw).png({ compressionLevel: 6 }).toBuffer();
}
