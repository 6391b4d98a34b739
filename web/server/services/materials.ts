import { type AssetState, findMaterial, type ParcelImage } from '@kinkajou/core/asset/asset';
import { keepMaterial, type KeptMaterial, materialsNamed, placeMaterial } from '@kinkajou/core/asset/canonical';
import { MADE_FOLDER } from '@kinkajou/core/asset/madeFiles';
import { KinkajouError } from '@kinkajou/core/errors';
import { fileName } from '@kinkajou/core/parcel/fileSource';
import { asc, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { shelfMaterials } from '../db/schema.ts';
import { enqueue } from '../queue.ts';
import { notFound } from '../respond.ts';
import { currentState, listShelf } from './assets.ts';
import { addEdits } from './edits.ts';
import { keepImage } from './keepImage.ts';

export type ShelfMaterial = typeof shelfMaterials.$inferSelect;

/** Where a canonical material would go, or went. */
export interface ReplaceResult {
  assets: { id: string; name: string; materials: string[] }[];
  count: number;
}

export function listMaterials(): Promise<ShelfMaterial[]> {
  return db().select().from(shelfMaterials).orderBy(asc(shelfMaterials.name));
}

/** Keeps a material of an asset under a name; one of that name is replaced. */
export async function keepOnShelf(assetId: string, materialKey: string, name: string): Promise<ShelfMaterial[]> {
  const { state, images } = await currentState(assetId);
  const material = findMaterial(state, materialKey);
  if (!material) throw new KinkajouError('shelf.material', `there is no material "${materialKey}"`);
  const kept = keepMaterial({ ...material, name }, state, images);
  await db().insert(shelfMaterials).values({ name, kept }).onConflictDoUpdate({ target: shelfMaterials.name, set: { kept } });
  return listMaterials();
}

export async function dropFromShelf(id: number): Promise<ShelfMaterial[]> {
  await db().delete(shelfMaterials).where(eq(shelfMaterials.id, id));
  return listMaterials();
}

/** Puts a kept material in the place of those whose names fit, in one asset or in all. With `preview` nothing is changed. */
export async function replaceByName(id: number, pattern: string, assetId: string | null, preview: boolean): Promise<ReplaceResult> {
  const [row] = await db().select().from(shelfMaterials).where(eq(shelfMaterials.id, id));
  if (!row) throw notFound('material');
  const result: ReplaceResult = { assets: [], count: 0 };
  for (const one of assetId ? [assetId] : (await listShelf()).map((entry) => entry.id)) {
    const { asset, state, images } = await currentState(one);
    const materials = materialsNamed(state, pattern).filter((key) => !isThat(state, key, row));
    if (materials.length === 0) continue;
    result.assets.push({ id: one, name: asset.name, materials });
    result.count += materials.length;
    if (preview) continue;
    const by = placeMaterial(row.kept, await bringImages(asset.parcelId, row.kept, images));
    await addEdits(one, [{ kind: 'replaceMaterials', materials, by, origin: { from: 'rule', detail: `names like ${pattern}` } }]);
  }
  if (!preview && result.count > 0) await db().update(shelfMaterials).set({ pattern }).where(eq(shelfMaterials.id, id));
  return result;
}

/** A material that reads just like this one already is left alone. */
function isThat(state: AssetState, key: string, { kept }: ShelfMaterial): boolean {
  const material = findMaterial(state, key);
  if (!material) return false;
  const shape = ({ workflow, alphaMode, alphaCutoff, doubleSided, exponent, channels }: KeptMaterial['material']) =>
    JSON.stringify([
      [workflow, alphaMode, alphaCutoff, doubleSided, exponent],
      Object.entries(channels)
        .map(([channel, { value, map }]) => [channel, value, map && { ...map, image: fileName(map.image) }])
        .sort(),
    ]);
  return shape(material) === shape(kept.material);
}

/** Paths of the material's images in a parcel; what it lacks is brought along. */
async function bringImages(parcelId: string, { images: wanted }: KeptMaterial, images: readonly ParcelImage[]): Promise<(name: string) => string> {
  const paths = new Map<string, string>();
  for (const { name, sha256 } of wanted) {
    const there = images.find((image) => image.sha256 === sha256 && fileName(image.path) === name) ?? images.find((image) => image.sha256 === sha256);
    const path = there?.path ?? `${MADE_FOLDER}/${name.replace(/(\.\w+)?$/, `_${sha256.slice(0, 6)}$1`)}`;
    if (!there) {
      await keepImage(parcelId, path, await blobs.get(sha256));
      await enqueue('look-at-images', { parcelId });
    }
    paths.set(name, path);
  }
  return (name) => paths.get(name) ?? name;
}
