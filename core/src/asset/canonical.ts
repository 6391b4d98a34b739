import { fileName } from '../parcel/fileSource.ts';
import type { ChannelName, Material } from '../scene/material.ts';
import { pickedKey } from '../scene/pickedImage.ts';
import { type AssetState, type CanonicalMaterial, findImage, type ParcelImage } from './asset.ts';
import { matchesPattern } from './templates.ts';

/** An image that a canonical material brings along. */
export interface CanonicalImage {
  /** File name, by which the material's maps call it. */
  name: string;
  sha256: string;
  size: number;
}

/** A material kept for reuse, its maps calling their images by file name. */
export interface KeptMaterial {
  material: CanonicalMaterial;
  images: CanonicalImage[];
}

/** Makes a material fit to be kept: only images that are there go along. */
export function keepMaterial(
  material: Material,
  state: AssetState,
  images: readonly ParcelImage[],
): KeptMaterial {
  const files = new Map(images.map((image) => [image.path, image]));
  const keptCanonicalImages = new Map<string, CanonicalImage>();
  const channels: CanonicalMaterial['channels'] = {};
  for (const [channel, { value, map }] of Object.entries(material.channels)) {
    const entry = map && findImage(state, map.image);
    const file = entry?.resolved ? files.get(entry.resolved) : undefined;
    if (map && !file) continue;
    if (file)
      keptCanonicalImages.set(fileName(file.path), {
        name: fileName(file.path),
        sha256: file.sha256,
        size: file.size,
      });
    channels[channel as ChannelName] = {
      value,
      map: map && file ? { ...map, image: fileName(file.path) } : null,
    };
  }
  const { name, workflow, alphaMode, alphaCutoff, doubleSided, exponent } = material;
  return {
    material: { name, workflow, alphaMode, alphaCutoff, doubleSided, exponent, channels },
    images: [...keptCanonicalImages.values()],
  };
}

/** The kept material with its images at the paths that they have in an asset's parcel. */
export function placeMaterial(
  { material }: KeptMaterial,
  pathOf: (name: string) => string,
): CanonicalMaterial {
  const channels = Object.fromEntries(
    Object.entries(material.channels).map(([channel, { value, map }]) => [
      channel,
      { value, map: map && { ...map, image: pickedKey(pathOf(map.image)) } },
    ]),
  );
  return { ...material, channels };
}

/** Keys of the materials whose name fits the pattern. */
export function materialsNamed(state: AssetState, pattern: string): string[] {
  return pattern.trim() === ''
    ? []
    : state.materials.filter(({ name }) => matchesPattern(pattern, name)).map(({ key }) => key);
}
