import type { DetectedMap } from '../maps/detectMaps.ts';
import { fileName, stemOf } from '../parcel/fileSource.ts';
import { splitWords } from '../scene/channelWords.ts';
import { COLOUR_CHANNELS, defaultSpace, type Material } from '../scene/material.ts';
import type { Edit, SlotAssignment } from './asset.ts';

/** A material to be made, and the images that make it. */
export interface FormedMaterial {
  name: string;
  /** True when the asset has no material of this name yet. */
  isNew: boolean;
  assignments: SlotAssignment[];
}

/**
 * Sets form materials by their common name: each set of images becomes the material of that name, which is
 * made where there is none. Of two images for one channel the surer serves. An image that says nothing
 * becomes a base colour when it is alone in its set.
 */
export function formMaterials(
  maps: readonly DetectedMap[],
  materials: readonly Material[],
): FormedMaterial[] {
  const sets = new Map<string, DetectedMap[]>();
  for (const map of maps) {
    const set = map.set === '' ? splitWords(stemOf(fileName(map.path))).join(' ') : map.set;
    sets.set(set, [...(sets.get(set) ?? []), map]);
  }
  return [...sets].map(([set, members]) => {
    const existing = materials.find((material) => splitWords(material.name).join(' ') === set);
    const name = existing?.key ?? materialName(set);
    return { name, isNew: !existing, assignments: assignmentsOf(name, members) };
  });
}

/** All images for one material, whatever their sets are called. */
export function assignmentsOf(material: string, maps: readonly DetectedMap[]): SlotAssignment[] {
  const best = new Map<string, SlotAssignment>();
  for (const map of [...maps].sort(
    (a, b) => Number(b.packed) - Number(a.packed) || b.confidence - a.confidence,
  )) {
    const plain = map.readings.length === 0 && maps.length === 1;
    const readings = plain
      ? [{ channel: 'baseColor' as const, component: 'rgb' as const, invert: false, normalY: null }]
      : map.readings;
    for (const { channel: read, component, invert, normalY } of readings) {
      const inverse = read === 'glossiness';
      const channel = inverse ? 'roughness' : read;
      if (best.has(channel)) continue;
      const space =
        COLOUR_CHANNELS.has(channel) && map.space !== 'data' && map.space !== 'unknown'
          ? map.space
          : defaultSpace(channel);
      best.set(channel, {
        material,
        channel,
        image: map.path,
        component,
        invert: inverse ? !invert : invert,
        space,
        normalY: normalY ?? 'Y+',
      });
    }
  }
  return [...best.values()];
}

/** `crane hook` becomes `Crane hook`. */
function materialName(set: string): string {
  return set.replace(/^\p{L}/u, (letter) => letter.toUpperCase()) || 'Material';
}

/** The edits that make and fill the materials. */
export function formEdits(formed: readonly FormedMaterial[], origin: Edit['origin']): Edit[] {
  const made = formed.filter(({ isNew }) => isNew).map(({ name }) => ({ name, like: null }));
  const assignments = formed.flatMap((formedMaterial) => formedMaterial.assignments);
  return [
    ...(made.length > 0 ? [{ kind: 'addMaterials' as const, materials: made, origin }] : []),
    ...(assignments.length > 0 ? [{ kind: 'assignSlots' as const, assignments, origin }] : []),
  ];
}
