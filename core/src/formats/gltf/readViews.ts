/// <reference path="./draco3dgltf.d.ts" />
/// <reference path="./gltf-validator.d.ts" />
import type { Node } from '@gltf-transform/core';
import type { Light as PunctualLight } from '@gltf-transform/extensions';
import type { Camera, Light } from '../../scene/document.ts';

/** Picture height in millimetres that angles of view are turned into focal lengths with. */
const APERTURE_HEIGHT = 24;
/** Width by height where a file leaves that to who looks. */
const USUAL_ASPECT = 1.5;

/** A camera with the angle of view that the file states, over a picture 24 mm high. */
export function readCamera(camera: NonNullable<ReturnType<Node['getCamera']>>, name: string): Camera {
  const orthographic = camera.getType() === 'orthographic';
  const [width, height] = [camera.getXMag(), camera.getYMag()].map(Math.abs);
  const flat = width > 0 && height > 0 ? width / height : USUAL_ASPECT;
  const aspect = orthographic ? flat : (camera.getAspectRatio() ?? USUAL_ASPECT);
  return {
    name: camera.getName() || name,
    projection: orthographic ? 'orthographic' : 'perspective',
    focalLength: APERTURE_HEIGHT / 2 / Math.tan(Math.max(1e-3, camera.getYFov()) / 2),
    aperture: [APERTURE_HEIGHT * aspect, APERTURE_HEIGHT],
    width: width * 2,
    near: camera.getZNear(),
    far: camera.getZFar() ?? Infinity,
  };
}

/** A light of KHR_lights_punctual. */
export function readLight(light: PunctualLight, name: string): Light {
  const degrees = (radians: number) => (radians * 360) / Math.PI;
  return {
    name: light.getName() || name,
    kind: light.getType(),
    colour: [...light.getColor()],
    intensity: light.getIntensity(),
    innerAngle: degrees(light.getInnerConeAngle()),
    outerAngle: degrees(light.getOuterConeAngle()),
    size: [0, 0],
    castsShadow: true,
  };
}
