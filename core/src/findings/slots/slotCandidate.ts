import type { Edit, SlotAssignment } from '../../asset/asset.ts';
import { channelInWords, channelTitle } from '../../scene/channelTitles.ts';
import type { Suggestion } from '../../sets/suggest.ts';
import type { Finding, FindingChoice } from '../finding.ts';
import type { Check, FindingContext } from '../findingContext.ts';
import { assignmentOf, SURE_IMAGE } from './settlement.ts';
import { slotPackedWhole } from './slotPackedWhole.ts';

/**
 * Empty slots for which an image of the material's own set lies in the parcel: one finding a material for all
 * that is plain, and one for each image that is doubtful.
 */
export const slotCandidate: Check = (context) => {
  // A packed image that is read whole is the subject of slot.packedWhole, with all its channels.
  const split = new Set(
    slotPackedWhole(context).flatMap(({ mend }) =>
      mend?.kind === 'assignSlots' ? mend.assignments.map(idOf) : [],
    ),
  );
  const groups = new Map<string, Suggestion[]>();
  for (const suggestion of context.settlement().fills) {
    if (split.has(idOf(suggestion))) continue;
    const sure = suggestion.confidence >= SURE_IMAGE;
    const key = `slot.candidate:${suggestion.material}${sure ? '' : `:${suggestion.image}`}`;
    groups.set(key, [...(groups.get(key) ?? []), suggestion]);
  }
  return [...groups].map(([key, suggestions]) => candidateFinding(key, suggestions, context));
};

function candidateFinding(key: string, suggestions: readonly Suggestion[], context: FindingContext): Finding {
  const [{ material, channel, image }] = suggestions;
  const safe = suggestions.every(({ confidence }) => confidence >= SURE_IMAGE);
  const evidence = [
    suggestions[0].setReason,
    ...suggestions.map(
      (suggestion) => `${suggestion.image}: ${channelInWords(suggestion.channel)}, ${suggestion.reason}`,
    ),
  ].filter(Boolean);
  return {
    code: 'slot.candidate',
    step: 'slots',
    // What is doubtful is asked about; the rest waits to be mended.
    severity: 'warning',
    key,
    title: safe ? 'Fitting images, empty slots' : 'Does this image fit?',
    subject: material,
    message: sentence(suggestions, material),
    evidence,
    mend: fillEdit(suggestions, context),
    safe,
    mendLabel: 'Assign',
    ...(safe ? {} : { choices: [assignChoice(suggestions, material)] }),
    target: { material, channel, image },
  };
}

function assignChoice(suggestions: readonly Suggestion[], material: string): FindingChoice {
  const [{ image, reason }] = suggestions;
  const origin = { from: 'hand' as const, detail: `chosen for ${material}` };
  return {
    id: image,
    label: suggestions.map(({ channel }) => channelTitle(channel)).join(', '),
    reason,
    images: [image],
    edits: [{ kind: 'assignSlots', assignments: suggestions.map(assignmentOf), origin }],
  };
}

function fillEdit(suggestions: readonly Suggestion[], context: FindingContext): Edit {
  const material = suggestions[0].material;
  const workflows = context.settlement().workflows.filter((change) => change.material === material);
  const painted = suggestions.some(({ channel }) => channel === 'glossiness' || channel === 'specularColor');
  return {
    kind: 'assignSlots',
    assignments: suggestions.map(assignmentOf),
    ...(workflows.length > 0 && painted ? { workflows } : {}),
    origin: { from: 'evidence', detail: suggestions[0].setReason.slice(0, MOST_DETAIL) },
  };
}

/** Longer reasons are cut in the log; the finding's evidence has them whole. */
const MOST_DETAIL = 1000;

function idOf({ material, channel, image }: SlotAssignment): string {
  return [material, channel, image].join('\n');
}

function sentence(suggestions: readonly Suggestion[], material: string): string {
  const channels = suggestions.map(({ channel }) => channelInWords(channel));
  const list =
    channels.length === 1 ? channels[0] : `${channels.slice(0, -1).join(', ')} and ${channels.at(-1)}`;
  const images = [...new Set(suggestions.map(({ image }) => image))];
  const subject = images.length === 1 ? images[0] : `${images.length} images, such as ${images[0]},`;
  return `${subject} could feed ${list} of ${material}.`;
}
