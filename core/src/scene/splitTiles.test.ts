import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type Layer, type SceneDocument } from './document.ts';
import { createMaterial } from './material.ts';
import { pickedKey, pickedPath } from './pickedImage.ts';
import { pruneMaterials } from './pruneMaterials.ts';
import { splitTiles, type TiledMaterial } from './splitTiles.ts';

/** Triangles by the lower left corner of their UVs, all of the first slot but for the last, which is of the second. */
function hull(corners: readonly (readonly [number, number])[], more: Partial<Layer> = {}): SceneDocument {
  const document = createDocument('fbx', 'made');
  document.materials = ['Hull', 'Deck', 'Hull_1001', 'Hull_1012'].map((name) =>
    createMaterial(name, 'metalRough'),
  );
  for (const material of document.materials) material.key = material.name;
  const values = corners.flatMap(([u, v]) => [u + 0.1, v + 0.1, u + 0.9, v + 0.1, u + 0.1, v + 0.9]);
  document.meshes.push(
    createMesh('hull', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      faceCounts: new Uint32Array(corners.length).fill(3),
      faceCorners: Uint32Array.from({ length: corners.length * 3 }, (_, i) => i % 3),
      faceMaterial: Int32Array.from(corners, (_, i) => (i === corners.length - 1 ? 1 : 0)),
      uvSets: [
        { name: 'other', size: 2, domain: 'corner', values: new Float64Array(values.length), index: null },
        { name: 'tiles', size: 2, domain: 'corner', values: Float64Array.from(values), index: null, ...more },
      ],
    }),
  );
  document.nodes.push(createNode('hull', 'mesh', -1, { mesh: 0, materials: [0, 1] }));
  return document;
}

/** 1001 goes to the left half of an image, 1012 (u 1, v 1) to the right one of another material. */
const TILED: TiledMaterial = {
  key: 'Hull',
  uvSet: 'tiles',
  places: new Map([
    [1001, { material: 'Hull_1001', offset: [0, 0], scale: [0.5, 1] }],
    [1012, { material: 'Hull_1012', offset: [0.5, 0], scale: [0.5, 1] }],
  ]),
};

const materialsOf = ({ nodes, meshes, materials }: SceneDocument) =>
  [...(meshes[nodes[0].mesh].faceMaterial ?? [])].map((slot) => materials[nodes[0].materials[slot]]?.name);

describe('faces of tiles', () => {
  it('get the material and the place of the tile that the middle of their UVs is in', () => {
    const before = hull([
      [0, 0],
      [1, 1],
      [0, 0],
    ]);
    const { document, across } = splitTiles(before, [TILED]);
    expect(materialsOf(document)).toEqual(['Hull_1001', 'Hull_1012', 'Deck']);
    expect(across).toBe(0);
    const [other, tiles] = document.meshes[document.nodes[0].mesh].uvSets;
    expect([...other.values].every((value) => value === 0)).toBe(true);
    const expected = [
      0.05, 0.1, 0.45, 0.1, 0.05, 0.9, 0.55, 0.1, 0.95, 0.1, 0.55, 0.9, 0.1, 0.1, 0.9, 0.1, 0.1, 0.9,
    ];
    expected.forEach((value, i) => expect(tiles.values[i]).toBeCloseTo(value, 12));
    // What was given stays.
    expect(before.meshes).toHaveLength(1);
    expect(before.meshes[0].uvSets[1].values[0]).toBeCloseTo(0.1, 12);
  });

  it('that lie in none go to the first, and are counted with those that reach over a border', () => {
    const { document, across } = splitTiles(
      hull([
        [3, 0],
        [-1, 0],
        [0.4, 0],
        [0, 0],
      ]),
      [TILED],
    );
    expect(materialsOf(document)).toEqual(['Hull_1001', 'Hull_1001', 'Hull_1001', 'Deck']);
    expect(across).toBe(3);
  });

  it('have no tile without UVs, or with one UV for all their corners', () => {
    const faces = [
      [1, 1],
      [0, 0],
    ] as const;
    for (const document of [hull(faces, { domain: 'face' }), hull(faces)]) {
      if (document.meshes[0].uvSets[1].domain === 'corner') document.meshes[0].uvSets = [];
      const split = splitTiles(document, [TILED]);
      expect([materialsOf(split.document), split.across]).toEqual([['Hull', 'Deck'], 0]);
    }
  });

  it('are counted by the first set where none is named, and once for parts that share a mesh', () => {
    const document = hull([
      [1, 1],
      [0, 0],
    ]);
    document.nodes.push({ ...document.nodes[0], name: 'second' });
    const split = splitTiles(document, [{ ...TILED, uvSet: null }]);
    // All of the first set is at 0 0.
    expect(materialsOf(split.document)).toEqual(['Hull_1001', 'Deck']);
    expect(split.document.nodes[1].mesh).toBe(split.document.nodes[0].mesh);
    expect(split.document.meshes).toHaveLength(2);
  });
});

it('materials that nothing wears go, unless they are kept, and faces keep theirs', () => {
  const document = hull([[0, 0]]);
  document.nodes[0].materials = [1, 3];
  const pruned = pruneMaterials(document, (key) => key === 'Hull');
  expect(pruned.materials.map(({ name }) => name)).toEqual(['Hull', 'Deck', 'Hull_1012']);
  expect(pruned.nodes[0].materials.map((index) => pruned.materials[index].name)).toEqual([
    'Deck',
    'Hull_1012',
  ]);
  expect(pruneMaterials(document, () => true)).toBe(document);
});

it('a picked image has its path, one that the model wrote has none', () => {
  expect(pickedPath(pickedKey('maps/oak.png'))).toBe('maps/oak.png');
  expect(pickedPath('maps/oak.png')).toBeNull();
});
