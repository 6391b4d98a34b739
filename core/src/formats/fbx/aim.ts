import type { TransformParts, Vec3 } from '../../scene/document.ts';
import { eulerOf, invertAffine, localMatrix, type Matrix4, multiply, partsOfMatrix, rotation } from '../../scene/matrix.ts';

/** Turns the neutral view direction (-Z) to where FBX cameras (+X) and lights (-Y) look. */
export const CAMERA_TURN = rotation([0, -90, 0]);
export const LIGHT_TURN = rotation([-90, 0, 0]);

/**
 * Appends a rotation to a node: local' = local * turn. It goes into the post-rotation, so that animated rotations
 * stay what they are; where an uneven scale stands after it, all parts are worked out anew.
 */
export function turnView(t: TransformParts, turn: Matrix4): void {
  const [x, y, z] = t.scale;
  const uniform = Math.max(Math.abs(x - y), Math.abs(y - z)) <= 1e-6 * Math.abs(x);
  if (t.matrix || !uniform || t.scalingPivot.some((part) => part !== 0)) {
    Object.assign(t, partsOfMatrix(multiply(localMatrix(t), turn)), { inherit: t.inherit });
    return;
  }
  // R * post^-1 * turn = R * (turn^-1 * post)^-1
  const post = multiply(invertAffine(turn), rotation(t.postRotation));
  t.postRotation = eulerOf(post).map((angle) => (Math.abs(angle) < 1e-9 ? 0 : angle)) as Vec3;
}
