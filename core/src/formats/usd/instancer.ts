import { createNode, type SceneDocument } from '../../scene/document.ts';
import { multiply, partsOfMatrix, rotationOfQuaternion, scaling, translation } from '../../scene/matrix.ts';
import { MOST_INSTANCES, tellTooMany } from '../instances.ts';
import type { ComposedPrim } from './compose.ts';
import { get, numbersOf } from './values.ts';

/** Places each instance of a PointInstancer as a node of its own; the prototypes' meshes are shared. */
export function readPointInstances(
  prim: ComposedPrim,
  node: number,
  document: SceneDocument,
  place: (prototype: string, under: number) => void,
): void {
  const prototypes = prim.properties.get('prototypes')?.targets ?? [];
  const which = numbersOf(get(prim, 'protoIndices')) ?? new Float64Array(0);
  const positions = numbersOf(get(prim, 'positions')) ?? new Float64Array(0);
  const turns = numbersOf(get(prim, 'orientations', 'orientationsf'));
  const scales = numbersOf(get(prim, 'scales'));
  const hidden = new Set(numbersOf(get(prim, 'invisibleIds')) ?? []);
  const ids = numbersOf(get(prim, 'ids'));
  tellTooMany(document, prim.path, which.length);
  for (let i = 0; i < which.length && i < MOST_INSTANCES; i += 1) {
    if (hidden.has(ids ? ids[i] : i)) continue;
    const entryAt = (values: Float64Array | undefined, fallback: number): [number, number, number] =>
      values && values.length >= i * 3 + 3
        ? [values[i * 3], values[i * 3 + 1], values[i * 3 + 2]]
        : [fallback, fallback, fallback];
    const q =
      turns && turns.length >= i * 4 + 4
        ? [turns[i * 4 + 1], turns[i * 4 + 2], turns[i * 4 + 3], turns[i * 4]]
        : [0, 0, 0, 1];
    const matrix = multiply(
      multiply(translation(entryAt(positions, 0)), rotationOfQuaternion(q)),
      scaling(entryAt(scales, 1)),
    );
    const instance =
      document.nodes.push(
        createNode(`${document.nodes[node].name}_${i + 1}`, 'group', node, {
          transform: partsOfMatrix(matrix),
        }),
      ) - 1;
    place(prototypes[which[i]] ?? '', instance);
  }
}
