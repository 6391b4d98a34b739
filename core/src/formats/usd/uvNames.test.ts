import { describe, expect, it } from 'vitest';
import { threeOpens } from '../../handoff/readBack/secondReader.ts';
import { createDocument, createMesh, createNode, type Domain, type Layer } from '../../scene/document.ts';
import { createMapUse, createMaterial } from '../../scene/material.ts';
import { writeModel } from '../writeModel.ts';
import { UvNames } from './uvNames.ts';

const layer = (name: string, domain: Domain = 'corner', index: number[] | null = null): Layer => ({
  name,
  size: 2,
  domain,
  values: Float64Array.from({ length: 12 }, (_, i) => i / 16),
  index: index && Uint32Array.from(index),
});

/** Two triangles on four points with some sets, and one material for each name asked for. */
function quay(sets: Layer[], asked: (string | null)[]) {
  const document = createDocument('usd', '');
  document.materials = asked.map((uvSet, i) => {
    const material = createMaterial(`Paint${i}`, 'metalRough');
    const map = createMapUse('tide.png', 'baseColor', { uvSet });
    material.channels.baseColor = { value: [1, 1, 1], map, source: { from: 'file', detail: '' } };
    return material;
  });
  document.meshes.push(
    createMesh('Deck', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0),
      faceCounts: Uint32Array.of(3, 3),
      faceCorners: Uint32Array.of(0, 1, 2, 0, 2, 3),
      uvSets: sets,
    }),
  );
  document.nodes.push(createNode('Deck', 'mesh', -1, { mesh: 0, materials: asked.map((_, i) => i) }));
  return document;
}

describe('names of UV sets in a stage', () => {
  const named = (names: string[], asked: (string | null)[]) => {
    const document = quay(
      names.map((name) => layer(name)),
      asked,
    );
    const own = new UvNames(document);
    return [own.all(document.meshes[0]).join(' '), asked.map((set, i) => own.of(i, set)).join(' ')];
  };

  it('are st for the first, and their own for others', () => {
    expect(named(['map1', 'tide mark'], [null, 'map1', 'tide mark'])).toEqual([
      'st tide_mark',
      'st st tide_mark',
    ]);
  });

  it('are never those of another set, or of something else on the mesh', () => {
    expect(named(['map1', 'st'], ['st'])).toEqual(['st st_1', 'st_1']);
    expect(named(['a', 'normals', 'b c', 'b_c'], ['normals'])).toEqual([
      'st normals_1 b_c b_c_3',
      'normals_1',
    ]);
    expect(named(['a', 'light', 'tide'], ['tide'])).toEqual(['st light tide', 'tide']);
    // What a material asks for has the name, though it stands behind one that is called alike.
    expect(named(['a', 'b c', 'b_c'], ['b_c'])).toEqual(['st b_c_1 b_c', 'b_c']);
  });
});

describe('UVs in a stage', () => {
  it.each<[string, Layer]>([
    ['of faces', layer('st', 'face')],
    ['of faces by numbers', layer('st', 'face', [4, 2])],
    ['of points by numbers', layer('st', 'point', [5, 0, 5, 3])],
    ['of points', layer('st', 'point')],
    ['of corners by numbers', layer('st', 'corner', [0, 1, 2, 5, 4, 3])],
  ])('%s are what another reader finds at the corners', async (_, set) => {
    const document = quay([set], [null]);
    const bytes = writeModel(document, 'quay.usdz', {}).files.get('quay.usdz') as Uint8Array;
    const corners = [0, 1, 2, 0, 2, 3].map((point, corner) => {
      const place = { face: Math.floor(corner / 3), point, corner }[set.domain];
      const at = (set.index ? set.index[place] : place) * 2;
      return [...set.values.slice(at, at + 2)].join();
    });
    const { materials } = await threeOpens(new Map([['quay.usdz', bytes]]), 'quay.usdz', 'usd');
    const found = materials.flatMap(({ uvs }) =>
      uvs.flatMap((u, k) => (k % 2 === 0 ? [[u, uvs[k + 1]].join()] : [])),
    );
    expect(found.sort()).toEqual(corners.sort());
  });
});
