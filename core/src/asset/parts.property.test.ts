import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { changeParts } from '../scene/changeParts.ts';
import type { SceneDocument } from '../scene/document.ts';
import { CUTS, type PartChange } from '../scene/partChange.ts';
import { documents } from '../test/documents.ts';
import { nodeKeys } from './asset.ts';
import { describeSource } from './describeSource.ts';
import { partsOf } from './parts.ts';

/** Changes of the tree, on parts of the model and on those that changes before them may have made. */
const changesOf = (keys: string[]): fc.Arbitrary<PartChange> => {
  const made = keys.flatMap((key) => [`${key}_1`, `${key}_2`]);
  const some = fc.shuffledSubarray([...keys, ...made], { minLength: 1, maxLength: Math.min(6, keys.length) });
  return fc.oneof(
    fc
      .tuple(some, fc.constantFrom('drop', 'restore', 'ungroup'))
      .map(([parts, what]) => ({ do: what, parts }) as PartChange),
    some.map((parts): PartChange => ({ do: 'group', parts, name: 'Set' })),
    fc
      .tuple(some, fc.option(fc.constantFrom(...keys)))
      .map(([parts, under]): PartChange => ({ do: 'move', parts, under })),
    some.map((parts): PartChange => ({ do: 'merge', parts, name: 'Whole' })),
    fc.tuple(some, fc.constantFrom(...CUTS)).map(([parts, by]): PartChange => ({ do: 'cut', parts, by })),
    some.map(
      (parts): PartChange => ({ do: 'rename', names: parts.map((part) => ({ part, name: `${part}!` })) }),
    ),
  );
};

/** Every part with the names above it, its faces and its materials, sorted. */
function paths(
  parts: readonly { name: string; above: number; faces: number; materials: readonly string[] }[],
): string[] {
  const pathOf = (index: number): string =>
    index < 0 ? '' : `${pathOf(parts[index].above)}/${parts[index].name}`;
  return parts
    .map(({ faces, materials }, i) => `${pathOf(i)} ${faces} ${[...new Set(materials)].sort()}`)
    .sort();
}

describe('the tree of any model', () => {
  it('is the one that goes out, whatever is dropped, brought back, grouped, moved and merged', () => {
    fc.assert(
      fc.property(
        documents.chain((document) => {
          const keys = [...nodeKeys(document.nodes), 'Set', 'Set (2)'];
          return fc.tuple(fc.constant(document), fc.array(changesOf(keys), { minLength: 1, maxLength: 6 }));
        }),
        ([document, changes]) => {
          const rigid: SceneDocument = {
            ...document,
            skins: [],
            clips: [],
            nodes: document.nodes.map((node) => ({ ...node, skin: -1 })),
          };
          const source = describeSource(rigid, 'model.fbx', []);
          const all = partsOf(source, { parts: changes });
          // What was merged first is cut when it goes out; until then it is only marked, also where it is
          // dropped then.
          fc.pre(all.every((part) => part.cut === null));
          const shown = all.filter(({ dropped }) => !dropped);
          const places = new Map(shown.map(({ key }, i) => [key, i]));
          const { nodes, meshes } = changeParts(rigid, nodeKeys(rigid.nodes), changes, () => null).document;
          expect(
            paths(
              shown.map(({ name, parent, polygons, slots }) => ({
                name,
                above: places.get(parent ?? '') ?? -1,
                faces: polygons,
                materials: slots,
              })),
            ),
          ).toEqual(
            paths(
              nodes.map(({ name, parent, mesh, materials }) => ({
                name,
                above: parent,
                faces: meshes[mesh]?.faceCounts.length ?? 0,
                materials: materials.map((index) => rigid.materials[index]?.key ?? ''),
              })),
            ),
          );
        },
      ),
      { numRuns: 300 },
    );
  });
});
