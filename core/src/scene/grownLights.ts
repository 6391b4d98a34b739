import type { Fading, Light, LightKind } from './document.ts';

/** With which power of the distance light fades. */
const POWERS: Record<Fading, number> = { none: 0, linear: 1, cubic: 3 };
/** Those whose strength is not that of a face, and that stand somewhere. */
const FROM_A_POINT: ReadonlySet<LightKind> = new Set(['point', 'spot']);

/**
 * Lights of a model that becomes so many times as large, so that what they fall on is as bright as before. Faces
 * that shine grow with it, and what comes from far away does not change.
 */
export function grownLights(lights: readonly Light[], factor: number): Light[] {
  return lights.map((light) =>
    FROM_A_POINT.has(light.kind)
      ? { ...light, intensity: light.intensity * factor ** (light.fading ? POWERS[light.fading] : 2) }
      : light,
  );
}
