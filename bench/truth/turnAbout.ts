import { Matrix4 } from 'three';

/** A turn about an axis, in degrees. */
export function turnAbout(axis: string, degrees: number): Matrix4 {
  const angle = (degrees * Math.PI) / 180;
  if (axis === 'X') return new Matrix4().makeRotationX(angle);
  return axis === 'Y' ? new Matrix4().makeRotationY(angle) : new Matrix4().makeRotationZ(angle);
}
