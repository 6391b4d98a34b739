import { type Document, type Material, NodeIO } from '@gltf-transform/core';
import {
  ALL_EXTENSIONS,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  KHRTextureTransform,
  type Specular,
} from '@gltf-transform/extensions';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { initialState } from '../asset/asset.ts';
import { findDestination } from '../destinations/destinations.ts';
import type { Destination } from '../destinations/profile.ts';
import { openAsset } from '../inspect.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { quadGlb } from '../test/quad.ts';
import { handOff } from './handoff.ts';

const CODES = [200, 150, 100, 128] as const;
/** By the sRGB curve: ((c / 255 + 0.055) / 1.055) ^ 2.4. */
const LIGHT = [0.57758, 0.30499, 0.12744];
const WEIGHT = 128 / 255;

async function image(gltf: Document, name: string, codes: readonly number[]) {
  const raw = { width: 2, height: 2, channels: codes.length as 3 | 4 };
  const pixels = Buffer.from(Array(4).fill(codes).flat());
  const bytes = await sharp(pixels, { raw }).png().toBuffer();
  return gltf.createTexture(name).setImage(new Uint8Array(bytes)).setMimeType('image/png');
}

type Dress = (specular: Specular, gltf: Document, material: Material) => Promise<unknown>;

async function sent(id: string, dress: Dress, variant?: string) {
  const glb = await quadGlb('Sail', async (material, gltf) => {
    const specular = gltf.createExtension(KHRMaterialsSpecular).createSpecular();
    material.setExtension('KHR_materials_specular', specular).setMetallicFactor(0).setRoughnessFactor(0.5);
    await dress(specular, gltf, material);
  });
  const asset = await openAsset(memorySource('sail', { 'sail.glb': glb }), 'sail.glb');
  const { files, receipt } = await handOff({
    ...asset,
    state: initialState(asset.source),
    edits: [],
    findings: [],
    threads: 1,
    destination: findDestination(id) as Destination,
    choices: variant ? { variant } : {},
  });
  const failed = receipt.readBack.checks.filter(({ ok }) => !ok).map(({ found }) => found);
  const path = [...files.keys()].find((file) => /\.(glb|fbx|obj)$/.test(file)) as string;
  return { files, path, failed, losses: receipt.losses.join() };
}

/** The highlight of the written glTF, as another library reads it. */
async function written(dress: Dress) {
  const { files, path, failed, losses } = await sent('web-gltf', dress);
  expect(failed).toEqual([]);
  const io = new NodeIO().registerExtensions(ALL_EXTENSIONS);
  const [material] = (await io.readBinary(files.get(path) as Uint8Array)).getRoot().listMaterials();
  return { specular: material.getExtension<Specular>('KHR_materials_specular') as Specular, losses };
}

async function pixelOf(bytes: Uint8Array | null | undefined): Promise<number[]> {
  const { data, info } = await sharp(bytes as Uint8Array)
    .raw()
    .toBuffer({ resolveWithObject: true });
  return [...data.subarray(0, info.channels)];
}

const both: Dress = async (specular, gltf) => {
  const texture = await image(gltf, 'shine', CODES);
  specular.setSpecularTexture(texture).setSpecularColorTexture(texture);
};

