import { writtenName } from '../links/writtenPath.ts';
import type { EditDefinition } from './editKind.ts';

/** Takes links back: the images are missing again. */
export const unlinkImages: EditDefinition<'unlinkImages'> = {
  apply(draft, edit, _images, skip) {
    for (const key of edit.images) {
      const entry = draft.images.find((other) => other.key === key);
      if (entry) Object.assign(entry, { resolved: null, status: 'missing', how: '', tiles: undefined });
      else skip(`image ${key}`);
    }
  },
  describe: (edit) =>
    `Unlinked ${edit.images.length === 1 ? writtenName(edit.images[0]) : `${edit.images.length} images`}`,
};
