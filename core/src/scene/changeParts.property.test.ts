import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { nodeKeys } from '../asset/asset.ts';
import { measureShape } from '../shape/shapeFacts.ts';
import { documents } from '../test/documents.ts';
import { changeParts } from './changeParts.ts';
import type { PolygonMesh, SceneDocument } from './document.ts';
import { geometricMatrix, multiply, transformPoint, worldMatrices } from './matrix.ts';
import type { PartChange } from './partChange.ts';

const balance = (mesh: PolygonMesh) => measureShape(mesh).balance;

/** Every corner of every face where it stands, sorted, so that order and owner do not matter. */
function corners({ nodes, meshes }: SceneDocument): number[][] {
  const worlds = worldMatrices(nodes);
  const all = nodes.flatMap((node, i) => {
    if (node.mesh < 0) return [];
    const { points, faceCorners } = meshes[node.mesh];
    const world = multiply(worlds[i], geometricMatrix(node.transform));
    return Array.from(
      faceCorners,
      (point) =>
        transformPoint(world, points[point * 3], points[point * 3 + 1], points[point * 3 + 2]) as number[],
    );
  });
  // Off the halves, where places of round numbers lie and would be sorted by their last bit.
  const key = (corner: number[]) => corner.map((value) => Math.round(value * 1e4 + 0.137));
  return all.sort((a, b) => {
    const [one, other] = [key(a), key(b)];
    return one[0] - other[0] || one[1] - other[1] || one[2] - other[2];
  });
}

const extentOf = (all: readonly number[][]) => Math.max(1, ...all.flat().map(Math.abs));

/** Changes that nobody sees: the whole stands where it stood. */
const unseen = (keys: string[]): fc.Arbitrary<PartChange> => {
  const some = fc.subarray(keys, { minLength: 1, maxLength: Math.min(4, keys.length) });
  return fc.oneof(
    some.map((parts): PartChange => ({ do: 'group', parts, name: 'Set' })),
    some.map((parts): PartChange => ({ do: 'ungroup', parts })),
    fc
      .tuple(some, fc.option(fc.constantFrom(...keys)))
      .map(([parts, under]): PartChange => ({ do: 'move', parts, under })),
    fc
      .tuple(some, fc.constantFrom('centre', 'bottom', 'origin', 'balance'))
      .map(([parts, at]): PartChange => ({ do: 'pivot', parts, at: at as 'centre' })),
    some.map((parts): PartChange => ({ do: 'apply', parts })),
    some.map((parts): PartChange => ({ do: 'merge', parts, name: 'Whole' })),
    some.map((parts): PartChange => ({ do: 'turnFaces', parts })),
    some.map((parts): PartChange => ({ do: 'agreeFaces', parts })),
    some.map((parts): PartChange => ({ do: 'rename', names: parts.map((part) => ({ part, name: 'x' })) })),
    fc
      .tuple(some, fc.constantFrom('materials', 'solids'))
      .map(([parts, by]): PartChange => ({ do: 'cut', parts, by: by as 'solids' })),
  );
};

describe('any model', () => {
  it('stands where it stood, whatever is grouped, moved, merged, cut, turned or applied', () => {
    fc.assert(
      fc.property(
        documents.chain((document) => {
          const keys = nodeKeys(document.nodes);
          return fc.tuple(
            fc.constant(document),
            fc.array(unseen(keys.length > 0 ? keys : ['none']), { minLength: 1, maxLength: 5 }),
          );
        }),
        ([document, changes]) => {
          const rigid: SceneDocument = {
            ...document,
            skins: [],
            clips: [],
            nodes: document.nodes.map((node) => ({ ...node, skin: -1 })),
          };
          const before = corners(rigid);
          const { document: after } = changeParts(rigid, nodeKeys(rigid.nodes), changes, balance);
          const found = corners(after);
          expect(found).toHaveLength(before.length);
          const allowed = 1e-6 * extentOf(before);
          found.forEach((corner, i) =>
            corner.forEach((value, k) =>
              expect(Math.abs(value - before[i][k]), `${JSON.stringify(changes)}`).toBeLessThanOrEqual(
                Math.max(allowed, 2e-4),
              ),
            ),
          );
          after.nodes.forEach(({ parent }, i) => expect(parent).toBeLessThan(i));
          for (const { mesh, materials } of after.nodes) {
            if (mesh < 0) continue;
            for (const slot of after.meshes[mesh].faceMaterial ?? [])
              expect(slot).toBeLessThan(Math.max(1, materials.length));
          }
        },
      ),
      { numRuns: 150 },
    );
  });
});
