import type { AssetImage, ParcelImage } from '@kinkajou/core/asset/asset';
import type { ChannelName, ColourSpace, MapUse } from '@kinkajou/core/scene/material';
import type { MarkKind } from '@/ui/Mark';
import type { BenchView } from '../bench/useBench.ts';

/** One use of an image, as the Colour step lists it. */
export interface TagRow {
  key: string;
  material: string;
  channel: ChannelName;
  map: MapUse;
  entry: AssetImage;
  file: ParcelImage | null;
  mark: MarkKind;
  /** What the findings of this step propose. */
  proposed: ColourSpace | null;
}

/** Which tags are listed. */
export type TagFilter = 'all' | 'doubtful' | 'float' | 'colour' | 'data';

/** One row for each slot that reads an image, with what is doubtful about its tag. */
export function tagRows(view: BenchView): TagRow[] {
  const entries = new Map(view.state.images.map((image) => [image.key, image]));
  const files = new Map(view.images.map((image) => [image.path, image]));
  const open = new Map<string, ColourSpace | null>();
  for (const { step, target, mend, severity } of view.findings) {
    if (step !== 'colour' || !target.material || !target.channel || severity === 'note') continue;
    open.set(
      `${target.material}\n${target.channel}`,
      mend?.kind === 'adjustSlots' ? (mend.change.space ?? null) : null,
    );
  }
  return view.state.materials.flatMap((material) =>
    Object.entries(material.channels).flatMap(([name, { map }]): TagRow[] => {
      const entry = map && entries.get(map.image);
      if (!map || !entry) return [];
      const key = `${material.key}\n${name}`;
      const file = (entry.resolved && files.get(entry.resolved)) || null;
      const mark = tagMark(file, open, key);
      return [
        {
          key,
          material: material.key,
          channel: name as ChannelName,
          map,
          entry,
          file,
          mark,
          proposed: open.get(key) ?? null,
        },
      ];
    }),
  );
}

function tagMark(file: ParcelImage | null, open: ReadonlyMap<string, unknown>, key: string): MarkKind {
  if (!file?.info) return 'broken';
  return open.has(key) ? 'doubtful' : 'fine';
}
