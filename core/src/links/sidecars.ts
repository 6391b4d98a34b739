import { extensionOf, folderOf, stemOf } from '../parcel/fileSource.ts';

/** What is needed to know of a file to tell whether it is a converted copy of another. */
export interface SidecarCandidate {
  path: string;
  width: number;
  height: number;
}

/** A converted copy that a program left beside its original. */
export interface Sidecar {
  path: string;
  /** The file that it was made from. */
  original: string;
}

/** Types in which images are painted and delivered, before those that programs convert to for themselves. */
const ORDER = [
  'png',
  'tif',
  'tiff',
  'psd',
  'psb',
  'tga',
  'jpg',
  'jpeg',
  'bmp',
  'exr',
  'hdr',
  'webp',
  'gif',
  'avif',
  'dds',
  'ktx2',
  'tx',
];

/**
 * Converted copies that programs leave beside the originals: same folder and stem, another type, the same
 * size or halved some times. Of such a group the file that the model names is the original, else the one of
 * the most usual type; a file that the model names is never a copy.
 */
export function findSidecars(files: readonly SidecarCandidate[], named: ReadonlySet<string>): Sidecar[] {
  const groups = new Map<string, SidecarCandidate[]>();
  for (const file of files) {
    const key = `${folderOf(file.path)}/${stemOf(file.path).toLowerCase()}`;
    const group = groups.get(key);
    if (group) group.push(file);
    else groups.set(key, [file]);
  }
  const rank = (path: string) => (named.has(path) ? -1 : ORDER.indexOf(extensionOf(path)));
  return [...groups.values()].flatMap((group) => {
    if (group.length < 2) return [];
    const [original, ...others] = [...group].sort(
      (a, b) => rank(a.path) - rank(b.path) || (a.path < b.path ? -1 : 1),
    );
    return others
      .filter((file) => !named.has(file.path) && sameButHalved(file, original))
      .map((file) => ({ path: file.path, original: original.path }));
  });
}

function sameButHalved(copy: SidecarCandidate, original: SidecarCandidate): boolean {
  const across = Math.log2(original.width / copy.width);
  const down = Math.log2(original.height / copy.height);
  return Math.abs(across - Math.round(across)) < 0.02 && Math.abs(across - down) < 0.02;
}
