import { foldName } from '../links/fileIndex.ts';
import { writtenName } from '../links/writtenPath.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { type ChannelName, COLOUR_CHANNELS, type ColourSpace, defaultSpace } from '../scene/material.ts';
import type { AssetState, Edit, ParcelImage, SlotAddress } from './asset.ts';

/** Which slots to tag anew, and as what. */
export interface TagRepair {
  /** As each channel needs it, or as one space. */
  to: 'channel' | ColourSpace;
  /** Only images whose name holds this, case aside; '' for all. */
  keyword: string;
  /** Only these slots; null for all. */
  slots: readonly SlotAddress[] | null;
}

/** A slot whose colour space is changed. */
export interface TagChange extends SlotAddress {
  from: ColourSpace;
  to: ColourSpace;
}

/**
 * What would change. By channel, colours become sRGB (floats: what their numbers and names say, linear
 * without a word) and all else becomes data. Alpha has no colour and is passed over.
 */
export function tagChanges(
  state: AssetState,
  images: readonly ParcelImage[],
  detected: ReadonlyMap<string, DetectedMap>,
  repair: TagRepair,
): TagChange[] {
  const files = new Map(images.map((image) => [image.path, image]));
  const entries = new Map(state.images.map((image) => [image.key, image]));
  const chosen =
    repair.slots && new Set(repair.slots.map(({ material, channel }) => `${material}\n${channel}`));
  const keyword = foldName(repair.keyword.trim());
  return state.materials.flatMap((material) =>
    Object.entries(material.channels).flatMap(([name, { map }]): TagChange[] => {
      const channel = name as ChannelName;
      if (!map || map.component === 'a' || (chosen && !chosen.has(`${material.key}\n${channel}`))) return [];
      const entry = entries.get(map.image);
      const path = entry?.resolved ?? entry?.written ?? '';
      if (keyword !== '' && !foldName(writtenName(path)).includes(keyword)) return [];
      const to =
        repair.to === 'channel' ? fittingSpace(channel, files.get(path), detected.get(path)) : repair.to;
      return to === map.space ? [] : [{ material: material.key, channel, from: map.space, to }];
    }),
  );
}

function fittingSpace(
  channel: ChannelName,
  file: ParcelImage | undefined,
  detected: DetectedMap | undefined,
): ColourSpace {
  if (!COLOUR_CHANNELS.has(channel)) return 'data';
  if (!file?.info?.floating) return defaultSpace(channel);
  return detected && detected.space !== 'data' && detected.space !== 'unknown'
    ? detected.space
    : 'lin_rec709_scene';
}

/** The changes as edits, one per space. */
export function tagEdits(changes: readonly TagChange[], origin: Edit['origin']): Edit[] {
  const bySpace = new Map<ColourSpace, SlotAddress[]>();
  for (const { material, channel, to } of changes)
    bySpace.set(to, [...(bySpace.get(to) ?? []), { material, channel }]);
  return [...bySpace].map(([space, slots]) => ({ kind: 'adjustSlots', slots, change: { space }, origin }));
}
