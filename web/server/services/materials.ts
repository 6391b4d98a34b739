import { type AssetState, findMaterial, type ParcelImage } from '@kinkajou/core/asset/asset';
import {
  type KeptMaterial,
  keepMaterial,
  materialsNamed,
  placeMaterial,
} from '@kinkajou/core/asset/canonical';
import { MADE_FOLDER } from '@kinkajou/core/asset/madeFiles';
import { KinkajouError } from '@kinkajou/core/errors';
import { fileName } from '@kinkajou/core/parcel/fileSource';
import { asc, eq } from 'drizzle-orm';
import { blobs } from '../blobs.ts';
import { db } from '../db/client.ts';
import { shelfMaterials } from '../db/schema.ts';
import { enqueue } from '../jobs/queue.ts';
import type { JobRun } from '../jobs/runJob.ts';
import { notFound } from '../respond.ts';
import { currentState } from './assetState.ts';
import { addEdits } from './edits.ts';
import { keepImage } from './keepImage.ts';
import { allAssetIds } from './shelf.ts';

/** A material that is kept for other assets. */
export type ShelfMaterial = typeof shelfMaterials.$inferSelect;

/** Where a canonical material would go, or went. */
export interface ReplaceResult {
  assets: { id: string; name: string; materials: string[] }[];
  count: number;
}

/** Materials of the shelf by name. */
export function listMaterials(): Promise<ShelfMaterial[]> {
  return db().select().from(shelfMaterials).orderBy(asc(shelfMaterials.name));
}

/** Keeps a material of an asset under a name; one of that name is replaced. */
export async function keepOnShelf(
  assetId: string,
  materialKey: string,
  name: string,
): Promise<ShelfMaterial[]> {
  const { state, images } = await currentState(assetId);
  const material = findMaterial(state, materialKey);
  if (!material) throw new KinkajouError('shelf.material', `there is no material "${materialKey}"`);
  const kept = keepMaterial({ ...material, name }, state, images);
  await db()
    .insert(shelfMaterials)
    .values({ name, kept })
    .onConflictDoUpdate({ target: shelfMaterials.name, set: { kept } });
  return listMaterials();
}

/** Forgets a material; resolves to those that are left. */
export async function dropFromShelf(id: number): Promise<ShelfMaterial[]> {
  await db().delete(shelfMaterials).where(eq(shelfMaterials.id, id));
  return listMaterials();
}

/** Where a kept material would take the place of those whose names fit, in one asset or, for null, in all. */
export async function previewReplacing(
  id: number,
  pattern: string,
  assetId: string | null,
): Promise<ReplaceResult> {
  const row = await findKept(id);
  const result: ReplaceResult = { assets: [], count: 0 };
  for (const one of await idsOf(assetId)) {
    const { asset, state } = await currentState(one);
    add(result, { id: one, name: asset.name, materials: replaceable(state, pattern, row) });
  }
  return result;
}

/** Has them replaced; returns the job's id. */
export async function requestReplacing(
  material: number,
  pattern: string,
  assetId: string | null,
): Promise<string> {
  await findKept(material);
  return enqueue('replace-materials', { material, pattern, assetId });
}

/** The job: each asset gets an edit of its own. Begun anew it leaves alone what was replaced already. */
export async function replaceMaterials({
  data: { material, pattern, assetId },
  progress,
}: JobRun<'replace-materials'>): Promise<ReplaceResult> {
  const row = await findKept(material);
  const result: ReplaceResult = { assets: [], count: 0 };
  const ids = await idsOf(assetId);
  for (const [i, id] of ids.entries()) {
    const { asset, state, images } = await currentState(id);
    progress(i / ids.length, `replacing materials of ${asset.name}`);
    const materials = replaceable(state, pattern, row);
    add(result, { id, name: asset.name, materials });
    if (materials.length === 0) continue;
    const by = placeMaterial(row.kept, await bringImages(asset.parcelId, row.kept, images));
    await addEdits(id, [
      { kind: 'replaceMaterials', materials, by, origin: { from: 'rule', detail: `names like ${pattern}` } },
    ]);
  }
  if (result.count > 0)
    await db().update(shelfMaterials).set({ pattern }).where(eq(shelfMaterials.id, material));
  return result;
}

async function findKept(id: number): Promise<ShelfMaterial> {
  const [row] = await db().select().from(shelfMaterials).where(eq(shelfMaterials.id, id));
  if (!row) throw notFound('material');
  return row;
}

async function idsOf(assetId: string | null): Promise<string[]> {
  return assetId ? [assetId] : allAssetIds();
}

function replaceable(state: AssetState, pattern: string, row: ShelfMaterial): string[] {
  return materialsNamed(state, pattern).filter((key) => !isThat(state, key, row));
}

function add(result: ReplaceResult, entry: ReplaceResult['assets'][number]): void {
  if (entry.materials.length === 0) return;
  result.assets.push(entry);
  result.count += entry.materials.length;
}

/** A material that reads just like this one already is left alone. */
function isThat(state: AssetState, key: string, { kept }: ShelfMaterial): boolean {
  const material = findMaterial(state, key);
  if (!material) return false;
  const shape = ({
    workflow,
    alphaMode,
    alphaCutoff,
    doubleSided,
    exponent,
    channels,
  }: KeptMaterial['material']) =>
    JSON.stringify([
      [workflow, alphaMode, alphaCutoff, doubleSided, exponent],
      Object.entries(channels)
        .map(([channel, { value, map }]) => [channel, value, map && { ...map, image: fileName(map.image) }])
        .sort(),
    ]);
  return shape(material) === shape(kept.material);
}

/** Paths of the material's images in a parcel; what it lacks is brought along. */
export async function bringImages(
  parcelId: string,
  { images: required }: KeptMaterial,
  images: readonly ParcelImage[],
): Promise<(name: string) => string> {
  const paths = new Map<string, string>();
  for (const { name, sha256 } of required) {
    const there =
      images.find((image) => image.sha256 === sha256 && fileName(image.path) === name) ??
      images.find((image) => image.sha256 === sha256);
    const path = there?.path ?? `${MADE_FOLDER}/${name.replace(/(\.\w+)?$/, `_${sha256.slice(0, 6)}$1`)}`;
    if (!there) {
      await keepImage(parcelId, path, await blobs.get(sha256));
      await enqueue('look-at-images', { parcelId });
    }
    paths.set(name, path);
  }
  return (name) => paths.get(name) ?? name;
}
