import type { Camera } from '../scene/document.ts';

/** A camera of 35 mm on a full frame. */
export function lens(more: Partial<Camera> = {}): Camera {
  return {
    name: 'lens',
    projection: 'perspective',
    focalLength: 35,
    aperture: [36, 24],
    width: 1,
    near: 0.1,
    far: 100,
    ...more,
  };
}
