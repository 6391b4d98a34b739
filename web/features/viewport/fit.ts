import { Vector3 } from 'three';

/** What a lens sees: the tangent of half its height's angle, and how much wider than high the picture is. */
export interface Lens {
  tangent: number;
  aspect: number;
}

/** Share of the picture that the asset fills, across or upright, whichever is tighter. */
const FILL = 0.84;

/**
 * Where a camera that looks along `-direction` must stand, and at what, so that all points fill the picture
 * and lie in its middle. Each point must lie within the four planes of the picture, which move out with its
 * distance: the farthest that any pair of opposite planes asks for holds.
 */
export function fitCamera(
  points: readonly Vector3[],
  direction: Vector3,
  { tangent, aspect }: Lens,
): { target: Vector3; distance: number } {
  const towards = direction.clone().normalize();
  const right = new Vector3(0, 1, 0).cross(towards);
  // Straight from above or below, what is to the right is a matter of choice.
  if (right.lengthSq() < 1e-12) right.set(1, 0, 0);
  right.normalize();
  const up = towards.clone().cross(right);
  const across = reach(points, right, towards, tangent * aspect * FILL);
  const upright = reach(points, up, towards, tangent * FILL);
  const distance = Math.max(across.distance, upright.distance);
  // The target lies as deep as the points' middle, so that turning goes about it.
  const { middle } = reach(points, towards, towards, 0);
  const target = right
    .multiplyScalar(across.middle)
    .addScaledVector(up, upright.middle)
    .addScaledVector(towards, middle);
  return { target, distance: distance - middle };
}

/**
 * Along one axis of the picture: its middle, and where the camera must stand along `towards`, both from the
 * origin.
 */
function reach(
  points: readonly Vector3[],
  axis: Vector3,
  towards: Vector3,
  slope: number,
): { middle: number; distance: number } {
  let [most, least] = [-Infinity, -Infinity];
  for (const point of points) {
    const [along, near] = [point.dot(axis), point.dot(towards)];
    most = Math.max(most, along + slope * near);
    least = Math.max(least, -along + slope * near);
  }
  return { middle: (most - least) / 2, distance: (most + least) / (2 * slope) };
}
