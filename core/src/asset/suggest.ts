import { writtenName } from '../links/writtenPath.ts';
import { classifyNames, type MapReading, type NameClass } from '../maps/classifyName.ts';
import { splitWords } from '../scene/channelWords.ts';
import { type ChannelName, defaultSpace, type Material } from '../scene/material.ts';
import type { AssetState, ParcelImage, SlotAssignment } from './asset.ts';

/** A slot that is empty and an image that fits it. */
export interface Suggestion extends SlotAssignment {
  reason: string;
  confidence: number;
}

/**
 * Images for slots that are empty or whose image is missing, by their names. An image fits a material when it shares
 * the name set of an image that the material already uses, or when its set is the material's own name.
 * Each slot gets at most one suggestion, each reading of an image is offered once per material.
 */
export function suggestAssignments(state: AssetState, images: readonly ParcelImage[]): Suggestion[] {
  const usable = images.filter((image) => image.info);
  const classes = classifyNames(usable.map((image) => image.path)).filter((found) => found.readings.length > 0);
  const written = classifyNames(state.images.map((image) => writtenName(image.resolved ?? image.written)));
  const setOfImage = new Map(state.images.map((image, i) => [image.key, written[i].set]));
  const suggestions: Suggestion[] = [];
  for (const material of state.materials) {
    const sets = setsOf(material, setOfImage);
    const filled = new Set<ChannelName>();
    for (const found of rankClasses(classes, material, sets)) {
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

function setsOf(material: Material, setOfImage: Map<string, string>): Set<string> {
  const sets = new Set<string>();
  for (const channel of Object.values(material.channels)) {
    const set = channel?.map && setOfImage.get(channel.map.image);
    if (set) sets.add(set);
  }
  return sets;
}

function rankClasses(classes: NameClass[], material: Material, sets: Set<string>): NameClass[] {
  const own = splitWords(material.name).join(' ');
  return classes
    .filter((found) => sets.has(found.set) || (sets.size === 0 && namesMatch(found.set, own)))
    .sort((a, b) => Number(b.packed) - Number(a.packed) || Number(isInverse(a)) - Number(isInverse(b)) || b.confidence - a.confidence);
}

/** Glossiness serves roughness only where no roughness image does. */
function isInverse(found: NameClass): boolean {
  return found.readings[0]?.channel === 'glossiness';
}

function namesMatch(set: string, material: string): boolean {
  if (set === '' || material === '') return false;
  return set === material || ` ${set} `.includes(` ${material} `) || set.replaceAll(' ', '') === material.replaceAll(' ', '');
}

function fit(material: Material, found: NameClass, reading: MapReading, state: AssetState, filled: Set<ChannelName>, sets: Set<string>): Suggestion | null {
  const asRoughness = reading.channel === 'glossiness' && material.workflow !== 'specGloss';
  const channel = asRoughness ? 'roughness' : reading.channel;
  if (filled.has(channel) || !isOpen(material, channel, state)) return null;
  if (usesElsewhere(material, found.path, state) && !found.packed) return null;
  const why = sets.has(found.set) ? `of the set "${found.set}" that this material uses` : `of the set "${found.set}", the material's name`;
  return {
    material: material.key,
    channel,
    image: found.path,
    component: reading.component,
    invert: asRoughness ? !reading.invert : reading.invert,
    space: defaultSpace(channel),
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

/** An image that already feeds this material by another slot is spoken for. */
function usesElsewhere(material: Material, path: string, state: AssetState): boolean {
  return Object.values(material.channels).some((channel) => {
    const key = channel?.map?.image;
    return key !== undefined && state.images.find((image) => image.key === key)?.resolved === path;
  });
}
