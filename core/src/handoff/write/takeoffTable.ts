import { csvTable } from '../../csv.ts';
import type { TakeoffRow } from '../../shape/takeoff.ts';

/**
 * Areas and volumes as CSV (RFC 4180): a row per part and material, then the sums by material. Open bodies
 * have no volume.
 */
export function takeoffTable(rows: readonly TakeoffRow[]): string {
  const line = ({
    part,
    material,
    faces,
    area,
    volume,
  }: Pick<TakeoffRow, 'part' | 'material' | 'faces' | 'area' | 'volume'>) =>
    [part, material, faces, area.toFixed(6), volume === null ? '' : volume.toFixed(9)] as const;
  const sums = new Map<string, { faces: number; area: number; volume: number; open: boolean }>();
  for (const { material, faces, area, volume } of rows) {
    const sum = sums.get(material) ?? { faces: 0, area: 0, volume: 0, open: false };
    sums.set(material, {
      faces: sum.faces + faces,
      area: sum.area + area,
      volume: sum.volume + (volume ?? 0),
      open: sum.open || volume === null,
    });
  }
  return csvTable([
    ['part', 'material', 'faces', 'area m2', 'volume m3'],
    ...rows.map(line),
    ...[...sums].map(([material, { faces, area, volume, open }]) =>
      line({ part: 'all parts', material, faces, area, volume: open ? null : volume }),
    ),
  ]);
}
