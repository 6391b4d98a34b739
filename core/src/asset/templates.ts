import { foldName } from '../links/fileIndex.ts';
import { writtenName } from '../links/writtenPath.ts';
import { classifyNames } from '../maps/classifyName.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { extensionOf, fileName, folderOf, stemOf } from '../parcel/fileSource.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { splitWords } from '../scene/channelWords.ts';
import type { Channel, ChannelName, MapUse, Material } from '../scene/material.ts';
import { pickedKey } from '../scene/pickedImage.ts';
import { type AssetState, type Edit, findImage, type PastedSlot } from './asset.ts';

/**
 * One slot of a template: how an image is read, and how the image is called, with the set's words left open.
 */
export interface TemplateSlot {
  channel: ChannelName;
  value: Channel['value'];
  /** Null for a slot that holds a value alone. */
  read: Omit<MapUse, 'image'> | null;
  /** Words of the image's name besides its set: `orm`, `base color`. */
  words: string;
  extension: string;
  /** Where the image lay. */
  folder?: string;
}

/** Slots learned from one material, to be filled in others by the pattern of the images' names. */
export interface SlotTemplate {
  /** The material that it was learned from. */
  from: string;
  slots: TemplateSlot[];
}

/** What a template comes to for other materials. */
export interface TemplateResult {
  /** Null when nothing could be filled. */
  edit: Edit | null;
  /** Slots for which no image was found, as `material, channel`. */
  unresolved: string[];
}

/**
 * Learns the wiring of one material. `detected` tells which words of the images' names speak of their
 * channel.
 */
export function learnTemplate(
  material: Material,
  state: AssetState,
  detected: readonly DetectedMap[] = [],
): SlotTemplate {
  const slots = Object.entries(material.channels).map(([channel, { value, map }]): TemplateSlot => {
    const entry = map && findImage(state, map.image);
    const path = entry ? (entry.resolved ?? entry.written) : '';
    const { image: _image, ...read } = map ?? ({} as MapUse);
    const telling = detected.find((detectedMap) => detectedMap.path === path)?.telling;
    const identity = {
      words: map ? telling || ownWords(path) : '',
      extension: extensionOf(writtenName(path)),
    };
    return {
      channel: channel as ChannelName,
      value,
      read: map ? read : null,
      ...identity,
      ...(map ? { folder: folderOf(path) } : {}),
    };
  });
  return { from: material.key, slots };
}

/** Words of a name that are not its set's. */
function ownWords(path: string): string {
  const [{ set }] = classifyNames([path]);
  const setWords = new Set(set.split(' '));
  return splitWords(stemOf(writtenName(path)))
    .filter((word) => !setWords.has(word))
    .join(' ');
}

/** Images of one set in one folder. */
interface MapGroup {
  folder: string;
  set: string;
  maps: DetectedMap[];
}

interface TemplateHost {
  state: AssetState;
  /** What the parcel's images are. */
  detected: readonly DetectedMap[];
}

/**
 * Wires each material as the template says, with the images of its own set: of the sets that it uses already,
 * of the set whose name is likest its own, or of the only set that nothing uses. Of several deliveries the
 * one is taken that fills most of the template, and lies where the template's images lay. Slots without a
 * fitting image are left as they are.
 */
export function applyTemplate(
  template: SlotTemplate,
  materials: readonly Material[],
  { state, detected }: TemplateHost,
  origin: Edit['origin'],
): TemplateResult {
  const slots: PastedSlot[] = [];
  const unresolved: string[] = [];
  const groups = groupsOf(detected);
  for (const material of materials) {
    const group = groupFor(material, template, groups, { state, materials });
    for (const slot of template.slots) {
      const { channel, value, read } = slot;
      const image = read && fittingMap(slot, group?.maps ?? []);
      if (!read) slots.push({ material: material.key, channel, content: { value, map: null } });
      else if (image)
        slots.push({
          material: material.key,
          channel,
          content: { value, map: { ...read, image: imageKey(image.path, state) } },
        });
      else unresolved.push(`${material.key}, ${channelInWords(channel)}`);
    }
  }
  return {
    edit: slots.some(({ content }) => content?.map) ? { kind: 'pasteSlots', slots, origin } : null,
    unresolved,
  };
}

function groupsOf(detected: readonly DetectedMap[]): MapGroup[] {
  const groups = new Map<string, MapGroup>();
  for (const map of detected) {
    const folder = folderOf(map.path);
    const key = `${folder}\n${map.set}`;
    const group = groups.get(key) ?? { folder, set: map.set, maps: [] };
    groups.set(key, group);
    group.maps.push(map);
  }
  return [...groups.values()];
}