describe('how dielectrics reflect', () => {
  it('goes to glTF with tint and weight in one image, where they were in one', async () => {
    const { specular, losses } = await written(async (of, gltf, material) => {
      of.setSpecularFactor(0.5).setSpecularColorFactor([1, 0.5, 2]);
      await both(of, gltf, material);
    });
    expect(losses).not.toMatch(/specular/);
    expect([specular.getSpecularFactor(), specular.getSpecularColorFactor()]).toEqual([0.5, [1, 0.5, 2]]);
    expect(specular.getSpecularTexture()).toBe(specular.getSpecularColorTexture());
    expect(await pixelOf(specular.getSpecularTexture()?.getImage())).toEqual([...CODES]);
  });

  it('goes to glTF as tint alone, as weight alone, and as values', async () => {
    const tinted = await written(async (specular, gltf) => {
      specular.setSpecularColorTexture(await image(gltf, 'tint', CODES.slice(0, 3)));
    });
    expect(tinted.specular.getSpecularTexture()).toBeNull();
    expect(await pixelOf(tinted.specular.getSpecularColorTexture()?.getImage())).toEqual([200, 150, 100]);
    // An alpha that nobody reads may stay, and the file with it.
    let kept: Uint8Array | null = null;
    const copied = await written(async (specular, gltf) => {
      const texture = await image(gltf, 'shine', CODES);
      kept = texture.getImage();
      specular.setSpecularColorTexture(texture);
    });
    expect(copied.specular.getSpecularColorTexture()?.getImage()).toEqual(kept);
    const weighed = await written(async (specular, gltf) => {
      specular.setSpecularTexture(await image(gltf, 'weight', [9, 9, 9, 77]));
    });
    expect(weighed.specular.getSpecularColorTexture()).toBeNull();
    // Weights lie in alpha.
    expect((await pixelOf(weighed.specular.getSpecularTexture()?.getImage()))[3]).toBe(77);
    const plain = await written(async (specular) => void specular.setSpecularColorFactor([0.2, 0.4, 1]));
    expect([plain.specular.getSpecularColorFactor(), plain.losses]).toEqual([[0.2, 0.4, 1], '']);
  });

  it('goes to glTF in two images where they lie otherwise', async () => {
    const { specular } = await written(async (of, gltf, material) => {
      await both(of, gltf, material);
      const transform = gltf.createExtension(KHRTextureTransform).createTransform().setScale([3, 3]);
      of.getSpecularTextureInfo()?.setExtension('KHR_texture_transform', transform);
    });
    expect(specular.getSpecularTexture()).not.toBe(specular.getSpecularColorTexture());
    expect((await pixelOf(specular.getSpecularTexture()?.getImage()))[3]).toBe(128);
    expect((await pixelOf(specular.getSpecularColorTexture()?.getImage())).slice(0, 3)).toEqual([
      200, 150, 100,
    ]);
    const scaleOf = (info: ReturnType<Specular['getSpecularTextureInfo']>) =>
      info?.getExtension('KHR_texture_transform') as { getScale(): number[] } | null;
    expect(scaleOf(specular.getSpecularTextureInfo())?.getScale()).toEqual([3, 3]);
    expect(scaleOf(specular.getSpecularColorTextureInfo())).toBeNull();
  });

  it.each<[string, number]>([
    ['a dielectric', 0],
    ['half a metal', 0.5],
  ])('is the reflectance of spec/gloss, of %s', async (_, metal) => {
    const { files, failed } = await sent('render-specgloss', async (specular, gltf, material) => {
      material.setMetallicFactor(metal).setBaseColorFactor([0.8, 0.6, 0.4, 1]);
      specular.setSpecularFactor(0.75);
      await both(specular, gltf, material);
    });
    expect(failed).toEqual([]);
    const path = [...files.keys()].find((file) => /specular\.tif$/.test(file)) as string;
    const { data } = await sharp(files.get(path) as Uint8Array)
      .toColourspace('rgb16')
      .raw({ depth: 'ushort' })
      .toBuffer({ resolveWithObject: true });
    const codes = new Uint16Array(data.buffer, data.byteOffset, 3);
    const reflected = [0.8, 0.6, 0.4].map((base, k) => {
      const dielectric = 0.04 * LIGHT[k] * WEIGHT * 0.75;
      return dielectric * (1 - metal) + base * metal;
    });
    // As exact as the eight bits that it was made of; near black the curve is a line.
    const curved = (light: number) =>
      light < 0.0031308 ? light * 12.92 : 1.055 * light ** (1 / 2.4) - 0.055;
    for (const [k, code] of codes.entries())
      expect(Math.abs(code / 65_535 - curved(reflected[k]))).toBeLessThan(0.6 / 255);
  });

  it('lies where it likes beside a base colour that stays as it is', async () => {
    const { failed, losses } = await sent('render-specgloss', async (specular, gltf, material) => {
      const transform = gltf.createExtension(KHRTextureTransform).createTransform().setScale([3, 3]);
      material.setBaseColorTexture(await image(gltf, 'paint', CODES.slice(0, 3)));
      material.getBaseColorTextureInfo()?.setExtension('KHR_texture_transform', transform);
      await both(specular, gltf, material);
    });
    expect([failed, losses]).toEqual([[], '']);
  });

  it('is a value where it was one, in spec/gloss too', async () => {
    const { files, path, failed } = await sent('render-specgloss', async (specular) => {
      specular.setSpecularFactor(0.5).setSpecularColorFactor([1, 0.5, 0.25]);
    });
    expect(failed).toEqual([]);
    const { document } = await openAsset(memorySource('package', Object.fromEntries(files)), path);
    expect(document.materials[0].channels.specularColor?.value).toEqual(
      [0.02, 0.01, 0.005].map((component) => expect.closeTo(component, 6)),
    );
  });

  it('is the classic highlight, tinted and as strong as the surface is smooth', async () => {
    const { files, failed } = await sent(
      'compositor-classic',
      async (specular) => void specular.setSpecularColorFactor([1, 0.5, 0.2]),
      'obj',
    );
    expect(failed).toEqual([]);
    const text = new TextDecoder().decode([...files].find(([path]) => path.endsWith('.mtl'))?.[1]);
    // 1 - roughness 0.5, times the tint.
    expect(text).toMatch(/^Ks 0\.5 0\.25 0\.1$/m);
  });

  it('is told where it has no place', async () => {
    const values: Dress = async (specular) => void specular.setSpecularColorFactor([1, 0.5, 0.2]);
    expect((await sent('compositor-usd', values)).losses).toMatch(/Sail: .*specular colour/);
    for (const id of ['modelling', 'engine-packed', 'compositor-usd', 'render-film']) {
      const { failed, losses } = await sent(id, both);
      expect([id, failed]).toEqual([id, []]);
      expect(losses).toMatch(/Sail: the map of specular colour has no place/);
      expect(losses).toMatch(/Sail: the map of specular has no place/);
    }
  });

  it('is told with what else glTF alone says: how thick glass and how rough cloth is', async () => {
    const layered =
      (thick: number, rough: number): Dress =>
      async (_, gltf, material) => {
        const volume = gltf.createExtension(KHRMaterialsVolume).createVolume().setThicknessFactor(thick);
        const glass = gltf.createExtension(KHRMaterialsTransmission).createTransmission();
        const sheen = gltf.createExtension(KHRMaterialsSheen).createSheen().setSheenColorFactor([1, 0, 0]);
        material
          .setExtension('KHR_materials_volume', volume)
          .setExtension('KHR_materials_transmission', glass.setTransmissionFactor(1))
          .setExtension('KHR_materials_sheen', sheen.setSheenRoughnessFactor(rough));
      };
    const [thickness, cloth] = [/Sail: glass is a solid body, .* in Modelling/, /Sail: how rough cloth is/];
    const told = (await sent('modelling', layered(0.1, 0.9))).losses;
    expect([thickness.test(told), cloth.test(told)]).toEqual([true, true]);
    const thin = (await sent('modelling', layered(0, 0.5))).losses;
    expect([thickness.test(thin), cloth.test(thin)]).toEqual([false, false]);
    expect((await sent('web-gltf', layered(0.1, 0.9))).losses).toBe('');
  });

  it('keeps its tint in FBX, whose classic highlight has it too', async () => {
    const { files, path, failed } = await sent(
      'modelling',
      async (specular) => void specular.setSpecularColorFactor([1, 0.5, 0.25]),
    );
    expect(failed).toEqual([]);
    const { document } = await openAsset(memorySource('package', Object.fromEntries(files)), path);
    const [{ channels, extras }] = document.materials;
    expect(channels.specularColor?.value).toEqual([1, 0.5, 0.25]);
    // 4% of it, kept for readers who know no other.
    expect(extras['classic highlight'].split(' ').map(Number)).toEqual(
      [0.04, 0.02, 0.01].map((component) => expect.closeTo(component, 6)),
    );
  });
});
