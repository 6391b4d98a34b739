import type { AssetState, LoadedAsset, ParcelImage } from '../../asset/asset.ts';
import { type Destination, outputMap, scalar, triple } from '../../destinations/profile.ts';
import { patchFbx } from '../../formats/fbx/patchFbx.ts';
import type { Patched } from '../../formats/patch.ts';
import { toMetalRough } from '../../materials/metalRough.ts';
import { objectChanges } from '../../objectPatch.ts';
import { extensionOf, stemOf } from '../../parcel/fileSource.ts';
import { createNamer } from '../../parcel/names.ts';
import { patchOfState } from '../../patch.ts';
import type { SceneDocument } from '../../scene/document.ts';
import { distinctLosses, type Loss } from '../../scene/loss.ts';
import { type ChannelName, type MapUse, VECTOR_CHANNELS } from '../../scene/material.ts';
import type { HandoffPlan, PlannedMaterial } from './plan.ts';
import { type ImageSource, kindOf, type PlannedImage } from './planImage.ts';

/** The plan of a handoff that changes the source file itself: every image goes along as it is. */
export function planPatch(
  state: AssetState,
  images: readonly ParcelImage[],
  destination: Destination,
): HandoffPlan {
  const files = new Map(images.map((image) => [image.path, image]));
  const named = createNamer();
  const planned = new Map<string, PlannedImage>();
  const losses: Loss[] = [];
  const imageFor = (channel: ChannelName, use: MapUse): PlannedImage | null => {
    const entry = state.images.find(({ key }) => key === use.image);
    if (entry?.status === 'embedded') return null;
    const file = entry?.resolved ? files.get(entry.resolved) : undefined;
    if (!entry || !file?.info) {
      losses.push({ code: 'image.missing', detail: entry?.written ?? use.image });
      return null;
    }
    const existing = planned.get(file.path);
    const map = outputMap(
      channel,
      channel.toLowerCase(),
      VECTOR_CHANNELS.has(channel) ? triple(channel) : [scalar(channel)],
      { space: use.space },
    );
    if (existing) return { ...existing, map, use };
    const { width, height, components } = file.info;
    const name = `${named(stemOf(file.path), 'map')}.${extensionOf(file.path)}`;
    const made: PlannedImage = {
      file: name,
      pattern: name,
      folder: destination.folder,
      map,
      width,
      height,
      components: wholeImage(channel, file, components),
      copyOf: file.path,
      copied: kindOf(file.info),
      use,
      tile: null,
    };
    planned.set(file.path, made);
    return made;
  };
  const materials = state.materials.map((material): PlannedMaterial => {
    const materialImages: PlannedMaterial['images'] = {};
    for (const [name, { map }] of Object.entries(material.channels)) {
      const image = map && imageFor(name as ChannelName, map);
      if (image) materialImages[name] = image;
    }
    const inputs = Object.fromEntries(
      Object.entries(material.channels).map(([name, { value, map }]) => [name, { value, map }]),
    );
    return {
      key: material.key,
      name: material.name,
      shading: toMetalRough(material),
      inputs,
      source: material,
      images: materialImages,
    };
  });
  return {
    destination,
    patched: true,
    materials,
    images: [...planned.values()],
    losses: distinctLosses(losses),
    prepared: ['The source file itself, changed where the edits demand it; all else in it stays as it was'],
    unsaid: [],
  };
}

/** Every component of an image, each standing for itself. */
function wholeImage(channel: ChannelName, { path, sha256 }: ParcelImage, components: number): ImageSource[] {
  const letters = (['r', 'g', 'b', 'a'] as const).slice(0, components < 3 ? 1 : components);
  return letters.map((component, i) => ({
    from: 'image',
    channel: VECTOR_CHANNELS.has(channel) && i < 3 ? channel : 'opacity',
    path,
    sha256,
    component,
    part: Math.min(i, 2) as 0 | 1 | 2,
    invert: false,
    gain: 1,
    offset: 0,
    space: 'data',
    flip: false,
  }));
}

/** The model's bytes with the edits in it and its images under their new paths; `document` is what it holds. */
export function patchedModel(
  { source, state }: Pick<LoadedAsset, 'source' | 'state'>,
  document: SceneDocument,
  plan: HandoffPlan,
  bytes: Uint8Array,
): Patched {
  const { patch } = patchOfState({ source }, state, (path) => path);
  const paths = new Map(
    plan.images.map((image) => [
      image.copyOf as string,
      image.folder === '' ? image.file : `${image.folder}/${image.file}`,
    ]),
  );
  const images = state.images.flatMap(({ written, resolved, status }) => {
    const path = resolved && status !== 'embedded' ? paths.get(resolved) : undefined;
    return path ? [{ written, path }] : [];
  });
  const whole = { ...patch, images };
  return patchFbx(bytes, source.model, whole, objectChanges(document, state).patch);
}
