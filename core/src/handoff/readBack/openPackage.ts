import type { AssetImage } from '../../asset/asset.ts';
import { describeSource } from '../../asset/describeSource.ts';
import type { Reading } from '../../compare/channelField.ts';
import type { MaterialPair } from '../../compare/compareReadings.ts';
import { KinkajouError } from '../../errors.ts';
import { type OpenAsset, openAsset } from '../../inspect.ts';
import type { FileSource } from '../../parcel/fileSource.ts';
import type { Material } from '../../scene/material.ts';
import type { Sheet } from '../write/sheet.ts';
import { applySheet } from './applySheet.ts';
import { inSheetSpace } from './proof.ts';

/** A package as its receiver reads it. */
export interface OpenPackage {
  sheet: Sheet;
  /** Its models, with the sheet's words applied to their materials. */
  models: OpenAsset[];
}

/**
 * Opens a package that a handoff wrote, to look at it or to compare it. Throws `package.sheet` where its
 * `handoff.json` is missing or cannot be read, and the readers' errors.
 */
export async function openPackage(source: FileSource): Promise<OpenPackage> {
  const sheet = await readSheet(source);
  const models: OpenAsset[] = [];
  for (const model of sheet.models) {
    const asset = await openAsset(source, model);
    models.push(withSheet(asset, sheet));
  }
  return { sheet, models };
}

/** A model with what the sheet says besides. */
function withSheet(asset: OpenAsset, sheet: Sheet): OpenAsset {
  const { images } = asset.source;
  const document = asset.document.format === 'obj' ? inSheetSpace(asset.document, sheet) : asset.document;
  const paths = asset.images.map(({ path }) => path);
  const source =
    document === asset.document ? asset.source : describeSource(document, asset.source.model, paths);
  return {
    ...asset,
    document,
    source: {
      ...source,
      materials: applySheet(document.materials, images, sheet, document.format).materials,
    },
  };
}

async function readSheet(source: FileSource): Promise<Sheet> {
  const broken = () =>
    new KinkajouError(
      'package.sheet',
      'handoff.json is missing or cannot be read',
      { file: source.name },
      'Name a package that a handoff wrote.',
    );
  if (!source.files.some(({ path }) => path === 'handoff.json')) throw broken();
  try {
    const sheet = JSON.parse(new TextDecoder().decode(await source.read('handoff.json'))) as Sheet;
    if (sheet.handoff === 2 && Array.isArray(sheet.models) && Array.isArray(sheet.materials)) return sheet;
  } catch {
    // Told below.
  }
  throw broken();
}

/** All models of a package as one reading; what several of them carry inside is kept apart. */
export function packageReading({ models }: OpenPackage): Reading {
  const materials = new Map<string, Material>();
  const images: AssetImage[] = [];
  models.forEach(({ source }, i) => {
    for (const material of source.materials) {
      if (materials.has(material.name)) continue;
      const channels = Object.entries(material.channels).map(([name, channel]) => [
        name,
        channel.map ? { ...channel, map: { ...channel.map, image: `${i}:${channel.map.image}` } } : channel,
      ]);
      materials.set(material.name, {
        ...material,
        key: material.name,
        channels: Object.fromEntries(channels),
      });
    }
    for (const image of source.images) {
      const tiles = image.tiles?.map((tile) => ({ ...tile, path: `${i}:${tile.path}` }));
      images.push({
        ...image,
        key: `${i}:${image.key}`,
        resolved: image.resolved && `${i}:${image.resolved}`,
        ...(tiles ? { tiles } : {}),
      });
    }
  });
  return {
    materials: [...materials.values()],
    images,
    metresPerUnit: models[0]?.source.metresPerUnit ?? 1,
    read: (path) => models[Number(path.slice(0, path.indexOf(':')))].read(path.slice(path.indexOf(':') + 1)),
  };
}

/** Which written material stands for each of the asset's own; of copies for every part, the first. */
export function packagePairs({ materials }: Sheet): MaterialPair[] {
  return materials.map(({ key, name, copies }) => ({ key, a: key, b: copies[0] ?? name }));
}
