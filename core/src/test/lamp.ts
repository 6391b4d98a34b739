import type { Light } from '../scene/document.ts';

/** A warm spot that shines from a mere point. */
export function lamp(more: Partial<Light> = {}): Light {
  return {
    name: 'lamp',
    kind: 'spot',
    colour: [1, 0.5, 0.25],
    intensity: 3,
    innerAngle: 20,
    outerAngle: 40,
    size: [0, 0],
    castsShadow: true,
    ...more,
  };
}
