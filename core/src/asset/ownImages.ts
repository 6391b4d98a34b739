import type { AssetSource, ParcelImage } from './asset.ts';

/** Images from outside the parcel; see {@link ParcelImage}. */
const FURTHER = /^(search|parcels)\//;

/** The images that a model may call its own: those below its home folder, or all of the parcel's. */
export function ownImages(source: Pick<AssetSource, 'home'>, images: readonly ParcelImage[]): ParcelImage[] {
  const home = source.home ?? '';
  return images.filter(({ path }) => !FURTHER.test(path) && (home === '' || path.startsWith(`${home}/`) || path.startsWith('embedded/')));
}
