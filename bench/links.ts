import { buildFileIndex } from '@kinkajou/core/links/fileIndex';
import { rankCandidates } from '@kinkajou/core/links/rank';
import { extent } from './extent.ts';

/** Files on the disk. */
export const FILES = extent(100_000, 2000);
/** Paths that are looked for among them. */
export const MISSING = extent(5000, 100);
const CHANNELS = ['basecolor', 'roughness', 'metalness', 'normal', 'ao', 'height', 'opacity', 'emission'];

/** Files in 300 folders, every third set with a resolution in its names. */
export function libraryPaths(): string[] {
  return Array.from({ length: FILES }, (_, i) => {
    const set = Math.floor(i / CHANNELS.length);
    return `library/set${set % 300}/prop_${set}_${CHANNELS[i % CHANNELS.length]}${set % 3 === 0 ? '_2k' : ''}.png`;
  });
}

/** Paths as other machines wrote them: other folders, case, types, resolutions, and spelt wrong. */
export function missingPaths(): string[] {
  return Array.from({ length: MISSING }, (_, i) => {
    const set = (i * 2503) % (FILES / CHANNELS.length);
    const channel = CHANNELS[i % CHANNELS.length];
    const ways = [
      `D:\\art\\set${set % 300}\\prop_${set}_${channel}.png`,
      `/home/tove/PROP_${set}_${channel}.PNG`,
      `prop_${set}_${channel}.tif`,
      `C:\\t\\prop_${set}_${channel}_4k.png`,
      `C:\\t\\props_${set}_${channel}x.png`,
    ];
    return ways[i % ways.length];
  });
}

/**
 * Milliseconds to index the files and rank candidates for every missing path, and how many paths found one.
 */
export function matchLinks(): { ms: number; found: number } {
  const [files, missing] = [libraryPaths(), missingPaths()];
  const start = performance.now();
  const index = buildFileIndex(files);
  const found = missing.filter(
    (written) => rankCandidates(written, 'props/prop.fbx', index).length > 0,
  ).length;
  return { ms: performance.now() - start, found };
}
