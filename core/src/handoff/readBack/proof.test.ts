import { describe, expect, it } from 'vitest';
import type { ModelSide } from '../../compare/compareModels.ts';
import { type Destination, outputMap, scalar } from '../../destinations/profile.ts';
import { createDocument, createMesh, createNode } from '../../scene/document.ts';
import { testMaterial } from '../../test/assets.ts';
import { berth, planOf } from '../../test/berth.ts';
import type { Sheet } from '../write/sheet.ts';
import { byConvention, joinProofs, type Proof, proveModel } from './proof.ts';

/**
 * What is expected of a material at a destination that takes roughness, turned round, as the strength of a
 * highlight.
 */
function expected(
  maps: Parameters<typeof testMaterial>[1],
  more: Partial<Destination> = {},
  roughness = 0.25,
) {
  const destination = berth({
    maps: [outputMap('gloss', 'gloss', [scalar('roughness', { as: 'specular', invert: true })])],
    ...more,
  });
  const material = testMaterial('Hull', maps);
  Object.assign(material.channels, {
    roughness: {
      ...material.channels.roughness,
      value: roughness,
      map: material.channels.roughness?.map ?? null,
    },
  });
  const plan = planOf(maps, { 'r.png': {} }, destination, (own) =>
    Object.assign(own, { channels: material.channels }),
  );
  return byConvention(material, plan.materials[0], plan);
}

describe('a channel that a destination takes under another name', () => {
  it('is expected there, turned round, and nowhere else', () => {
    const { channels, workflow } = expected({});
    expect([channels.specular?.value, channels.specular?.map, channels.roughness, workflow]).toEqual([
      0.75,
      null,
      undefined,
      'metalRough',
    ]);
    expect(expected({}, { writeAs: 'legacy' }).workflow).toBe('legacy');
  });

  it('is expected as the complement of its image', () => {
    const { specular } = expected({ roughness: { image: 'r.png', component: 'g' } }, {}, 1).channels;
    expect([specular?.value, specular?.map]).toEqual([
      1,
      expect.objectContaining({ image: 'r.png', component: 'g', invert: true }),
    ]);
  });

  it('is what it was where the source file itself goes out', () => {
    const material = testMaterial('Hull', {});
    const plan = planOf(
      {},
      {},
      berth({ maps: [outputMap('gloss', 'gloss', [scalar('roughness', { as: 'specular', invert: true })])] }),
    );
    expect(byConvention(material, plan.materials[0], { ...plan, patched: true })).toBe(material);
    expect(byConvention(material, undefined, plan)).toBe(material);
  });
});

it('a part under another name is told, since programs find it by its name', async () => {
  const side = (name: string): ModelSide => {
    const document = createDocument('fbx', 'made');
    const corners = { faceCounts: Uint32Array.of(3), faceCorners: Uint32Array.of(0, 1, 2) };
    document.meshes = [createMesh('m', { points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), ...corners })];
    document.nodes = [createNode(name, 'mesh', -1, { mesh: 0 })];
    return { document, materials: [], images: [], read: async () => new Uint8Array(0) };
  };
  const plan = { ...planOf({}, {}, berth({})), materials: [] };
  const sheet = { materials: [], models: [] } as unknown as Sheet;
  const proof = (name: string) =>
    proveModel({ side: side('Hull'), plan, copies: new Map() }, { side: side(name), sheet });
  expect((await proof('Hull')).model).toBe('same');
  expect((await proof('Boat')).differences).toMatchObject([
    { code: 'part.missing', part: 'Hull', exempt: null },
  ]);
});

describe('proofs of several models', () => {
  it('are one, as bad as the worst of them, with all that each found', () => {
    const proof = (model: 'same' | 'different', sheet: 'same' | 'different', name: string) =>
      ({ model, sheet, words: [name], differences: [name], channels: [name] }) as unknown as Proof;
    expect(joinProofs([proof('same', 'same', 'a'), proof('different', 'same', 'b')])).toEqual({
      model: 'different',
      sheet: 'same',
      words: ['a', 'b'],
      differences: ['a', 'b'],
      channels: ['a', 'b'],
    });
    expect(joinProofs([proof('same', 'different', 'a'), proof('same', 'same', 'b')])).toMatchObject({
      model: 'same',
      sheet: 'different',
    });
  });
});
