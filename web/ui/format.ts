import type { ColourSpace } from '@kinkajou/core/scene/material';

const NUMBER = new Intl.NumberFormat('en');

/** A whole number with separators. */
export function count(value: number): string {
  return NUMBER.format(value);
}

/** `1 face`, `2 faces`. */
export function plural(value: number, one: string, many = `${one}s`): string {
  return `${count(value)} ${value === 1 ? one : many}`;
}

/** A size in the unit that fits. */
export function bytes(size: number): string {
  if (size < 1024) return `${size} B`;
  const units = ['KB', 'MB', 'GB', 'TB'];
  let value = size;
  let unit = -1;
  while (value >= 1024 && unit < units.length - 1) {
    value /= 1024;
    unit += 1;
  }
  return `${value < 10 ? value.toFixed(1) : Math.round(value)} ${units[unit]}`;
}

/** A length with the digits that matter. */
export function metres(value: number): string {
  if (value >= 100) return value.toFixed(0);
  return value >= 1 ? value.toFixed(2) : value.toFixed(3);
}

/** Width, height and depth of bounds in metres. */
export function extent(bounds: { min: readonly number[]; max: readonly number[] } | null): string {
  return bounds
    ? `${bounds.max.map((value, i) => metres(value - bounds.min[i])).join(' × ')} m`
    : 'no geometry';
}

/** How long ago, or the day. */
export function when(iso: string): string {
  const seconds = (Date.now() - new Date(iso).getTime()) / 1000;
  if (seconds < 60) return 'just now';
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min ago`;
  if (seconds < 86_400) return `${Math.floor(seconds / 3600)} h ago`;
  return new Date(iso).toLocaleDateString('en', { day: 'numeric', month: 'short', year: 'numeric' });
}

/** `5 Nov 2026`. */
export function day(iso: string): string {
  return new Date(iso).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
}

/** What stands behind the last slash, either kind. */
export function fileName(path: string): string {
  return path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
}

const SPACE_LABELS: Partial<Record<ColourSpace, string>> = {
  srgb_rec709_scene: 'sRGB',
  lin_rec709_scene: 'linear',
  lin_ap1_scene: 'ACEScg',
  lin_ap0_scene: 'ACES2065-1',
  data: 'data',
  unknown: '?',
};

/** A colour space as people call it. */
export function spaceLabel(space: ColourSpace): string {
  return SPACE_LABELS[space] ?? space.replace('_scene', '');
}
