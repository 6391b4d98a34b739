import type { LightKind } from '../../scene/document.ts';

/** What UsdLux says of a lamp's body: lengths in its own space, the angle of a distant one in degrees. */
export interface LampBody {
  typeName: string;
  radius: number;
  width: number;
  height: number;
  length: number;
  angle: number;
}

/** Strength in our units, and with which power of the lamp's scale in the world it goes. */
export interface Strength {
  intensity: number;
  growth: number;
}

/**
 * What shines from a lamp of so many nits, which UsdLux divides by its size where it is normalised: candela over
 * square metres from a ball, lux from far away, nits from a face or all around.
 */
export function strengthOf(
  kind: LightKind,
  body: LampBody,
  { nits, normalized, metres }: { nits: number; normalized: boolean; metres: number },
): Strength {
  if (kind === 'point' || kind === 'spot') {
    // A ball shows a disk to every side.
    const disk = Math.PI * body.radius ** 2;
    const intensity = normalized ? nits / 4 : nits * disk;
    return { intensity: intensity * metres ** 2, growth: normalized ? 0 : 2 };
  }
  if (kind === 'directional') return { intensity: normalized ? nits : nits * coneOf(body.angle), growth: 0 };
  const area = kind === 'area' && normalized ? areaOf(body) : null;
  return area ? { intensity: nits / area, growth: -2 } : { intensity: nits, growth: 0 };
}

/** What a ball needs that is normalised, whatever its size, to shine with so many candela. */
export function nitsOfBall(candela: number, metres: number): number {
  return (candela * 4) / metres ** 2;
}

/** The cosines of a cap of the sky, summed: what a distant lamp of so many degrees gives for each nit. */
function coneOf(angle: number): number {
  const half = (Math.min(360, Math.max(0, angle)) / 2) * (Math.PI / 180);
  if (half === 0) return 1;
  const sine = Math.sin(half) ** 2;
  return Math.PI * (half <= Math.PI / 2 ? sine : 2 - sine);
}

function areaOf({ typeName, radius, width, height, length }: LampBody): number {
  if (typeName === 'DiskLight') return Math.PI * radius ** 2;
  if (typeName === 'CylinderLight') return 2 * Math.PI * radius * length;
  return width * height;
}
