import type { SlotAssignment } from '../../asset/asset.ts';
import { SURE_ENOUGH } from '../../maps/detectMaps.ts';
import { type ChannelName, defaultSpace, type Material } from '../../scene/material.ts';
import { isSpecGloss } from '../../sets/suggest.ts';
import type { Finding } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';
import type { MappedSlot } from './mappedSlot.ts';
import { readsInverted } from './slotVerdict.ts';

/**
 * A metal/rough material whose images are painted for spec/gloss: what its file forgot to say, or has no word
 * for.
 */
export const slotWrongModel: Check = (context) => {
  const glossOf = new Map(context.slots.filter(readsGloss).map((slot) => [slot.material, slot]));
  return context.slots.flatMap((specular): Finding[] => {
    const { material, channel } = specular;
    if (channel !== 'specularColor' || material.workflow !== 'metalRough') return [];
    const gloss = glossOf.get(material);
    if (material.channels.metalness?.map || !specular.file || !gloss?.file) return [];
    if (!isPainted(specular, gloss, context)) return [];
    const evidence = [specular, gloss].flatMap(({ named }) => named?.evidence ?? []);
    const metal = material.channels.metalness?.value;
    return [
      {
        code: 'slot.wrongModel',
        step: 'slots',
        severity: 'warning',
        key: `slot.wrongModel:${material.key}`,
        title: 'Painted for spec/gloss',
        subject: material.key,
        message: `${material.key} is metal/rough, but ${specular.file.path} and ${gloss.file.path} are painted for spec/gloss.`,
        evidence: [...evidence, 'neither metalness nor roughness is among them'],
        mend: {
          kind: 'assignSlots',
          assignments: [
            assigned(material, 'specularColor', specular.file.path),
            assigned(material, 'glossiness', gloss.file.path),
          ],
          clears: (['roughness', 'metalness'] as const)
            .filter((channel) => material.channels[channel])
            .map((channel) => ({ material: material.key, channel })),
          workflows: [{ material: material.key, workflow: 'specGloss', exponent: null }],
          origin: { from: 'evidence', detail: evidence[0] ?? '' },
        },
        // Metal all over contradicts what is painted.
        safe: metal === undefined || metal === 0,
        mendLabel: 'Take as spec/gloss',
        target: { material: material.key, channel: 'specularColor' },
      },
    ];
  });
};

/** Glossiness in its own slot, or inverted in that of roughness. */
function readsGloss({ channel, map, named }: MappedSlot): boolean {
  if (named?.readings[0]?.channel !== 'glossiness' || map.component === 'a') return false;
  return channel === 'glossiness' || (channel === 'roughness' && readsInverted(map));
}

/** Both are of one set that is spec/gloss as a whole, by names that are plain. */
function isPainted(specular: MappedSlot, gloss: MappedSlot, context: FindingContext): boolean {
  const set = context.setOf(specular.file?.path);
  return (
    set !== undefined &&
    context.setOf(gloss.file?.path) === set &&
    isSpecGloss(set) &&
    [specular, gloss].every(
      ({ named, detected }) => (named?.confidence ?? 0) >= SURE_ENOUGH && !detected?.contradicted,
    )
  );
}

function assigned(material: Material, channel: ChannelName, image: string): SlotAssignment {
  const component = channel === 'glossiness' ? 'r' : 'rgb';
  return {
    material: material.key,
    channel,
    image,
    component,
    invert: false,
    space: defaultSpace(channel),
    normalY: 'Y+',
  };
}
