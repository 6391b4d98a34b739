import { foldName } from '../links/fileIndex.ts';
import { writtenName } from '../links/writtenPath.ts';
import { classifyNames } from '../maps/classifyName.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { extensionOf, stemOf } from '../parcel/fileSource.ts';
import { splitWords } from '../scene/channelWords.ts';
import type { Channel, ChannelName, MapUse, Material } from '../scene/material.ts';
import { type AssetState, type Edit, findImage, type PastedSlot } from './asset.ts';

/** One slot of a template: how an image is read, and how the image is called, with the set's words left open. */
export interface TemplateSlot {
  channel: ChannelName;
  value: Channel['value'];
  /** Null for a slot that holds a value alone. */
  read: Omit<MapUse, 'image'> | null;
  /** Words of the image's name besides its set: `orm`, `base color`. */
  words: string;
  extension: string;
}

export interface SlotTemplate {
  /** The material that it was learned from. */
  from: string;
  slots: TemplateSlot[];
}

export interface TemplateResult {
  /** Null when nothing could be filled. */
  edit: Edit | null;
  /** Slots for which no image was found, as `material, channel`. */
  unresolved: string[];
}

/** Learns the wiring of one material. */
export function learnTemplate(material: Material, state: AssetState): SlotTemplate {
  const slots = Object.entries(material.channels).map(([channel, { value, map }]): TemplateSlot => {
    const entry = map && findImage(state, map.image);
    const path = entry ? (entry.resolved ?? entry.written) : '';
    const { image: _image, ...read } = map ?? ({} as MapUse);
    return { channel: channel as ChannelName, value, read: map ? read : null, words: map ? ownWords(path) : '', extension: extensionOf(writtenName(path)) };
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

/**
 * Wires each material as the template says, with the images of its own set: of the sets that it uses already, or of the
 * set that bears its name. Slots without a fitting image are left as they are.
 */
export function applyTemplate(
  template: SlotTemplate,
  materials: readonly Material[],
  state: AssetState,
  detected: readonly DetectedMap[],
  origin: Edit['origin'],
): TemplateResult {
  const slots: PastedSlot[] = [];
  const unresolved: string[] = [];
  for (const material of materials) {
    const sets = setsFor(material, state, detected);
    for (const { channel, value, read, words, extension } of template.slots) {
      if (!read) {
        slots.push({ material: material.key, channel, content: { value, map: null } });
        continue;
      }
      const fitting = detected.filter((map) => sets.has(map.set) && ownWords(map.path) === words);
      const image = fitting.find((map) => extensionOf(map.path) === extension) ?? fitting[0] ?? byReading(channel, sets, detected);
      if (image) slots.push({ material: material.key, channel, content: { value, map: { ...read, image: imageKey(image.path, state) } } });
      else unresolved.push(`${material.key}, ${channel}`);
    }
  }
  return { edit: slots.length > 0 ? { kind: 'pasteSlots', slots, origin } : null, unresolved };
}

/** Where no name has the template's words, an image that plainly is for the channel serves. */
function byReading(channel: ChannelName, sets: ReadonlySet<string>, detected: readonly DetectedMap[]): DetectedMap | undefined {
  return detected.find((map) => sets.has(map.set) && !map.packed && !map.contradicted && map.readings[0]?.channel === channel);
}

function setsFor(material: Material, state: AssetState, detected: readonly DetectedMap[]): Set<string> {
  const sets = new Set<string>();
  const names = Object.values(material.channels).flatMap(({ map }) => {
    const entry = map && findImage(state, map.image);
    return entry ? [writtenName(entry.resolved ?? entry.written)] : [];
  });
  for (const { set } of classifyNames(names)) if (set !== '') sets.add(set);
  const own = foldName(splitWords(material.name).join(' '));
  for (const { set } of detected) if (set !== '' && (set === own || set.replaceAll(' ', '') === own.replaceAll(' ', ''))) sets.add(set);
  return sets;
}

/** The key under which the asset knows a file, or the one that it will get. */
export function imageKey(path: string, state: AssetState): string {
  return state.images.find((image) => image.resolved === path)?.key ?? `parcel:${path}`;
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
