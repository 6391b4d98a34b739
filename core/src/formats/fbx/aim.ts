import { identityTransform, type TransformParts, type Vec3 } from '../../scene/document.ts';
import { eulerOf, invertAffine, localMatrix, type Matrix4, multiply, rotation } from '../../scene/matrix.ts';

/** Turns the neutral view direction (-Z) to where FBX cameras (+X) and lights (-Y) look. */
export const CAMERA_TURN = rotation([0, -90, 0]);
export const LIGHT_TURN = rotation([-90, 0, 0]);

/**
 * Appends a rotation to a node: local' = local * turn. It goes into the post-rotation, so that animated rotations
 * stay what they are; where a scale stands after it, into one matrix.
 */
export function turnView(t: TransformParts, turn: Matrix4): void {
  const uniform = t.scale[0] === t.scale[1] && t.scale[1] === t.scale[2];
  if (t.matrix || !uniform || t.scalingPivot.some((part) => part !== 0)) {
    const matrix = multiply(localMatrix(t), turn);
    Object.assign(t, identityTransform(), { inherit: t.inherit, matrix });
    return;
  }
  // R * post^-1 * turn = R * (turn^-1 * post)^-1
  const post = multiply(invertAffine(turn), rotation(t.postRotation));
  t.postRotation = eulerOf(post).map((angle) => (Math.abs(angle) < 1e-9 ? 0 : angle)) as Vec3;
}
