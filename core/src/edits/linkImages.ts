import { resolution } from '../asset/resolution.ts';
import { groupTiles, isTilePattern } from '../links/tiles.ts';
import { writtenName } from '../links/writtenPath.ts';
import type { EditDefinition } from './editKind.ts';

/** Points written paths at files of the parcel. Every slot that reads the written path follows. */
export const linkImages: EditDefinition<'linkImages'> = {
  apply(draft, edit, images, skip) {
    const paths = new Set(images.map((file) => file.path));
    const tileSets = () => groupTiles(paths);
    for (const { image, path, reason } of edit.links) {
      const entry = draft.images.find((other) => other.key === image);
      if (!entry) skip(`image ${image}`);
      else if (isTilePattern(path) ? !tileSets().has(path) : !paths.has(path)) skip(`file ${path}`);
      else Object.assign(entry, resolution(path, reason, { tileSets }));
    }
  },
  describe(edit) {
    const [first] = edit.links;
    if (edit.links.length === 1) return `Linked ${writtenName(first.image)} to ${first.path}`;
    return `Linked ${edit.links.length} images: ${edit.links.map((link) => link.path).join(', ')}`;
  },
};
