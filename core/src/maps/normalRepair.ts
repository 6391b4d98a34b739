import type { MapUse, NormalRange, NormalRepair } from '../scene/material.ts';

/**
 * Mends one stored normal (components in 0..1 for -1..1). `unit` divides the vector by its length; `blue`
 * takes z = sqrt(1 - x^2 - y^2), and 0 where x and y reach beyond the unit circle. A vector without length
 * becomes straight up.
 */
export function repairNormal(
  stored: readonly [number, number, number],
  how: NormalRepair,
): [number, number, number] {
  const [x, y, z] = stored.map((component) => component * 2 - 1);
  const vector = how === 'blue' ? [x, y, Math.sqrt(Math.max(0, 1 - x * x - y * y))] : [x, y, z];
  const length = Math.hypot(...vector);
  if (length === 0) return [0.5, 0.5, 1];
  return vector.map((component) => (component / length) * 0.5 + 0.5) as [number, number, number];
}

/**
 * What a map's reading does to its vectors: taken by their range, mended, then leaned by the strength and
 * brought back to length 1. `stored` and what comes back are numbers in 0..1 for -1..1.
 */
export function changeNormal(
  stored: readonly [number, number, number],
  { repair, strength = 1, range }: Pick<MapUse, 'repair' | 'strength' | 'range'>,
): [number, number, number] {
  const usual = range ? repairNormal(usualNumbers(stored, range), 'unit') : stored;
  const whole = repair ? repairNormal(usual, repair) : usual;
  if (strength === 1) return [...whole];
  return repairNormal(
    [(whole[0] - 0.5) * strength + 0.5, (whole[1] - 0.5) * strength + 0.5, whole[2]],
    'unit',
  );
}

/** Whether a use changes the vectors that its image stores. */
export function changesNormals({
  repair,
  strength,
  range,
}: Pick<MapUse, 'repair' | 'strength' | 'range'>): boolean {
  return repair !== undefined || range !== undefined || (strength ?? 1) !== 1;
}

/** Numbers that mean the same vector when they are read as 2x - 1. */
function usualNumbers(
  stored: readonly [number, number, number],
  { scale, bias }: NormalRange,
): [number, number, number] {
  const number = (k: 0 | 1 | 2) => (stored[k] * scale[k] + bias[k]) * 0.5 + 0.5;
  return [number(0), number(1), number(2)];
}
