import { Document } from '@gltf-transform/core';
import {
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsPBRSpecularGlossiness,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsUnlit,
  KHRMaterialsVolume,
} from '@gltf-transform/extensions';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { initialState } from '../../asset/asset.ts';
import { webGltf } from '../../destinations/webGltf.ts';
import { handOff } from '../../handoff/handoff.ts';
import { openAsset } from '../../inspect.ts';
import { memorySource } from '../../parcel/fileSource.ts';
import { readModel } from '../../readModel.ts';
import type { SceneDocument } from '../../scene/document.ts';
import { gltfIo } from './io.ts';

type GltfMaterial = ReturnType<Document['createMaterial']>;

/** A triangle of one material. */
async function fender(
  change: (material: GltfMaterial, gltf: Document) => Promise<void> | void,
): Promise<Uint8Array> {
  const gltf = new Document();
  const buffer = gltf.createBuffer();
  const material = gltf.createMaterial('Fender').setMetallicFactor(0);
  await change(material, gltf);
  const of = (type: 'VEC3' | 'VEC2', array: Float32Array<ArrayBuffer>) =>
    gltf.createAccessor().setType(type).setArray(array).setBuffer(buffer);
  const primitive = gltf
    .createPrimitive()
    .setAttribute('POSITION', of('VEC3', Float32Array.from([0, 0, 0, 1, 0, 0, 1, 1, 0])))
    .setAttribute('TEXCOORD_0', of('VEC2', Float32Array.from([0, 1, 1, 1, 1, 0])))
    .setMaterial(material);
  gltf
    .createScene()
    .addChild(gltf.createNode('Fender').setMesh(gltf.createMesh('Fender').addPrimitive(primitive)));
  return (await gltfIo()).writeBinary(gltf);
}

const texture = async (gltf: Document, code: number) =>
  gltf
    .createTexture('map')
    .setMimeType('image/png')
    .setImage(
      new Uint8Array(
        await sharp({
          create: { width: 4, height: 4, channels: 3, background: { r: code, g: code, b: code } },
        })
          .png()
          .toBuffer(),
      ),
    );

const read = async (change: Parameters<typeof fender>[0]): Promise<SceneDocument> =>
  readModel('fender.glb', memorySource('fender', { 'fender.glb': await fender(change) }));

describe('what there is no channel for', () => {
  it.each<[string, (material: GltfMaterial, gltf: Document) => Promise<void> | void]>([
    [
      'normal maps of coats',
      async (material, gltf) =>
        void material.setExtension(
          'KHR_materials_clearcoat',
          gltf
            .createExtension(KHRMaterialsClearcoat)
            .createClearcoat()
            .setClearcoatFactor(1)
            .setClearcoatNormalTexture(await texture(gltf, 128)),
        ),
    ],
    [
      'roughness maps of sheens',
      async (material, gltf) =>
        void material.setExtension(
          'KHR_materials_sheen',
          gltf
            .createExtension(KHRMaterialsSheen)
            .createSheen()
            .setSheenColorFactor([1, 1, 1])
            .setSheenRoughnessTexture(await texture(gltf, 128)),
        ),
    ],
    [
      'colours inside of glass',
      (material, gltf) =>
        void material.setExtension(
          'KHR_materials_volume',
          gltf
            .createExtension(KHRMaterialsVolume)
            .createVolume()
            .setThicknessFactor(1)
            .setAttenuationDistance(2)
            .setAttenuationColor([0.1, 0.8, 0.4]),
        ),
    ],
    [
      'reflections that are drawn out (anisotropy)',
      (material, gltf) =>
        void material.setExtension(
          'KHR_materials_anisotropy',
          gltf.createExtension(KHRMaterialsAnisotropy).createAnisotropy().setAnisotropyStrength(0.5),
        ),
    ],
    [
      'surfaces without light (unlit)',
      (material, gltf) =>
        void material.setExtension(
          'KHR_materials_unlit',
          gltf.createExtension(KHRMaterialsUnlit).createUnlit(),
        ),
    ],
  ])('is told: %s', async (subject, change) => {
    expect((await read(change)).remarks).toContainEqual(
      expect.objectContaining({
        code: 'read.notCarried',
        severity: 'warning',
        subject,
        message: 'there is no channel for them: Fender',
      }),
    );
  });

  it('is nothing where the extension says what is usual', async () => {
    const { remarks, materials } = await read((material, gltf) => {
      material.setExtension(
        'KHR_materials_specular',
        gltf
          .createExtension(KHRMaterialsSpecular)
          .createSpecular()
          .setSpecularFactor(0.5)
          .setSpecularColorFactor([1, 0.5, 0.2]),
      );
      material.setExtension(
        'KHR_materials_volume',
        gltf.createExtension(KHRMaterialsVolume).createVolume().setThicknessFactor(1),
      );
      material.setExtension(
        'KHR_materials_anisotropy',
        gltf.createExtension(KHRMaterialsAnisotropy).createAnisotropy(),
      );
    });
    expect(remarks).toEqual([]);
    const [{ channels }] = materials;
    expect([channels.specular?.value, channels.specularColor?.value]).toEqual([0.5, [1, 0.5, 0.2]]);
  });
});

