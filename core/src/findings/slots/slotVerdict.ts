import type { MapReading } from '../../maps/classifyName.ts';
import { contradiction, isNormalLike, judgePixels } from '../../maps/judgePixels.ts';
import { servedReading } from '../../maps/servedReading.ts';
import { type Channel, type ChannelName, COLOUR_CHANNELS, type MapUse } from '../../scene/material.ts';
import type { MappedSlot } from './mappedSlot.ts';

/** What is wrong with what a slot reads, at most one thing: the most telling explanation wins. */
export type SlotVerdict =
  | { kind: 'packedWhole'; readings: MapReading[] }
  | { kind: 'normalAsBump'; why: string }
  | { kind: 'bumpAsNormal'; why: string; sure: boolean }
  | { kind: 'glossAsRoughness'; why: string }
  | { kind: 'inverted'; why: string }
  | { kind: 'contradiction'; reading: MapReading; why: string }
  | { kind: 'lightOfColour'; why: string }
  | { kind: 'noAlpha'; why: string }
  | { kind: 'pixels'; why: string };

/** A name this sure is set against the slot. */
const TELLING = 0.8;

/**
 * Judges one slot by name and pixels, in the light of the others. Null when nothing speaks against it, or
 * when there is no image to judge.
 */
export function judgeSlot(slot: MappedSlot, all: readonly MappedSlot[]): SlotVerdict | null {
  const { channel, map, file, facts, named } = slot;
  if (!file || !named) return null;
  // What a name spells is believed only as far as the pixels bear it out.
  const spelled = slot.detected?.packed === false && named.packed ? slot.detected.readings : named.readings;
  const says = named.confidence >= TELLING ? spelled : [];
  // Of opacity there is a finding of its own.
  if (map.component === 'a' && channel !== 'opacity' && facts && (facts.alpha?.full ?? 1) >= 1)
    return { kind: 'noAlpha', why: 'its alpha is 1 all over' };
  if (named.packed && says.length > 1)
    return judgePacked(slot, slot.detected?.readings.length ? slot.detected.readings : says);
  const [reading] = says;
  if (isRelief(channel) && (facts ? isNormalLike(facts) : reading?.channel === 'normal')) {
    return { kind: 'normalAsBump', why: facts ? judgePixels(facts).evidence : named.evidence.join('; ') };
  }
  if (channel === 'normal') {
    const grey =
      facts !== null && facts.components !== 2 && ['grey', 'mask'].includes(judgePixels(facts).kind);
    if (grey || (isRelief(reading?.channel) && !(facts && isNormalLike(facts)))) {
      return {
        kind: 'bumpAsNormal',
        why: grey && facts ? judgePixels(facts).evidence : named.evidence.join('; '),
        sure: grey,
      };
    }
  }
  if (isInverse(channel, reading) && !readsInverted(map))
    return { kind: 'glossAsRoughness', why: named.evidence.join('; ') };
  if (isRough(channel) && reading?.channel === channel && isTurned(slot, reading))
    return { kind: 'inverted', why: named.evidence.join('; ') };
  const pixels = facts && map.component !== 'a' ? contradiction(channel, facts, isAlone(slot, all)) : null;
  // Vectors that are called a bump are none; where they feed the normal, all is well.
  if (channel === 'normal' && facts && isNormalLike(facts) && isRelief(reading?.channel)) return null;
  // A name that agrees with the slot is believed before a tinge of colour.
  if (reading?.channel === channel) return null;
  // One image that feeds several channels is called after one of them.
  const shares =
    reading !== undefined &&
    !isSameGrey(slot, reading.channel) &&
    all.some(
      (other) =>
        other.material === slot.material && other.entry === slot.entry && other.channel === reading.channel,
    );
  if (shares) return pixels ? { kind: 'pixels', why: pixels } : lightOfColour(slot, all);
  // A name that the pixels belie says nothing against the slot.
  if (
    reading &&
    !slot.detected?.contradicted &&
    (!fits(channel, slot, reading) || isMisplaced(slot, reading, all))
  )
    return { kind: 'contradiction', reading, why: named.evidence.join('; ') };
  if (pixels) return { kind: 'pixels', why: pixels };
  return reading?.channel === 'emission' ? null : lightOfColour(slot, all);
}

/**
 * Whether a slot reads an image as if it were made for it: the whole of it, or a part of what shows as colours
 * elsewhere, or its first while nothing reads the others. Packed images are colourful by right.
 */
function isAlone({ material, entry, map }: MappedSlot, all: readonly MappedSlot[]): boolean {
  if (map.component === 'rgb') return true;
  const beside = all.filter((other) => other.entry === entry && other.map.component !== map.component);
  const isColour = (other: MappedSlot) => other.map.component === 'rgb' && COLOUR_CHANNELS.has(other.channel);
  if (map.component === 'r' && beside.every(isColour)) return true;
  return (
    map.component !== 'luminance' && beside.some((other) => other.material === material && isColour(other))
  );
}

