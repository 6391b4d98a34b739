import { KinkajouError } from '../errors.ts';
import { foldName } from '../links/fileIndex.ts';
import { fileName, folderOf } from '../parcel/fileSource.ts';

/** What is known of an asset that a delivery for many may hold something of. */
export interface DeliveryFor {
  /** Path of its model. */
  model: string;
  /** Paths of all its files. */
  files: readonly string[];
  isModel(path: string): boolean;
}

/**
 * Of a delivery for many assets the paths that are this one's: its model by name, what lies below that
 * model's folder where no other model shares it, and whatever is called as one of its files. Of several of
 * one name, the one whose folders agree. Throws `delivery.none` where nothing is, and `delivery.ambiguous`
 * where several fit as well.
 */
export function shareOfDelivery(
  delivered: readonly string[],
  { model, files, isModel }: DeliveryFor,
): string[] {
  const picked = pick(delivered.filter(isModel), model);
  const share = new Set(picked === null ? [] : [picked]);
  const folder = picked === null ? null : folderOf(picked);
  const isBelow = (path: string) => folder === '' || (folder !== null && path.startsWith(`${folder}/`));
  const isAlone = folder !== null && delivered.filter((path) => isModel(path) && isBelow(path)).length === 1;
  const others = delivered.filter((path) => !isModel(path));
  if (isAlone) for (const path of others) if (isBelow(path)) share.add(path);
  for (const file of files) {
    if (isModel(file)) continue;
    // What lies beside the model goes before what is called the same elsewhere.
    const near = pick(others.filter(isBelow), file) ?? pick(others, file);
    if (near !== null) share.add(near);
  }
  if (share.size === 0)
    throw new KinkajouError('delivery.none', 'nothing in the delivery is called as a file of this asset', {
      file: model,
    });
  return delivered.filter((path) => share.has(path));
}

/**
 * The path of the same name whose folders agree with a path's the furthest up; null where none is called so.
 */
function pick(paths: readonly string[], as: string): string | null {
  const named = paths.filter((path) => foldName(fileName(path)) === foldName(fileName(as)));
  if (named.length < 2) return named[0] ?? null;
  const agree = named.map((path) => agreeing(path, as));
  const most = Math.max(...agree);
  const best = named.filter((_, i) => agree[i] === most);
  if (best.length === 1) return best[0];
  throw new KinkajouError(
    'delivery.ambiguous',
    `${best.slice(0, 3).join(' and ')} fit as well`,
    { file: as },
    'Deliver to this asset alone, or keep folders as they were.',
  );
}

/** How many names at the end of two paths are the same, case and accents aside. */
function agreeing(a: string, b: string): number {
  const [first, second] = [a, b].map((path) => path.split('/').map(foldName).reverse());
  let count = 0;
  while (count < first.length && count < second.length && first[count] === second[count]) count += 1;
  return count;
}
