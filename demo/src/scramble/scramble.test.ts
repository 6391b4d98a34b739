import { Document, NodeIO } from '@gltf-transform/core';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { measurePackage } from './measure.ts';
import { type ScrambleCase, type ScrambledParcel, scramble } from './scramble.ts';
import { SIDE } from './surfaces.ts';
import { scrambleTable } from './table.ts';

const CASE: ScrambleCase = {
  kind: 'test',
  asset: 'mooring_buoy',
  scheme: 'long',
  relation: 'same',
  loss: 'white',
  format: 'obj',
};

async function png(plane: Uint8Array, channels: 1 | 3): Promise<Uint8Array> {
  const image = sharp(plane, { raw: { width: SIDE, height: SIDE, channels } });
  return new Uint8Array(await image.png().toBuffer());
}

/** A package that an outside writer makes of the truth, with one thing bent. */
async function packageOf(
  parcel: ScrambledParcel,
  bend: (planes: Record<string, Record<string, Uint8Array>>) => void,
): Promise<Uint8Array> {
  const planes: Record<string, Record<string, Uint8Array>> = {};
  for (const { material, channel, plane } of parcel.truth)
    planes[material] = { ...planes[material], [channel]: plane };
  bend(planes);
  const document = new Document();
  document.createBuffer();
  for (const [name, own] of Object.entries(planes)) {
    const material = document.createMaterial(name);
    const texture = async (plane: Uint8Array, channels: 1 | 3) =>
      document
        .createTexture(name)
        .setImage(await png(plane, channels))
        .setMimeType('image/png');
    if (own.baseColor) material.setBaseColorTexture(await texture(own.baseColor, 3));
    if (own.normal) material.setNormalTexture(await texture(own.normal, 3));
    const packed = new Uint8Array(SIDE * SIDE * 3);
    for (let i = 0; i < SIDE * SIDE; i += 1)
      packed.set([own.occlusion?.[i] ?? 255, own.roughness[i], own.metalness[i]], i * 3);
    material
      .setMetallicRoughnessTexture(await texture(packed, 3))
      .setOcclusionTexture(material.getMetallicRoughnessTexture());
  }
  return new NodeIO().writeBinary(document);
}

describe('scrambled parcels', () => {
  it('are the same for equal cases, and every kind comes five times at least', async () => {
    const [first, second] = [await scramble(CASE), await scramble(CASE)];
    expect(Object.keys(first.files).sort()).toEqual(Object.keys(second.files).sort());
    for (const [path, bytes] of Object.entries(first.files))
      expect(Buffer.compare(bytes, second.files[path]), path).toBe(0);
    const table = scrambleTable();
    const counts = new Map<string, number>();
    for (const { kind } of table) counts.set(kind, (counts.get(kind) ?? 0) + 1);
    expect(table.length).toBeGreaterThanOrEqual(200);
    for (const [kind, count] of counts) expect(count, kind).toBeGreaterThanOrEqual(5);
  });

  it('are measured by pixels: what is true is right, what is bent is wrong, what is not there is missing', async () => {
    const parcel = await scramble(CASE);
    const outcomes = async (bend: Parameters<typeof packageOf>[1]) =>
      (await measurePackage(parcel, await packageOf(parcel, bend), [], CASE))
        .filter(({ outcome }) => outcome !== 'right')
        .map(({ material, channel, outcome }) => `${material} ${channel} ${outcome}`);
    expect(await outcomes(() => {})).toEqual([]);
    // Roughness and metalness exchanged; two materials' colours exchanged; a normal map left out.
    expect(
      await outcomes(({ float }) => {
        [float.roughness, float.metalness] = [float.metalness, float.roughness];
      }),
    ).toEqual(['float metalness wrong', 'float roughness wrong']);
    expect(
      await outcomes(({ chain, ring }) => {
        [chain.baseColor, ring.baseColor] = [ring.baseColor, chain.baseColor];
      }),
    ).toEqual(['chain baseColor wrong', 'ring baseColor wrong']);
    expect(
      await outcomes(({ chain }) => {
        delete chain.normal;
      }),
    ).toEqual(['chain normal missing']);
  });

  it('are told of only by what names the material or the file', async () => {
    const parcel = await scramble(CASE);
    const empty = await packageOf(parcel, (planes) => {
      delete planes.chain.normal;
    });
    const told = async (subject: string, severity: string, message = '') =>
      (await measurePackage(parcel, empty, [{ code: 'x', severity, subject, message }], CASE))
        .filter(({ outcome }) => outcome === 'missing')
        .map((one) => one.told);
    expect(await told('chain', 'warning')).toEqual([true]);
    expect(await told('chain', 'note')).toEqual([false]);
    expect(await told('ring', 'warning')).toEqual([false]);
    expect(await told('', 'warning', 'No slot reads textures/chain_Normal.png.')).toEqual([true]);
  });
});
