import { tileOfPath } from '../links/tiles.ts';
import { writtenName } from '../links/writtenPath.ts';
import { classifyNames, type MapReading } from '../maps/classifyName.ts';
import type { DetectedMap } from '../maps/detectMaps.ts';
import { splitWords } from '../scene/channelWords.ts';
import { type ChannelName, COLOUR_CHANNELS, defaultSpace, type Material } from '../scene/material.ts';
import type { AssetState, ParcelImage, SlotAssignment } from './asset.ts';

/** A slot that is empty and an image that fits it. */
export interface Suggestion extends SlotAssignment {
  reason: string;
  confidence: number;
}

export interface SuggestInputs {
  state: AssetState;
  /** Images that the model may call its own. */
  own: readonly ParcelImage[];
  /** What each of them is, by path. */
  detected: ReadonlyMap<string, DetectedMap>;
  /** Converted copies, which are never offered. */
  sidecars: readonly { path: string }[];
}

/**
 * Images for slots that are empty or whose image is missing, by names and pixels. An image fits a material when it shares
 * the name set of an image that the material already uses, or when its set is the material's own name.
 * Each slot gets at most one suggestion, each reading of an image is offered once per material.
 */
export function suggestAssignments({ state, own, detected, sidecars }: SuggestInputs): Suggestion[] {
  const copies = new Set(sidecars.map(({ path }) => path));
  const maps = own.flatMap(({ path }) => {
    const map = detected.get(path);
    return map && map.readings.length > 0 && !map.contradicted && !copies.has(path) && isFirstTile(path, detected) ? [map] : [];
  });
  const written = classifyNames(state.images.map((image) => writtenName(image.resolved ?? image.written)));
  const setOfImage = new Map(state.images.map((image, i) => [image.key, written[i].set]));
  const suggestions: Suggestion[] = [];
  for (const material of state.materials) {
    const sets = setsOf(material, setOfImage);
    const filled = new Set<ChannelName>();
    for (const found of rankMaps(maps, material, sets)) {
      for (const reading of found.readings) {
        const suggestion = fit(material, found, reading, state, filled, sets);
        if (!suggestion) continue;
        filled.add(suggestion.channel);
        suggestions.push(suggestion);
      }
    }
  }
  return suggestions;
}

/** Of a map in tiles only the first is offered; it stands for all. */
function isFirstTile(path: string, detected: ReadonlyMap<string, DetectedMap>): boolean {
  const tile = tileOfPath(path);
  if (!tile || tile.number === 1001) return true;
  return !detected.has(tile.pattern.replace('<UDIM>', tile.form === 'udim' ? '1001' : 'u1_v1'));
}

function setsOf(material: Material, setOfImage: Map<string, string>): Set<string> {
  const sets = new Set<string>();
  for (const channel of Object.values(material.channels)) {
    const set = channel?.map && setOfImage.get(channel.map.image);
    if (set) sets.add(set);
  }
  return sets;
}

function rankMaps(maps: DetectedMap[], material: Material, sets: Set<string>): DetectedMap[] {
  const own = splitWords(material.name).join(' ');
  return maps
    .filter((found) => sets.has(found.set) || (sets.size === 0 && namesMatch(found.set, own)))
    .sort((a, b) => Number(b.packed) - Number(a.packed) || Number(isInverse(a)) - Number(isInverse(b)) || b.confidence - a.confidence);
}

/** Glossiness serves roughness only where no roughness image does. */
function isInverse(found: DetectedMap): boolean {
  return found.readings[0]?.channel === 'glossiness';
}

function namesMatch(set: string, material: string): boolean {
  if (set === '' || material === '') return false;
  return set === material || ` ${set} `.includes(` ${material} `) || set.replaceAll(' ', '') === material.replaceAll(' ', '');
}

function fit(material: Material, found: DetectedMap, reading: MapReading, state: AssetState, filled: Set<ChannelName>, sets: Set<string>): Suggestion | null {
  const asRoughness = reading.channel === 'glossiness' && material.workflow !== 'specGloss';
  const channel = asRoughness ? 'roughness' : reading.channel;
  if (filled.has(channel) || !isOpen(material, channel, state)) return null;
  if (found.constant && isSettled(material, channel)) return null;
  if (usesElsewhere(material, found.path, state) && !found.packed) return null;
  const why = sets.has(found.set) ? `of the set "${found.set}" that this material uses` : `of the set "${found.set}", the material's name`;
  return {
    material: material.key,
    channel,
    image: found.path,
    component: reading.component,
    invert: asRoughness ? !reading.invert : reading.invert,
    space: COLOUR_CHANNELS.has(channel) && found.space !== 'data' && found.space !== 'unknown' ? found.space : defaultSpace(channel),
    normalY: reading.normalY ?? 'Y+',
    reason: `${found.evidence.join('; ')}; ${why}${asRoughness ? '; inverted it gives roughness' : ''}`,
    confidence: found.confidence,
  };
}

/** A slot is open when nothing feeds it, or when the image it names is missing. */
function isOpen(material: Material, channel: ChannelName, state: AssetState): boolean {
  const map = material.channels[channel]?.map;
  if (!map) return true;
  return !state.images.find((image) => image.key === map.image)?.resolved;
}

/** A map of one value adds nothing where somebody set the value, nor where its value would be neutral. */
function isSettled(material: Material, channel: ChannelName): boolean {
  const own = material.channels[channel];
  return channel === 'normal' || channel === 'occlusion' || (own !== undefined && own.source.from !== 'file');
}

/** An image that already feeds this material by another slot is spoken for. */
function usesElsewhere(material: Material, path: string, state: AssetState): boolean {
  return Object.values(material.channels).some((channel) => {
    const key = channel?.map?.image;
    return key !== undefined && state.images.find((image) => image.key === key)?.resolved === path;
  });
}