/** By the image's own words, by what it is read for with its component, then by what it plainly is for. */
function fittingMap(
  { channel, read, words, extension }: TemplateSlot,
  maps: readonly DetectedMap[],
): DetectedMap | undefined {
  const called = maps.filter(
    (map) => words !== '' && (map.telling === words || ownWords(map.path) === words),
  );
  const packed = () =>
    maps.find(
      ({ packed: isPacked, readings }) =>
        isPacked &&
        readings.some((reading) => reading.channel === channel && reading.component === read?.component),
    );
  const plain = () =>
    maps.find((map) => !map.packed && !map.contradicted && map.readings[0]?.channel === channel);
  return called.find((map) => extensionOf(map.path) === extension) ?? called[0] ?? packed() ?? plain();
}

function groupFor(
  material: Material,
  template: SlotTemplate,
  groups: readonly MapGroup[],
  { state, materials }: { state: AssetState; materials: readonly Material[] },
): MapGroup | undefined {
  const filled = (group: MapGroup) =>
    template.slots.filter((slot) => slot.read && fittingMap(slot, group.maps)).length;
  const folders = new Set(template.slots.map(({ folder }) => folder));
  const tails = new Set([...folders].map((folder) => fileName(folder ?? '')));
  const near = ({ folder }: MapGroup) => folderWeight(folders, folder, tails);
  const best = (ownMapGroups: readonly MapGroup[]) =>
    [...ownMapGroups].sort(
      (a, b) => filled(b) - filled(a) || near(b) - near(a) || (a.folder < b.folder ? -1 : 1),
    )[0];
  const reads = pathsOf(material, state);
  const used = groups.filter(({ maps }) => maps.some(({ path }) => reads.has(path)));
  if (used.length > 0) {
    // Its own images may be of one set in several folders.
    const names = new Set(used.map(({ set }) => set));
    return best(groups.filter((group) => used.includes(group) || (group.set !== '' && names.has(group.set))));
  }
  const taken = new Set(materials.concat(state.materials).flatMap((other) => [...pathsOf(other, state)]));
  const free = groups.filter(
    ({ maps }) => filled({ folder: '', set: '', maps }) > 0 && !maps.some(({ path }) => taken.has(path)),
  );
  const scores = free.map((group) => likeness(material.name, group));
  const most = Math.max(0, ...scores);
  if (most > 0) return best(free.filter((_, i) => scores[i] === most));
  return new Set(free.map(({ set, folder }) => set || folder)).size === 1 ? best(free) : undefined;
}

function folderWeight(folders: Set<string | undefined>, folder: string, tails: Set<string>) {
  if (folders.has(folder)) return 2;
  return tails.has(fileName(folder)) ? 1 : 0;
}

function pathsOf(material: Material, state: AssetState): Set<string> {
  const paths = Object.values(material.channels).flatMap(({ map }) => {
    const entry = map && findImage(state, map.image);
    return entry?.resolved ? [entry.resolved] : [];
  });
  return new Set(paths);
}

/** Share of words that a material's name and a set's name, or its folder's, have in common; 0 for none. */
function likeness(name: string, { set, folder }: MapGroup): number {
  const nameWords = new Set(splitWords(name).map(foldName));
  const words = [
    ...(set === '' ? [] : set.split(' ')),
    ...(set === '' ? splitWords(fileName(folder)) : []),
  ].map(foldName);
  const whole = foldName(splitWords(name).join(''));
  if (words.length > 0 && words.join('') === whole) return 2;
  const common = words.filter((word) => nameWords.has(word)).length;
  return common === 0 ? 0 : common / Math.max(nameWords.size, words.length);
}

/** The key under which the asset knows a file, or the one that it will get. */
export function imageKey(path: string, state: AssetState): string {
  return state.images.find((image) => image.resolved === path)?.key ?? pickedKey(path);
}

/** A name pattern with `*` and `?`, case aside; an empty one matches everything. */
export function matchesPattern(pattern: string, name: string): boolean {
  if (pattern.trim() === '') return true;
  const body = pattern
    .trim()
    .replace(/[.+^${}()|[\]\\]/g, '\\$&')
    .replaceAll('*', '.*')
    .replaceAll('?', '.');
  const anchored = /[*?]/.test(pattern) ? `^${body}$` : body;
  return new RegExp(anchored, 'i').test(name);
}
