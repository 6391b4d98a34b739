import { placeOf } from '../parcel/filePlace.ts';
import type { AssetSource, ParcelImage } from './asset.ts';

/** The images that a model may call its own: those below its home folder, or all of the parcel's. */
export function ownImages(source: Pick<AssetSource, 'home'>, images: readonly ParcelImage[]): ParcelImage[] {
  const home = source.home ?? '';
  return images.filter(({ path }) => {
    const { in: where } = placeOf(path);
    return where === 'model' || (where === 'parcel' && (home === '' || path.startsWith(`${home}/`)));
  });
}