describe('the strength of occlusion', () => {
  it('brings the dark towards white, in the reading and in the pixels of a package', async () => {
    const bytes = await fender(
      async (material, gltf) =>
        void material.setOcclusionTexture(await texture(gltf, 51)).setOcclusionStrength(0.25),
    );
    const {
      document,
      source,
      images,
      read: readFile,
    } = await openAsset(memorySource('fender', { 'fender.glb': bytes }), 'fender.glb');
    // 1 + 0.25 (x - 1).
    expect(document.materials[0].channels.occlusion).toMatchObject({
      value: 1,
      map: { gain: 0.25, offset: 0.75 },
    });
    const { files, receipt } = await handOff({
      document,
      source,
      state: initialState(source),
      edits: [],
      findings: [],
      images,
      destination: webGltf,
      choices: { variant: 'gltf' },
      read: readFile,
    });
    expect(receipt.verdicts).toEqual({ model: 'same', sheet: 'same' });
    const [, image] = [...files].find(([path]) => /orm\.png$/.test(path)) ?? [];
    const [red] = await sharp(image).raw().toBuffer();
    // 51 of 255 is 0.2: 1 - 0.25 * 0.8 = 0.8, which is 204.
    expect(Math.abs(red - 204)).toBeLessThanOrEqual(1);
  });
});

describe('spec/gloss by its extension', () => {
  const glossy = (alpha: 'OPAQUE' | 'BLEND') =>
    read(async (material, gltf) => {
      const extension = gltf.createExtension(KHRMaterialsPBRSpecularGlossiness).createPBRSpecularGlossiness();
      extension
        .setDiffuseFactor([0.5, 0.25, 1, 0.75])
        .setDiffuseTexture(await texture(gltf, 51))
        .setSpecularFactor([0.2, 0.3, 0.4])
        .setGlossinessFactor(0.6)
        .setSpecularGlossinessTexture(await texture(gltf, 204));
      extension.getDiffuseTextureInfo()?.setTexCoord(0);
      material.setAlphaMode(alpha).setExtension('KHR_materials_pbrSpecularGlossiness', extension);
    });

  it('has diffuse, specular and gloss, the gloss in the alpha of the specular image', async () => {
    const { materials } = await glossy('OPAQUE');
    expect(materials[0].workflow).toBe('specGloss');
    const { baseColor, specularColor, glossiness, opacity, roughness, metalness } = materials[0].channels;
    expect(baseColor).toMatchObject({
      value: [0.5, 0.25, 1],
      map: { component: 'rgb', space: 'srgb_rec709_scene' },
    });
    expect(specularColor).toMatchObject({
      value: [0.2, 0.3, 0.4],
      map: { component: 'rgb', space: 'srgb_rec709_scene' },
    });
    expect(glossiness).toMatchObject({
      value: 0.6,
      map: { component: 'a', image: specularColor?.map?.image, space: 'data', invert: false },
    });
    expect(baseColor?.map?.image).not.toBe(specularColor?.map?.image);
    // An opaque material has no opacity, whatever its factor says.
    expect([opacity, roughness, metalness]).toEqual([undefined, undefined, undefined]);
  });

  it('has the opacity of its diffuse where it blends', async () => {
    const { materials } = await glossy('BLEND');
    expect(materials[0]).toMatchObject({
      alphaMode: 'blend',
      channels: { opacity: { value: 0.75, map: { component: 'a' } } },
    });
  });
});

describe('a normal map of glTF', () => {
  const normal = async (change: (material: GltfMaterial, gltf: Document) => Promise<void> | void) =>
    (await read(change)).materials[0].channels.normal;

  it('points green up, and keeps a strength other than 1', async () => {
    const plain = await normal(
      async (material, gltf) => void material.setNormalTexture(await texture(gltf, 128)),
    );
    expect(plain).toMatchObject({
      value: [1, 1, 1],
      map: { component: 'rgb', normalY: 'Y+', space: 'data' },
      source: { detail: 'normalTexture' },
    });
    expect(plain?.map?.strength ?? 1).toBe(1);
    const weak = await normal(
      async (material, gltf) => void material.setNormalTexture(await texture(gltf, 128)).setNormalScale(0.25),
    );
    expect(weak?.map?.strength).toBe(0.25);
  });

  it('is none without an image, whatever its scale', async () => {
    expect(await normal((material) => void material.setNormalScale(0.25))).toBeUndefined();
  });
});
