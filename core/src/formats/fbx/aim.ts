import type { SceneNode } from '../../scene/document.ts';
import { invertAffine, type Matrix4, rotation } from '../../scene/matrix.ts';

/** From the neutral view direction (-Z) to where FBX cameras (+X) and lights (-Y) look, and back. */
const CAMERA = rotation([0, -90, 0]);
const LIGHT = rotation([-90, 0, 0]);
const BACK = { camera: invertAffine(CAMERA), light: invertAffine(LIGHT) };

/** What a view as FBX has it is turned by to look as ours do. */
export function turnFromFbx({ camera }: SceneNode): Matrix4 {
  return camera >= 0 ? CAMERA : LIGHT;
}

/**
 * The turn between our aim (down -Z, as glTF has it) and that of FBX: cameras look down +X, lights shine down
 * -Y.
 */
export function turnToFbx({ camera }: SceneNode): Matrix4 {
  return camera >= 0 ? BACK.camera : BACK.light;
}
