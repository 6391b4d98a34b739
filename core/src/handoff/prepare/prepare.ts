import type { AssetImage, AssetState, LoadedAsset } from '../../asset/asset.ts';
import type { Destination } from '../../destinations/profile.ts';
import { decodeImage } from '../../images/decode.ts';
import { DecodedImages } from '../../images/decodedImages.ts';
import type { Loss } from '../../scene/loss.ts';
import type { ChannelName } from '../../scene/material.ts';
import type { TiledMaterial } from '../../scene/splitTiles.ts';
import { answerPatch, type PatchAnswer } from './answerPatch.ts';
import { withColoursInRange } from './colourRange.ts';
import { withoutIdleChannels } from './idleChannels.ts';
import { type ConvertOptions, prepareState } from './prepareState.ts';
import { untile } from './tileMaterials.ts';
import { withoutUnusedDefaults } from './unusedMaterials.ts';

/** An asset in the shape that a destination can be planned from; the asset itself stays as it is. */
export interface Prepared extends LoadedAsset {
  /** Why the source file cannot simply be changed, in words; null where it is. */
  refusal: string | null;
  /** What was done, in words. */
  done: string[];
  /**
   * Images that a conversion wanted and that are not there, which the result says nothing of any more; what
   * was made of images that do not lie together; colours that were cut.
   */
  losses: Loss[];
  /** Materials whose tiles became materials or places of an image. */
  tiled: readonly TiledMaterial[];
  /** Of images that were made on the way: the parcel's own that they came from. */
  origins: ReadonlyMap<string, string[]>;
}

/**
 * The first stage: whether the source file itself will do, else tiles to plain images and materials to the
 * destination's shading model. Throws the errors of decoding.
 */
export async function prepare(
  asset: LoadedAsset,
  destination: Destination,
  { progress, sketch, decoded }: ConvertOptions = {},
): Promise<Prepared> {
  const answer: PatchAnswer = destination.patch
    ? await answerPatch(asset, destination)
    : { refusal: 'not wanted' };
  if (answer.refusal === null)
    return { ...asset, refusal: null, done: [], losses: answer.losses, tiled: [], origins: new Map() };
  const readable = withoutUnreadable(asset);
  const taken = {
    ...readable,
    state: withoutIdleChannels(withoutUnusedDefaults(asset.source, readable.state)),
  };
  const untiled = await untile(taken, destination, { sketch: sketch?.maxSize });
  const stitched = untiled?.origins ?? new Map<string, string[]>();
  const decode = sketch?.decode;
  // Stitched images are decoded as they are; the parcel's own may be kept as small copies.
  const decodeBoth =
    decode && untiled
      ? async (path: string) =>
          stitched.has(path) ? decodeImage(await untiled.read(path), path) : decode(path)
      : decode;
  const made = await prepareState({ ...taken, ...untiled }, destination, {
    progress,
    decoded,
    sketch: sketch && { ...sketch, decode: decodeBoth },
  });
  const inRange = await withColoursInRange(made, destination, async (path) =>
    decode && !stitched.has(path) && !made.origins.has(path)
      ? decode(path)
      : (decoded ?? new DecodedImages()).decode(await made.read(path), path),
  );
  const origins = [...made.origins].map(([path, from]): [string, string[]] => [
    path,
    from.flatMap((path) => stitched.get(path) ?? [path]),
  ]);
  return {
    source: asset.source,
    state: inRange.state,
    images: made.images,
    read: made.read,
    refusal: answer.refusal,
    done: [...(untiled?.done ?? []), ...made.done],
    losses: [...missingFrom(taken.state, made.state), ...made.losses, ...inRange.losses],
    tiled: untiled?.tiled ?? [],
    origins: new Map([...stitched, ...origins]),
  };
}

/** Maps without an image whose material was brought to another shading model, and names them no more. */
function missingFrom(before: AssetState, after: AssetState): Loss[] {
  const lacking = new Set(before.images.filter(({ resolved }) => resolved === null).map(({ key }) => key));
  if (lacking.size === 0) return [];
  return before.materials.flatMap(({ key, channels }) => {
    const made = after.materials.find((material) => material.key === key);
    const left = new Set(Object.values(made?.channels ?? {}).map(({ map }) => map?.image));
    return Object.entries(channels).flatMap(([channel, { map }]): Loss[] =>
      made && map && lacking.has(map.image) && !left.has(map.image)
        ? [{ code: 'map.missing', material: key, channel: channel as ChannelName }]
        : [],
    );
  });
}

/** What cannot be read is as good as missing: nothing is computed from it, and the plan names it. */
function withoutUnreadable(asset: LoadedAsset): LoadedAsset {
  const faulty = new Set(asset.images.filter(({ info }) => !info).map(({ path }) => path));
  if (faulty.size === 0) return asset;
  const images = asset.state.images.map(
    (image): AssetImage =>
      image.resolved !== null && faulty.has(image.resolved)
        ? { ...image, resolved: null, status: 'missing' }
        : image,
  );
  return { ...asset, state: { ...asset.state, images } };
}
