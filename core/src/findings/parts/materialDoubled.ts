import type { Channel, Material } from '../../scene/material.ts';
import type { Check } from '../findingContext.ts';

/** Materials that are equal in all but the name. Those that say nothing are names for something to come. */
export const materialDoubled: Check = ({ state: { materials } }) => {
  const groups = new Map<string, Material[]>();
  for (const material of materials) {
    if (Object.keys(material.channels).length === 0) continue;
    const look = lookOf(material);
    groups.set(look, [...(groups.get(look) ?? []), material]);
  }
  return [...groups.values()].flatMap(([first, ...others]) =>
    others.map(({ key }) => ({
      code: 'material.doubled',
      step: 'parts' as const,
      severity: 'note' as const,
      key: `material.doubled:${key}`,
      title: 'Material comes twice',
      subject: key,
      message: `${key}: it is equal to ${first.key} in all but the name.`,
      evidence: [],
      mend: {
        kind: 'mergeMaterials' as const,
        materials: [key],
        into: first.key,
        origin: { from: 'evidence' as const, detail: `equal to ${first.key}` },
      },
      safe: false,
      mendLabel: `Merge into ${first.key}`,
      target: { material: key },
    })),
  );
};

/** All that is seen of a material, in one order. */
function lookOf({
  workflow,
  channels,
  alphaMode,
  alphaCutoff,
  doubleSided,
  colours,
  thickness = 0,
  exponent,
  extras,
}: Material): string {
  const listed = Object.entries(channels)
    .flatMap(([name, channel]) => (channel ? [[name, channel.value, mapOf(channel)]] : []))
    .sort(([a], [b]) => (String(a) < String(b) ? -1 : 1));
  const sorted = Object.entries(extras).sort(([a], [b]) => (a < b ? -1 : 1));
  return JSON.stringify([
    workflow,
    listed,
    alphaMode,
    alphaMode === 'mask' ? alphaCutoff : 0,
    doubleSided,
    colours ?? '',
    thickness,
    exponent,
    sorted,
  ]);
}

function mapOf({ map }: Channel): unknown {
  if (!map) return null;
  const { spaceFrom, ...use } = map;
  return Object.entries(use).sort(([a], [b]) => (a < b ? -1 : 1));
}