/** Channels that no material has alike. */
const APART = new Set<ChannelName>(['roughness', 'metalness', 'occlusion']);
/** Share of grey pixels from which the components hold one plane. */
const ONE_PLANE = 0.999;

/**
 * Whether a slot reads the very numbers of another channel: one grey image for roughness and metalness, as a
 * slot for both gives it where it was meant for one. A value of 0 takes them back.
 */
function isSameGrey({ channel, content, facts }: MappedSlot, named: ChannelName): boolean {
  if (named === channel || !APART.has(named) || !APART.has(channel) || content.value === 0) return false;
  return facts !== null && (facts.components < 3 || facts.grey >= ONE_PLANE);
}

/** So many slots of a material read one image where an exporter wired it wherever it could. */
const EVERYWHERE = 3;

/** The painted colours as light of their own. A lit sign may read so, but not its specular colour besides. */
function lightOfColour(slot: MappedSlot, all: readonly MappedSlot[]): SlotVerdict | null {
  const { channel, content, facts, material, entry } = slot;
  if (channel !== 'emission' || isDark(content.value)) return null;
  const wired = all.filter((other) => other.material === material && other.entry === entry);
  const judged = facts && judgePixels(facts);
  return wired.length >= EVERYWHERE && judged?.kind === 'colour'
    ? { kind: 'lightOfColour', why: judged.evidence }
    : null;
}

function isDark(value: Channel['value']): boolean {
  return [value].flat().every((component) => component === 0);
}

function isRelief(channel: ChannelName | undefined): boolean {
  return channel === 'bump' || channel === 'height';
}

function judgePacked({ channel, map, material }: MappedSlot, packed: MapReading[]): SlotVerdict | null {
  const readings = packed.map((reading) => servedReading(reading, material.workflow));
  const ownReading = readings.find((reading) => reading.channel === channel);
  if (ownReading && ownReading.invert !== readsInverted(map) && map.component === ownReading.component)
    return { kind: 'packedWhole', readings };
  if (
    ownReading &&
    (map.component === ownReading.component || (ownReading.component === 'rgb' && map.component !== 'a'))
  )
    return null;
  return { kind: 'packedWhole', readings };
}

/** Turned round by a word or by a negative gain. */
export function readsInverted({ invert, gain }: Pick<MapUse, 'invert' | 'gain'>): boolean {
  return invert !== gain < 0;
}

function isRough(channel: ChannelName): boolean {
  return channel === 'roughness' || channel === 'glossiness';
}

/** The other way round than the name says, and nobody has said so. */
function isTurned({ map, content }: MappedSlot, { invert }: MapReading): boolean {
  return readsInverted(map) !== invert && content.source.from !== 'hand';
}

function isInverse(channel: ChannelName, reading: MapReading | undefined): boolean {
  return (
    (channel === 'roughness' && reading?.channel === 'glossiness') ||
    (channel === 'glossiness' && reading?.channel === 'roughness')
  );
}

/** Channels that one image may serve although it is named after another. */
const SHARED: Partial<Record<ChannelName, readonly ChannelName[]>> = {
  specular: ['specularColor', 'glossiness', 'roughness'],
  specularColor: ['specular', 'baseColor'],
  glossiness: ['specular', 'specularColor', 'roughness'],
  roughness: ['glossiness', 'specular'],
  bump: ['height'],
  height: ['bump'],
  emission: ['baseColor'],
  subsurface: ['baseColor'],
  sheenColor: ['baseColor'],
  coat: ['specular'],
  coatRoughness: ['roughness'],
  transmission: ['opacity'],
};

/**
 * A base colour that feeds light, cloth or skin alone: its own slot is empty, and not black, as it is where all
 * is meant to shine by itself.
 */
function isMisplaced(
  { channel, material, map }: MappedSlot,
  reading: MapReading,
  all: readonly MappedSlot[],
): boolean {
  if (reading.channel !== 'baseColor' || !COLOUR_CHANNELS.has(channel) || map.component !== 'rgb')
    return false;
  const base = material.channels.baseColor;
  if (base && isDark(base.value)) return false;
  return !all.some((other) => other.material === material && other.channel === 'baseColor');
}

function fits(channel: ChannelName, { map }: MappedSlot, reading: MapReading): boolean {
  if (reading.channel === channel || SHARED[channel]?.includes(reading.channel)) return true;
  // Opacity rides in the alpha of colours, and is taken from their luminance where there is none.
  return (
    channel === 'opacity' &&
    (map.component === 'a' || map.component === 'luminance') &&
    COLOUR_CHANNELS.has(reading.channel)
  );
}
