import type { FileIndex } from '../links/fileIndex.ts';
import { isTilePattern, type TileSet, tileOfPath } from '../links/tiles.ts';
import type { AssetImage } from './asset.ts';

/** What an image entry becomes once it resolves to a file, or to a set of tiles by its pattern. */
export function resolution(
  path: string,
  how: string,
  index: Pick<FileIndex, 'tileSets'>,
): Pick<AssetImage, 'status' | 'resolved' | 'how' | 'tiles'> {
  const set = tileSetOf(path, index);
  if (!set) return { status: 'found', resolved: path, how, tiles: undefined };
  return { status: 'found', resolved: set.tiles[0].path, how, tiles: set.tiles };
}

/** The set that a pattern names, or that a file leads: only the first tile of a set stands for all of it. */
function tileSetOf(path: string, index: Pick<FileIndex, 'tileSets'>): TileSet | null {
  if (isTilePattern(path)) return index.tileSets().get(path) ?? null;
  const tile = tileOfPath(path);
  const set = tile && index.tileSets().get(tile.pattern);
  return set && set.tiles[0].path === path ? set : null;
}
