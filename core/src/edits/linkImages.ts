import { writtenName } from '../links/writtenPath.ts';
import type { EditDefinition } from './editKind.ts';

/** Points written paths at files of the parcel. Every slot that reads the written path follows. */
export const linkImages: EditDefinition<'linkImages'> = {
  apply(draft, edit, images, skip) {
    for (const { image, path, reason } of edit.links) {
      const entry = draft.images.find((other) => other.key === image);
      if (!entry) skip(`image ${image}`);
      else if (!images.some((file) => file.path === path)) skip(`file ${path}`);
      else Object.assign(entry, { resolved: path, status: 'found', how: reason });
    }
  },
  describe(edit) {
    const [first] = edit.links;
    if (edit.links.length === 1) return `Linked ${writtenName(first.image)} to ${first.path}`;
    return `Linked ${edit.links.length} images: ${edit.links.map((link) => link.path).join(', ')}`;
  },
};
