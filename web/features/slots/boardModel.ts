import type { AssetImage, AssetState, ParcelImage, SlotAddress } from '@kinkajou/core/asset/asset';
import type { Finding } from '@kinkajou/core/findings/finding';
import { CHANNELS, type Channel, type ChannelName, type Material } from '@kinkajou/core/scene/material';
import type { MarkKind } from '@/ui/Mark';

/** Columns that every board shows, whether or not the asset uses them. */
const ALWAYS: readonly ChannelName[] = [
  'baseColor',
  'metalness',
  'roughness',
  'normal',
  'occlusion',
  'emission',
];

/** What a cell of the board shows. */
export interface Cell {
  kind: 'map' | 'missing' | 'value' | 'empty';
  mark: MarkKind;
  channel: Channel | null;
  image: ParcelImage | null;
  /** File name as shown under the picture. */
  label: string;
}

/** What the cells of a board are made from. */
export interface BoardInputs {
  entries: ReadonlyMap<string, AssetImage>;
  images: ReadonlyMap<string, ParcelImage>;
  marks: ReadonlyMap<string, MarkKind>;
  /** Short names of the images' paths, by {@link distinctNames}. */
  names: ReadonlyMap<string, string>;
}

/** What a slot shows. Findings that point at it decide its mark. */
export function cellOf(
  material: Material,
  name: ChannelName,
  { entries, images, marks, names }: BoardInputs,
): Cell {
  const channel = material.channels[name] ?? null;
  const mark = marks.get(slotKey({ material: material.key, channel: name })) ?? 'fine';
  if (!channel) return { kind: 'empty', mark: 'empty', channel, image: null, label: '' };
  if (!channel.map) return { kind: 'value', mark, channel, image: null, label: 'value' };
  const entry = entries.get(channel.map.image);
  const image = entry?.resolved ? (images.get(entry.resolved) ?? null) : null;
  const path = entry?.resolved ?? entry?.written ?? channel.map.image;
  const label = names.get(path) ?? bareName(path);
  if (!image?.info) return { kind: 'missing', mark: 'broken', channel, image, label };
  return { kind: 'map', mark, channel, image, label };
}

/** Marks by slot: square where an error points, triangle where a warning does. */
export function marksOf(findings: readonly Finding[]): Map<string, MarkKind> {
  const marks = new Map<string, MarkKind>();
  for (const finding of findings) {
    if (finding.severity === 'note') continue;
    for (const slot of slotsOf(finding)) {
      const key = slotKey(slot);
      if (marks.get(key) !== 'broken') marks.set(key, finding.severity === 'error' ? 'broken' : 'doubtful');
    }
  }
  return marks;
}

/** The slot that a finding points at; of several images of another set all slots that read them. */
function slotsOf({ code, target: { material, channel }, mend }: Finding): SlotAddress[] {
  if (!material || !channel) return [];
  if (code === 'slot.contradiction' && mend?.kind === 'assignSlots' && !mend.clears)
    return [{ material, channel }, ...mend.assignments.filter((slot) => slot.material === material)];
  return [{ material, channel }];
}

/** Columns of the board: those that are always there, those the asset uses, and the person's own choice. */
export function columnsOf(
  state: AssetState,
  shown: readonly string[],
  hidden: readonly string[],
): ChannelName[] {
  const used = new Set<string>(ALWAYS);
  for (const material of state.materials) for (const name of Object.keys(material.channels)) used.add(name);
  for (const name of shown) used.add(name);
  for (const name of hidden) used.delete(name);
  return CHANNELS.filter((name) => used.has(name));
}

/** Which rows the board shows. */
export type RowFilter = 'all' | 'broken' | 'doubtful';

/** The worst mark among a row's cells. */
export function rowMark(
  material: Material,
  columns: readonly ChannelName[],
  marks: ReadonlyMap<string, MarkKind>,
): MarkKind {
  const found = columns.map((channel) => marks.get(slotKey({ material: material.key, channel })));
  if (found.includes('broken')) return 'broken';
  return found.includes('doubtful') ? 'doubtful' : 'fine';
}

/** A slot as one word. */
export function slotKey({ material, channel }: SlotAddress): string {
  return `${material}\n${channel}`;
}

/** All slots in the rectangle between two corners. */
export function rectangle(
  a: SlotAddress,
  b: SlotAddress,
  rows: readonly string[],
  columns: readonly ChannelName[],
): SlotAddress[] {
  const between = <T>(list: readonly T[], from: T, to: T) => {
    const [i, j] = [list.indexOf(from), list.indexOf(to)];
    return i < 0 || j < 0 ? [] : list.slice(Math.min(i, j), Math.max(i, j) + 1);
  };
  return between(rows, a.material, b.material).flatMap((material) =>
    between(columns, a.channel, b.channel).map((channel) => ({ material, channel })),
  );
}

function bareName(path: string): string {
  return path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
}
