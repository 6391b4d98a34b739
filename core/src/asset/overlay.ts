import { foldName } from '../links/fileIndex.ts';
import { extensionOf, fileName, folderOf } from '../parcel/fileSource.ts';

/** A file by path and content. */
export interface OverlayFile {
  path: string;
  sha256: string;
}

/** Folder for what comes with models that are joined to an asset's own. */
export const JOINED_FOLDER = 'joined';
const WITH_JOINED = new RegExp(`(^|/)${JOINED_FOLDER}/`);

/** Files of a parcel with those of a delivery laid over them. */
export interface Overlay<T extends OverlayFile> {
  /** Every file of the result by the path it gets, with the entry that it comes from. */
  files: Map<string, T>;
  /** Paths whose content is another now. */
  replaced: string[];
  added: string[];
  /** Delivered files that were the same already. */
  unchanged: number;
  /** Path of the asset's model in the result. */
  model: string;
}

/**
 * Lays a newer delivery over the files of an asset. A delivered file takes the place of the one with its
 * path, else of the only one with its name, case and accents aside; what has no place is added, under the
 * folder that the others' places suggest. A single delivered model of the same type takes the model's place
 * whatever it is called; of another type, it becomes the model. Nothing is dropped for not being delivered
 * again.
 */
export function overlayFiles<T extends OverlayFile>(
  old: readonly T[],
  delivered: readonly T[],
  model: string,
  isModel: (path: string) => boolean,
): Overlay<T> {
  const files = new Map(old.map((file) => [file.path, file]));
  const byName = new Map<string, string[]>();
  for (const { path } of old) byName.set(nameKey(path), [...(byName.get(nameKey(path)) ?? []), path]);
  const models = delivered.filter((file) => isModel(file.path));
  const places = new Map<T, string>();
  let newModel = model;
  for (const file of delivered) {
    const place = files.has(file.path) ? file.path : placeOf(byName.get(nameKey(file.path)));
    if (place) places.set(file, place);
    else if (models.length === 1 && models[0] === file && extensionOf(file.path) === extensionOf(model))
      places.set(file, model);
  }
  const prefix = commonMove(places);
  const result: Overlay<T> = { files, replaced: [], added: [], unchanged: 0, model };
  for (const file of delivered) {
    const place = places.get(file) ?? moved(file.path, prefix, files);
    const existing = files.get(place);
    if (existing?.sha256 === file.sha256) result.unchanged += 1;
    else if (existing) result.replaced.push(place);
    else result.added.push(place);
    files.set(place, file);
    if (models.length === 1 && models[0] === file) newModel = place;
  }
  return { ...result, model: files.has(newModel) ? newModel : model };
}

function nameKey(path: string): string {
  return foldName(fileName(path));
}

/** The only one; where models were joined, the only one of the asset's own. */
function placeOf(paths: readonly string[] | undefined): string | undefined {
  return onlyOne(paths) ?? onlyOne(paths?.filter((path) => !WITH_JOINED.test(path)));
}

function onlyOne(paths: readonly string[] | undefined): string | undefined {
  return paths?.length === 1 ? paths[0] : undefined;
}

/** The move of folders that most placed files agree on: from the delivery's folder to the asset's. */
function commonMove<T extends OverlayFile>(
  places: ReadonlyMap<T, string>,
): { from: string; to: string } | null {
  const votes = new Map<string, number>();
  for (const [file, place] of places) {
    let [from, to] = [folderOf(file.path), folderOf(place)];
    while (from !== '' && to !== '' && fileName(from) === fileName(to))
      [from, to] = [folderOf(from), folderOf(to)];
    const key = JSON.stringify([from, to]);
    votes.set(key, (votes.get(key) ?? 0) + 1);
  }
  const [best] = [...votes].sort((a, b) => b[1] - a[1]);
  if (!best) return null;
  const [from, to] = JSON.parse(best[0]) as [string, string];
  return { from, to };
}

function moved(
  path: string,
  move: { from: string; to: string } | null,
  taken: ReadonlyMap<string, unknown>,
): string {
  if (!move || (move.from !== '' && !path.startsWith(`${move.from}/`))) return path;
  const rest = move.from === '' ? path : path.slice(move.from.length + 1);
  const place = move.to === '' ? rest : `${move.to}/${rest}`;
  return taken.has(place) ? path : place;
}
