import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type Layer, type SceneDocument } from '../scene/document.ts';
import { compareGeometry } from './compareGeometry.ts';
import { worldParts } from './worldParts.ts';

/** Two rows of three points, a metre apart along x, the upper row `slant` further along; folded along x = 1. */
function deck(faces: number[][], { slant = 0, layers = {} }: { slant?: number; layers?: Layers } = {}) {
  const document = createDocument('obj', '');
  document.metresPerUnit = 1;
  const points = [0, 1].flatMap((z) => [0, 1, 2].map((x) => [x + z * slant, x === 2 ? 1 : 0, z]));
  document.meshes = [
    createMesh('deck', {
      points: Float64Array.from(points.flat()),
      faceCounts: Uint32Array.from(faces, ({ length }) => length),
      faceCorners: Uint32Array.from(faces.flat()),
      ...layers,
    }),
  ];
  document.nodes = [createNode('Deck', 'mesh', -1, { mesh: 0 })];
  return document;
}
interface Layers {
  uvSets?: Layer[];
  normals?: Layer;
}
const corners = (values: number[][]): Layer => ({
  name: 'map',
  size: values[0].length as Layer['size'],
  domain: 'corner',
  values: Float64Array.from(values.flat()),
  index: null,
});
const codes = (a: SceneDocument, b: SceneDocument) =>
  compareGeometry(worldParts(a), worldParts(b)).map(({ code, message }) => `${code} ${message}`);

const QUADS = [
  [0, 3, 4, 1],
  [1, 4, 5, 2],
];
/** Each half of the deck is an island of its own: its corners have other UVs where the halves meet. */
const ISLANDS = [
  [0, 0],
  [0, 1],
  [0.5, 1],
  [0.5, 0],
  [0.6, 0],
  [0.6, 1],
  [1, 1],
  [1, 0],
];

describe('what faces say around a place', () => {
  it('is the same however plane faces are cut', () => {
    const whole = deck(QUADS, { layers: { uvSets: [corners(ISLANDS)] } });
    const [a, b, c, d, e, f, g, h] = ISLANDS;
    const cut = deck(
      [
        [0, 3, 4],
        [0, 4, 1],
        [1, 4, 2],
        [4, 5, 2],
      ],
      { layers: { uvSets: [corners([a, b, c, a, c, d, e, f, h, f, g, h])] } },
    );
    expect(codes(whole, cut)).toEqual([]);
    expect(codes(cut, whole)).toEqual([]);
  });

  it('tells a face with another corner, though its area and all places stay', () => {
    const halves = (corner: number) =>
      deck([
        [0, 3, 1],
        [3, 4, 1],
        [1, 4, 2],
        [4, 5, 2],
        // The same base below the same line: one leans to the left, one to the right.
        [0, corner, 1],
      ]);
    expect(codes(halves(3), halves(4))).toEqual([
      'shape.faces Deck: faces at 4 of 6 places have other corners',
    ]);
    expect(codes(halves(3), halves(3))).toEqual([]);
  });

  it('tells values that two corners at one place have exchanged', () => {
    const plain = deck(QUADS, { layers: { uvSets: [corners(ISLANDS)] } });
    const exchanged = [...ISLANDS];
    [exchanged[2], exchanged[5]] = [ISLANDS[5], ISLANDS[2]];
    const other = deck(QUADS, { layers: { uvSets: [corners(exchanged)] } });
    expect(codes(plain, other)).toEqual(['shape.uv Deck: the UV set 1 differ at 1 corners']);
    const [flat, steep] = [
      [0, 1, 0],
      [-Math.SQRT1_2, Math.SQRT1_2, 0],
    ];
    const normals = (swap: boolean) =>
      deck(QUADS, {
        layers: {
          normals: corners(
            Array.from({ length: 8 }, (_, k) => (k < 4 !== (swap && k % 8 > 1 && k < 6) ? flat : steep)),
          ),
        },
      });
    expect(codes(normals(false), normals(true))).toEqual([
      'shape.normals Deck: the normals differ at 2 corners',
    ]);
  });

  it('leaves it at the places where faces are another shape', () => {
    const seen = codes(
      deck(QUADS, { layers: { uvSets: [corners(ISLANDS)] } }),
      deck(QUADS.slice(0, 1).concat([[1, 4, 5, 2].reverse()]), {
        layers: { uvSets: [corners([...ISLANDS.slice(0, 4), ...ISLANDS.slice(4).reverse()])] },
      }),
    );
    expect(seen.map((line) => line.split(' ')[0])).not.toContain('shape.uv');
  });
});
