import { formatJoined, plainModel } from '@kinkajou/core/join/joinedFile';
import { generator } from './damage.ts';
import type { Parcel } from './failures.ts';

/** Folder that holds what the second model came with. */
const FOLDER = 'joined/second';

/** Two models as one, the second at a place by lot. The same seed gives the same place. */
export function joinedParcel(first: Parcel, second: Parcel, seed: number): Parcel {
  const random = generator(seed);
  const metres = () => Math.round(random() * 400 - 200) / 100;
  const bytes = formatJoined({
    models: [
      plainModel(first.model),
      {
        ...plainModel(second.model),
        folder: FOLDER,
        name: 'Second',
        at: [metres(), metres(), metres()],
        turn: Math.floor(random() * 8) * 45,
        scale: [1, 2, 0.5, 0.1][Math.floor(random() * 4)],
      },
    ],
  });
  const beside = Object.entries(second.files).map(([path, content]) => [`${FOLDER}/${path}`, content]);
  return {
    files: { ...first.files, ...Object.fromEntries(beside), 'both.joined': bytes },
    model: 'both.joined',
  };
}
