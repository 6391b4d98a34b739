import { fileName, folderOf } from '../parcel/fileSource.ts';

/** A tile of a UV layout: 1001 + u + 10 v, with u in 0..9. */
export interface Tile {
  number: number;
  path: string;
}

/** One map in tiles: `textures/hull.<UDIM>.exr` and what lies on disk. */
export interface TileSet {
  /** Path with `<UDIM>` where the tile's number stands. */
  pattern: string;
  tiles: Tile[];
}

const PLACEHOLDER = /<udim>|<uvtile>|%\(udim\)d/i;
const NUMBERED = /(?<=^|[._-])1\d{3}(?=[._-]|$)/g;
const GRID = /(?<=^|[._-])u(\d{1,2})[_-]?v(\d{1,3})(?=[._-]|$)/i;

/** Whether a written path names a whole set: `<UDIM>`, `<UVTILE>`, `%(UDIM)d`. */
export function isTilePattern(path: string): boolean {
  return PLACEHOLDER.test(path);
}

/** The path with its placeholder written as `<UDIM>`. */
export function normalisePattern(path: string): string {
  return path.replace(PLACEHOLDER, '<UDIM>');
}

/**
 * The tile that a file name tells of, or null: `hull.1001.exr`, or `hull_u1_v1.exr`. Numbers of the u and v
 * form are taken from 1 here; {@link groupTiles} settles sets that count from 0.
 */
export function tileOfPath(
  path: string,
): { pattern: string; number: number; form: 'udim' | 'grid'; u: number; v: number } | null {
  const name = fileName(path);
  const folder = folderOf(path);
  const join = (text: string) => (folder === '' ? text : `${folder}/${text}`);
  const numbers = [...name.matchAll(NUMBERED)];
  const last = numbers.at(-1);
  if (last) {
    const number = Number(last[0]);
    if (number >= 1001) {
      const index = last.index;
      return {
        pattern: join(`${name.slice(0, index)}<UDIM>${name.slice(index + 4)}`),
        number,
        form: 'udim',
        u: (number - 1001) % 10,
        v: Math.floor((number - 1001) / 10),
      };
    }
  }
  const grid = GRID.exec(name);
  if (!grid) return null;
  const [u, v] = [Number(grid[1]), Number(grid[2])];
  const pattern = join(`${name.slice(0, grid.index)}<UDIM>${name.slice(grid.index + grid[0].length)}`);
  return { pattern, number: 1001 + (u - 1) + 10 * (v - 1), form: 'grid', u, v };
}

/** Groups files into tile sets of two tiles and more, by their pattern. */
export function groupTiles(paths: Iterable<string>): Map<string, TileSet> {
  const groups = new Map<string, NonNullable<ReturnType<typeof tileOfPath> & { path: string }>[]>();
  for (const path of paths) {
    // Nearly all names hold neither form; the test keeps the regular expressions away from them.
    if (!/1\d\d\d|u\d/i.test(path)) continue;
    const tile = tileOfPath(path);
    if (!tile) continue;
    const list = groups.get(tile.pattern);
    if (list) list.push({ ...tile, path });
    else groups.set(tile.pattern, [{ ...tile, path }]);
  }
  const sets = new Map<string, TileSet>();
  for (const [pattern, group] of groups) {
    if (group.length < 2) continue;
    const base = group[0].form === 'grid' && group.some(({ u, v }) => u === 0 || v === 0) ? 0 : 1;
    const tiles = group.map(({ form, number, u, v, path }) => ({
      path,
      number: form === 'udim' ? number : 1001 + (u - base) + 10 * (v - base),
    }));
    sets.set(pattern, { pattern, tiles: tiles.sort((a, b) => a.number - b.number) });
  }
  return sets;
}

/** Tiles that lie in a row between others and have no file. */
export function holesIn(tiles: readonly Tile[]): number[] {
  const numbers = new Set(tiles.map(({ number }) => number));
  const rows = new Map<number, number[]>();
  for (const number of numbers) {
    const row = Math.floor((number - 1001) / 10);
    rows.set(row, [...(rows.get(row) ?? []), number]);
  }
  const holes: number[] = [];
  for (const row of rows.values())
    for (let number = Math.min(...row); number < Math.max(...row); number += 1)
      if (!numbers.has(number)) holes.push(number);
  return holes.sort((a, b) => a - b);
}

/** `1001 to 1004, 1011`. */
export function tilesInWords(numbers: readonly number[]): string {
  const sorted = [...numbers].sort((a, b) => a - b);
  const runs: [number, number][] = [];
  for (const number of sorted) {
    const run = runs.at(-1);
    if (run && run[1] === number - 1) run[1] = number;
    else runs.push([number, number]);
  }
  return runs.map(([from, to]) => spanInWords(from, to)).join(', ');
}

function spanInWords(from: number, to: number): string {
  if (from === to) return `${from}`;
  return to === from + 1 ? `${from}, ${to}` : `${from} to ${to}`;
}
