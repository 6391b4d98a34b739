import type { Edit, SlotAssignment } from '../../asset/asset.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import { type ChannelName, COLOUR_CHANNELS, defaultSpace, type Material } from '../../scene/material.ts';
import type { ImageSet } from '../../sets/imageSet.ts';
import { paintedLike } from '../../sets/suggest.ts';
import type { Finding, FindingChoice } from '../finding.ts';
import type { Check } from '../findingContext.ts';

/** Painted for one shading model alone. */
const EXCLUSIVE: ReadonlySet<ChannelName> = new Set([
  'metalness',
  'roughness',
  'specularColor',
  'glossiness',
]);

/**
 * A material whose surface is also delivered for the other shading model: that one is offered, as a whole.
 */
export const slotOtherModel: Check = ({ state, settlement, resolvedPath }) =>
  state.materials.flatMap((material): Finding[] => {
    const otherMatch = settlement().matching.matches.find(
      (otherMatch) => otherMatch.material === material.key && otherMatch.set.other,
    );
    if (!otherMatch?.set.other) return [];
    const taken = paintedLike(material, otherMatch.set, resolvedPath);
    const other = taken === otherMatch.set ? otherMatch.set.other : otherMatch.set;
    // While the taken one is still to be assigned, that is the question.
    if (!reads(material, taken, resolvedPath)) return [];
    const title = isSpecGloss(other) ? 'spec/gloss' : 'metal/rough';
    return [
      {
        code: 'slot.otherModel',
        step: 'slots',
        severity: 'note',
        key: `slot.otherModel:${material.key}`,
        title: 'Painted for both shading models',
        subject: material.key,
        message: `${material.key} reads its images for ${isSpecGloss(taken) ? 'spec/gloss' : 'metal/rough'}; those for ${title} lie beside them.`,
        evidence: other.members.map(({ map, reading }) => `${map.path}: ${channelInWords(reading.channel)}`),
        mend: null,
        safe: false,
        mendLabel: '',
        choices: [wholeSet(material, other, title)],
        target: { material: material.key, channel: 'baseColor' },
      },
    ];
  });

function reads(
  material: Material,
  { members }: ImageSet,
  resolvedPath: (key: string) => string | null,
): boolean {
  const paths = new Set(
    Object.values(material.channels).map((channel) => channel?.map && resolvedPath(channel.map.image)),
  );
  return members.some(({ map, reading }) => EXCLUSIVE.has(reading.channel) && paths.has(map.path));
}

function isSpecGloss({ members }: ImageSet): boolean {
  return members.some(({ reading }) => reading.channel === 'specularColor');
}

/** Every image of the set into its slot; what only the other model has is emptied. */
function wholeSet(material: Material, set: ImageSet, title: string): FindingChoice {
  const assignments = set.members.map(
    ({ map, reading }): SlotAssignment => ({
      material: material.key,
      channel: reading.channel,
      image: map.path,
      component: reading.component,
      invert: reading.invert,
      space:
        COLOUR_CHANNELS.has(reading.channel) && map.space !== 'data' && map.space !== 'unknown'
          ? map.space
          : defaultSpace(reading.channel),
      normalY: reading.normalY ?? 'Y+',
    }),
  );
  const filled = new Set(assignments.map(({ channel }) => channel));
  const clears = [...EXCLUSIVE]
    .filter((channel) => material.channels[channel] && !filled.has(channel))
    .map((channel) => ({ material: material.key, channel }));
  const edit: Edit = {
    kind: 'assignSlots',
    assignments,
    ...(clears.length > 0 ? { clears } : {}),
    workflows: [
      { material: material.key, workflow: isSpecGloss(set) ? 'specGloss' : 'metalRough', exponent: null },
    ],
    origin: { from: 'hand', detail: `the images for ${title} were chosen as a whole` },
  };
  return {
    id: set.id,
    label: `Take ${title}`,
    reason: '',
    images: [...new Set(set.members.map(({ map }) => map.path))],
    edits: [edit],
  };
}
