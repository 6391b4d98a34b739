import type { AssetState } from '../asset/asset.ts';
import { describeSource, embeddedImages } from '../asset/describeSource.ts';
import { compareMaterials } from '../compare/compareMaterials.ts';
import type { Reading } from '../compare/channelField.ts';
import type { SceneDocument } from '../scene/document.ts';
import { applySheet } from './applySheet.ts';
import type { ReadFile } from './bake.ts';
import type { HandoffPlan } from './plan.ts';
import type { PlannedImage } from './planImage.ts';
import type { HandoffCheck } from './readBack.ts';
import type { Sheet } from './sheet.ts';
import type { PackageFiles } from './writeGltf.ts';

/** One channel of one material: what the source says through the destination's convention, and what was read. */
export interface ChannelSample {
  material: string;
  channel: string;
  /** Means over the places compared: one number, or three. */
  expected: number[];
  found: number[];
  /** Of a channel's range, in 0..1. */
  largest: number;
  places: number;
  ok: boolean;
}

/** Places along the longer side of the grid. */
const GRID = 24;
const STEPS = { 8: 1.6 / 255, 16: 1.6 / 4096, half: 1.6 / 512, float: 1e-4 } as const;
/** Where images were rescaled, single places differ; the means must not. */
const RESCALED = 8 / 255;

/** A written model as its receiver reads it: the file itself, with what the sheet tells besides. */
export function readingOf(found: SceneDocument, modelPath: string, files: PackageFiles, sheet: Sheet): Reading {
  const carried = new Map(embeddedImages(found).map(({ path, bytes }) => [path, bytes]));
  const { images } = describeSource(found, modelPath, [...files.keys()]);
  return {
    materials: applySheet(found.materials, images, sheet),
    images,
    metresPerUnit: found.metresPerUnit,
    read: async (path) => (carried.get(path) ?? files.get(path)) as Uint8Array,
  };
}

/**
 * Compares each channel that the destination has a place for, as the source has it and as the package is read, on a
 * grid of places. `state` is what the images were baked from.
 */
export async function readBackChannels(
  reading: Reading,
  state: AssetState,
  read: ReadFile,
  sceneMetres: number,
  plan: HandoffPlan,
  sheet: Sheet,
): Promise<{ check: HandoffCheck; channels: ChannelSample[] }> {
  const source: Reading = { materials: state.materials, images: state.images, metresPerUnit: sceneMetres, read };
  const channels: ChannelSample[] = [];
  for (const { key, name, images } of plan.materials) {
    const before = state.materials.find((material) => material.key === key);
    const names = new Set([name, ...(sheet.materials.find((told) => told.key === key)?.copies ?? [])]);
    const after = reading.materials.find((material) => names.has(material.name));
    if (!before || !after) continue;
    const carried = carriedBy(Object.values(images).filter((image) => image !== undefined));
    for (const difference of await compareMaterials(before, source, after, reading, { grid: GRID })) {
      const image = carried.get(difference.channel);
      if (!image) continue;
      const rescaled = difference.sizes[0] !== difference.sizes[1];
      // A cut-out that was resized keeps its share, not its mean; the check of its pixels sees to that.
      if (rescaled && difference.channel === 'opacity' && before.alphaMode === 'mask') continue;
      const range = difference.kind === 'length' ? Math.max(1e-9, ...difference.a.map(Math.abs)) : 1;
      const means = Math.max(...difference.a.map((value, i) => Math.abs(value - difference.b[i])));
      const apart = (rescaled ? means : difference.largest) / range;
      channels.push({
        material: name,
        channel: difference.channel,
        expected: difference.a,
        found: difference.b,
        largest: apart,
        places: difference.places,
        ok: apart <= (rescaled ? RESCALED : image.copyOf ? STEPS[8] : STEPS[image.map.depth] * (difference.kind === 'colour' ? 2 : 1)),
      });
    }
  }
  const wrong = channels.filter(({ ok }) => !ok);
  const worst = channels.reduce((most, { largest }) => Math.max(most, largest), 0);
  return {
    channels,
    check: {
      check: 'channels as the receiver reads them',
      ok: wrong.length === 0,
      expected: `${channels.length} channels of ${plan.materials.length} materials as in the source`,
      found:
        wrong.length === 0
          ? `${channels.length} channels, at most ${(worst * 255).toFixed(2)}/255 apart`
          : wrong.map(({ material, channel, largest }) => `${material}, ${channel}: ${(largest * 255).toFixed(1)}/255 apart`).join('; '),
    },
  };
}

/** Channels that an image carries whole, with that image; a channel that goes out under another name is not compared. */
function carriedBy(images: readonly PlannedImage[]): Map<string, PlannedImage> {
  const carried = new Map<string, PlannedImage>();
  for (const image of images) {
    image.components.forEach((component, i) => {
      const recipe = [...image.map.components, ...(image.map.alpha ? [image.map.alpha] : [])][i];
      if (component.from === 'image' && !recipe?.as) carried.set(component.channel === 'glossiness' ? 'roughness' : component.channel, image);
    });
  }
  return carried;
}
