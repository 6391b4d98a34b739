import { describe, expect, it } from 'vitest';
import {
  createDocument,
  createNode,
  identityTransform,
  type TransformParts,
  type Vec3,
} from '../scene/document.ts';
import { placeParts } from './placeParts.ts';

/** The pivot, in metres, of a part under a parent that is moved by 10 along x in a scene of centimetres. */
function pivot(transform: Partial<TransformParts>) {
  const document = createDocument('fbx', 'test');
  document.metresPerUnit = 0.01;
  document.nodes.push(
    createNode('quay', 'group', -1, { transform: { ...identityTransform(), translation: [10, 0, 0] } }),
    createNode('crane', 'group', 0, { transform: { ...identityTransform(), ...transform } }),
  );
  return placeParts(document)[1].pivot?.map((value) => Number(value.toFixed(9)));
}

describe('where a part turns', () => {
  it('is its place with what its format adds to it', () => {
    const translation: Vec3 = [1, 2, 3];
    expect(pivot({ translation })).toEqual([0.11, 0.02, 0.03]);
    expect(pivot({ translation, rotationOffset: [0, 4, 0] })).toEqual([0.11, 0.06, 0.03]);
    expect(pivot({ translation, rotationPivot: [0, 0, 5] })).toEqual([0.11, 0.02, 0.08]);
  });

  it('is where its matrix moves it to, whatever else is said', () => {
    const matrix = Float64Array.of(0, 1, 0, 0, -1, 0, 0, 0, 0, 0, 1, 0, 7, 8, 9, 1);
    expect(pivot({ matrix, translation: [1, 2, 3] })).toEqual([0.17, 0.08, 0.09]);
  });
});
