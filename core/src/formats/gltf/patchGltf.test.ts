import { describe, expect, it } from 'vitest';
import type { ModelPatch } from '../patch.ts';
import { patchGltf } from './patchGltf.ts';

const nothing: ModelPatch = { images: [], values: [], sides: [], alphas: [] };

/** Patches JSON with tabs, and returns it as JSON. */
function patch(
  json: object,
  part: Partial<ModelPatch>,
): {
  json: Record<string, never> & { materials: Record<string, never>[]; [key: string]: unknown };
  missed: string[];
} {
  const { files, missed } = patchGltf(new TextEncoder().encode(JSON.stringify(json, null, '\t')), 'a.gltf', {
    ...nothing,
    ...part,
  });
  return { json: JSON.parse(new TextDecoder().decode(files.get('a.gltf'))), missed };
}

const asset = { version: '2.0' };
const value = (channel: string, number: number | number[], material = 'Hull') =>
  ({ material, channel, value: number }) as ModelPatch['values'][number];

describe('factors of glTF', () => {
  it.each<[string, number | number[], object]>([
    [
      'baseColor',
      [0.1, 0.2, 0.3],
      { pbrMetallicRoughness: { baseColorFactor: [0.1, 0.2, 0.3, 0.5], metallicFactor: 0.25 } },
    ],
    ['opacity', 0.75, { pbrMetallicRoughness: { baseColorFactor: [1, 0.5, 0, 0.75], metallicFactor: 0.25 } }],
    ['metalness', 0, { pbrMetallicRoughness: { baseColorFactor: [1, 0.5, 0, 0.5], metallicFactor: 0 } }],
    [
      'roughness',
      0.4,
      {
        pbrMetallicRoughness: {
          baseColorFactor: [1, 0.5, 0, 0.5],
          metallicFactor: 0.25,
          roughnessFactor: 0.4,
        },
      },
    ],
    ['emission', [0.5, 0, 1], { emissiveFactor: [0.5, 0, 1] }],
    [
      'emission',
      [4, 2, 0],
      {
        emissiveFactor: [1, 0.5, 0],
        extensions: { KHR_materials_emissive_strength: { emissiveStrength: 4 } },
      },
    ],
    ['ior', 1.33, { extensions: { KHR_materials_ior: { ior: 1.33 } } }],
    ['transmission', 1, { extensions: { KHR_materials_transmission: { transmissionFactor: 1 } } }],
    ['coat', 0.5, { extensions: { KHR_materials_clearcoat: { clearcoatFactor: 0.5 } } }],
    ['coatRoughness', 0.1, { extensions: { KHR_materials_clearcoat: { clearcoatRoughnessFactor: 0.1 } } }],
    ['specular', 0.3, { extensions: { KHR_materials_specular: { specularFactor: 0.3 } } }],
    [
      'specularColor',
      [1, 0.9, 0.8],
      { extensions: { KHR_materials_specular: { specularColorFactor: [1, 0.9, 0.8] } } },
    ],
    [
      'sheenColor',
      [0.1, 0.1, 0.2],
      { extensions: { KHR_materials_sheen: { sheenColorFactor: [0.1, 0.1, 0.2] } } },
    ],
  ])('%s as %j', (channel, number, expected) => {
    const before = {
      asset,
      materials: [
        { name: 'Hull', pbrMetallicRoughness: { baseColorFactor: [1, 0.5, 0, 0.5], metallicFactor: 0.25 } },
        { name: 'Deck' },
      ],
    };
    const { json, missed } = patch(before, { values: [value(channel, number)] });
    expect(json.materials[0]).toMatchObject(expected);
    expect(json.materials[1]).toEqual({ name: 'Deck' });
    expect(missed).toEqual([]);
    const { extensions } = expected as { extensions?: object };
    expect(json.extensionsUsed).toEqual(extensions ? Object.keys(extensions) : undefined);
  });

  it('join extensions that are there, and are made where nothing was', () => {
    const before = {
      asset,
      extensionsUsed: ['KHR_materials_clearcoat'],
      materials: [
        { extensions: { KHR_materials_clearcoat: { clearcoatFactor: 1, clearcoatTexture: { index: 3 } } } },
      ],
    };
    const { json } = patch(before, {
      values: [
        value('coatRoughness', 0.2, 'material_1'),
        value('baseColor', [0, 0, 1], 'material_1'),
        value('opacity', 0.5, 'material_1'),
      ],
    });
    expect(json.materials[0]).toEqual({
      extensions: {
        KHR_materials_clearcoat: {
          clearcoatFactor: 1,
          clearcoatTexture: { index: 3 },
          clearcoatRoughnessFactor: 0.2,
        },
      },
      pbrMetallicRoughness: { baseColorFactor: [0, 0, 1, 0.5] },
    });
    expect(json.extensionsUsed).toEqual(['KHR_materials_clearcoat']);
  });

  it('say what has none', () => {
    expect(
      patch({ asset, materials: [{ name: 'Hull' }] }, { values: [value('height', 0.1)] }).missed,
    ).toEqual(['glTF has no factor for height of Hull']);
  });
});

describe('alpha, sides and images of glTF', () => {
  it('are set on the material of that name, the second of two alike by its number', () => {
    const before = {
      asset,
      materials: [
        { name: 'Sail', alphaMode: 'BLEND' },
        { name: 'Sail', alphaMode: 'MASK', alphaCutoff: 0.25 },
        { name: 'Net' },
      ],
    };
    const alpha = (material: string, mode: string, cutoff = 0.5) =>
      ({ material, mode, cutoff }) as ModelPatch['alphas'][number];
    const { json } = patch(before, {
      alphas: [alpha('Sail', 'mask', 0.3), alpha('Sail (2)', 'opaque'), alpha('Net', 'blend')],
      sides: [{ material: 'Net', doubleSided: true }],
    });
    expect(json.materials).toEqual([
      { name: 'Sail', alphaMode: 'MASK', alphaCutoff: 0.3 },
      { name: 'Sail', alphaMode: 'OPAQUE' },
      { name: 'Net', alphaMode: 'BLEND', doubleSided: true },
    ]);
  });

  it('change the paths that are written, escapes and all, and leave what is inside', () => {
    const before = {
      asset,
      images: [
        { uri: 'a%20b.png' },
        { uri: 'data:image/png;base64,AAAA' },
        { bufferView: 0 },
        { uri: 'c.png' },
      ],
    };
    const images = [{ written: 'a b.png', path: 'tex/new one.png' }] as ModelPatch['images'];
    expect(patch(before, { images }).json.images).toEqual([
      { uri: 'tex/new%20one.png' },
      { uri: 'data:image/png;base64,AAAA' },
      { bufferView: 0 },
      { uri: 'c.png' },
    ]);
  });

  it('keep the layout of the text, and refuse what is none', () => {
    for (const end of ['\n', '']) {
      const text = `${JSON.stringify({ asset, materials: [] }, null, 4)}${end}`;
      const { files } = patchGltf(new TextEncoder().encode(text), 'a.gltf', nothing);
      expect(new TextDecoder().decode(files.get('a.gltf'))).toBe(text);
    }
    expect(() => patchGltf(new TextEncoder().encode('{ no'), 'a.gltf', nothing)).toThrow(
      expect.objectContaining({ code: 'gltf.broken', place: { file: 'a.gltf', line: 1 } }),
    );
  });
});
