import { describe, expect, it } from 'vitest';
import { measureShape } from '../shape/shapeFacts.ts';
import { createDocument, createMesh, createNode } from './document.ts';
import { measureBounds, shownPoints } from './measure.ts';

/** A triangle, a point that no face has far away, and a part of points alone. */
function quay() {
  const document = createDocument('obj', 'made');
  const points = Float64Array.of(0, 0, 0, 1, 0, 0, 900, 900, 900, 0, 2, 0);
  const faceCounts = Uint32Array.of(3);
  document.meshes.push(
    createMesh('pier', { points, faceCounts, faceCorners: Uint32Array.of(0, 1, 3) }),
    createMesh('sparks', { points, faceCounts: new Uint32Array(), faceCorners: new Uint32Array() }),
    createMesh('far', { points, faceCounts, faceCorners: Uint32Array.of(0, 1, 2) }),
  );
  document.nodes.push(
    createNode('Pier', 'mesh', -1, { mesh: 0 }),
    createNode('Sparks', 'mesh', -1, { mesh: 1 }),
  );
  document.metresPerUnit = 1;
  return document;
}

describe('bounds', () => {
  it('are of what faces show, whatever other points there are', () => {
    const document = quay();
    expect(measureBounds(document)).toEqual({ min: [0, 0, 0], max: [1, 2, 0] });
    expect(document.meshes.map((mesh) => measureShape(mesh).bounds)).toEqual([
      { min: [0, 0, 0], max: [1, 2, 0] },
      null,
      { min: [0, 0, 0], max: [900, 900, 900] },
    ]);
    document.nodes.splice(0, 1);
    expect(measureBounds(document)).toBeNull();
  });

  it('meshes that share their points each have their own', () => {
    const [pier, , far] = quay().meshes;
    expect([...shownPoints(pier)]).toEqual([0, 0, 0, 1, 0, 0, 0, 2, 0]);
    expect([...shownPoints(far)]).toEqual([0, 0, 0, 1, 0, 0, 900, 900, 900]);
    const whole = { points: Float64Array.of(1, 2, 3), faceCorners: Uint32Array.of(0, 0, 0) };
    expect(shownPoints(whole)).toBe(whole.points);
    expect([...shownPoints({ ...whole, points: Float64Array.of(4, 5, 6, 7, 8, 9) })]).toEqual([4, 5, 6]);
  });
});
