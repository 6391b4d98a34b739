import type { MapUse, NormalRepair } from '../scene/material.ts';

/**
 * Mends one stored normal (components in 0..1 for -1..1). `unit` divides the vector by its length; `blue`
 * takes z = sqrt(1 - x^2 - y^2), and 0 where x and y reach beyond the unit circle. A vector without length
 * becomes straight up.
 */
export function repairNormal(
  stored: readonly [number, number, number],
  how: NormalRepair,
): [number, number, number] {
  const [x, y, z] = stored.map((part) => part * 2 - 1);
  const vector = how === 'blue' ? [x, y, Math.sqrt(Math.max(0, 1 - x * x - y * y))] : [x, y, z];
  const length = Math.hypot(...vector);
  if (length === 0) return [0.5, 0.5, 1];
  return vector.map((part) => (part / length) * 0.5 + 0.5) as [number, number, number];
}

/**
 * What a map's reading does to its vectors: mended, then leaned by its strength and brought back to length 1.
 */
export function changeNormal(
  stored: readonly [number, number, number],
  { repair, strength = 1 }: Pick<MapUse, 'repair' | 'strength'>,
): [number, number, number] {
  const whole = repair ? repairNormal(stored, repair) : stored;
  if (strength === 1) return [...whole];
  return repairNormal(
    [(whole[0] - 0.5) * strength + 0.5, (whole[1] - 0.5) * strength + 0.5, whole[2]],
    'unit',
  );
}
