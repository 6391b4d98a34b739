import { placeOf } from '../parcel/filePlace.ts';
import { folderOf } from '../parcel/fileSource.ts';
import type { AssetSource, ParcelImage } from './asset.ts';
import { type Portrayed, portraitFolders, portraitsFor } from './portraits.ts';

/** What of a parcel with several models is whose. */
export type Ground = Pick<AssetSource, 'home' | 'commons' | 'lender' | 'modelsAtHome' | 'portraits'>;

/** The images that a model may call its own: those on its ground but for portraits of other models. */
export function ownImages(source: Ground & Portrayed, images: readonly ParcelImage[]): ParcelImage[] {
  const portraitOf = portraitsFor(source);
  return imagesOnGround(source, images).filter(({ path }) => portraitOf(path) !== 'other');
}

/**
 * Those below a model's home folder and those that lie with no model, or all of the parcel's; without any at
 * home those that another model may share.
 */
export function imagesOnGround(source: Ground, images: readonly ParcelImage[]): ParcelImage[] {
  const home = source.home ?? '';
  const commons = new Set(source.commons);
  return images.filter(({ path }) => {
    const { in: where } = placeOf(path);
    if (where !== 'parcel') return where === 'model';
    const folder = folderOf(path);
    return home === '' || path.startsWith(`${home}/`) || commons.has(folder) || folder === source.lender;
  });
}

/**
 * Where a model among others has its images. Its home is the highest folder that holds no model beside those
 * in the model's own folder: `buoy` for `buoy/scenes/buoy.fbx` beside `winch/scenes/winch.fbx`. Folders of
 * images that lie in no model's home are common ground.
 */
export function groundOf(model: string, models: readonly string[], images: readonly string[]): Ground {
  const counts = new Map<string, number>();
  for (const path of models)
    for (const folder of above(path)) counts.set(folder, (counts.get(folder) ?? 0) + 1);
  const homeOf = (path: string) => {
    let home = folderOf(path);
    while (home !== '' && counts.get(folderOf(home)) === counts.get(home)) home = folderOf(home);
    return home;
  };
  const home = homeOf(model);
  const homes = models.map(homeOf);
  const neighbours = homes.filter((other) => other === home).length;
  const beside = neighbours > 1 && { modelsAtHome: neighbours };
  const portraitsIn = (folders: (folder: string) => boolean) => {
    const portraits = portraitFolders(models, images).filter(({ folder }) => folders(folder));
    return portraits.length > 0 && { portraits };
  };
  if (home === '') return { home, ...beside, ...portraitsIn(() => true) };
  const taken = new Set(homes);
  const commons = [
    ...new Set(images.filter((path) => !above(path).some((folder) => taken.has(folder))).map(folderOf)),
  ];
  const lender = lenderOf(home, images);
  return {
    home,
    ...(commons.length > 0 && { commons }),
    ...(lender !== undefined && taken.has(lender) && { lender }),
    ...beside,
    ...portraitsIn((folder) => commons.includes(folder) || `${folder}/`.startsWith(`${home}/`)),
  };
}

/** The nearest folder above that has images, for a home without any: `door` for `door/flip`. */
function lenderOf(home: string, images: readonly string[]): string | undefined {
  if (images.some((path) => path.startsWith(`${home}/`))) return undefined;
  const folders = new Set(images.map(folderOf));
  return above(home).find((folder) => folders.has(folder));
}

/** All folders that a file lies in, the nearest first and the parcel's own last. */
function above(path: string): string[] {
  const folders: string[] = [];
  for (let folder = folderOf(path); ; folder = folderOf(folder)) {
    folders.push(folder);
    if (folder === '') return folders;
  }
}
