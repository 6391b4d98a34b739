import { PerspectiveCamera, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { fitCamera } from './fit.ts';

const corners = ([x0, y0, z0]: number[], [x1, y1, z1]: number[]) =>
  Array.from(
    { length: 8 },
    (_, i) => new Vector3(i & 1 ? x1 : x0, (i >> 1) & 1 ? y1 : y0, (i >> 2) & 1 ? z1 : z0),
  );

/** Where points lie in the picture of three's own camera, -1 to 1. */
function seen(points: readonly Vector3[], direction: Vector3, fov: number, aspect: number) {
  const { target, distance } = fitCamera(points, direction, {
    tangent: Math.tan((fov * Math.PI) / 360),
    aspect,
  });
  const camera = new PerspectiveCamera(fov, aspect, 0.01, 1000);
  camera.position.copy(target).addScaledVector(direction.clone().normalize(), distance);
  camera.lookAt(target);
  camera.updateMatrixWorld();
  const places = points.map((point) => point.clone().project(camera));
  const range = (key: 'x' | 'y') => [
    Math.min(...places.map((place) => place[key])),
    Math.max(...places.map((place) => place[key])),
  ];
  return { x: range('x'), y: range('y') };
}

describe('framing', () => {
  it.each<[string, Vector3[], Vector3, number]>([
    ['a tower from a corner', corners([-1, 0, -1], [1, 9, 1]), new Vector3(0.62, 0.34, 0.8), 0.9],
    ['a flat yard from a corner', corners([-20, 0, -8], [20, 1, 8]), new Vector3(0.62, 0.34, 0.8), 2.5],
    [
      'a cube from the front, far from the origin',
      corners([500, 20, 30], [501, 21, 31]),
      new Vector3(0, 0.02, 1),
      1.6,
    ],
    ['a deck from above', corners([0, 0, 0], [4, 0.1, 2]), new Vector3(0, 1, 0.001), 1],
    ['a deck straight from below', corners([0, 0, 0], [4, 0.1, 2]), new Vector3(0, -1, 0), 1],
  ])('%s fills the picture one way and lies in its middle', (_, points, direction, aspect) => {
    const { x, y } = seen(points, direction, 32, aspect);
    expect(Math.max(x[1] - x[0], y[1] - y[0]) / 2).toBeCloseTo(0.84, 2);
    for (const [least, most] of [x, y]) {
      expect(least).toBeGreaterThan(-0.85);
      expect(most).toBeLessThan(0.85);
    }
  });

  it('of a square that faces the camera is where trigonometry says', () => {
    // A square of 2 at z = 0 under 90 degrees: it would fill the picture at 1, and 0.84 of it at 1 / 0.84.
    const { target, distance } = fitCamera(corners([-1, -1, 0], [1, 1, 0]), new Vector3(0, 0, 1), {
      tangent: 1,
      aspect: 1,
    });
    expect(distance).toBeCloseTo(1 / 0.84, 9);
    expect(target.length()).toBeCloseTo(0, 9);
  });
});
