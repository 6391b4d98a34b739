import type { TakeoffRow } from '@kinkajou/core/shape/takeoff';

/** What all parts need of one material. */
export interface MaterialSum {
  material: string;
  parts: number;
  faces: number;
  area: number;
  /** Of the parts that close; `open` are those that do not. */
  volume: number;
  open: string[];
}

/** Sums by material, the largest area first. */
export function sumsOf(rows: readonly TakeoffRow[]): MaterialSum[] {
  const sums = new Map<string, MaterialSum>();
  for (const { part, material, faces, area, volume } of rows) {
    const sum = sums.get(material) ?? { material, parts: 0, faces: 0, area: 0, volume: 0, open: [] };
    sum.parts += 1;
    sum.faces += faces;
    sum.area += area;
    if (volume === null) sum.open.push(part);
    else sum.volume += volume;
    sums.set(material, sum);
  }
  return [...sums.values()].sort((a, b) => b.area - a.area || (a.material < b.material ? -1 : 1));
}

/** A measure with four digits that count. */
export function measured(value: number): string {
  return value === 0
    ? '0'
    : Number(value.toPrecision(4)).toLocaleString('en', { maximumSignificantDigits: 4 });
}
