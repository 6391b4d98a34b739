import {
  type AssetState,
  type Edit,
  findMaterial,
  type SlotAddress,
  type SlotAssignment,
  type WorkflowChange,
} from '../../asset/asset.ts';
import { channelInWords } from '../../scene/channelTitles.ts';
import type { ChannelName, MapUse, Material } from '../../scene/material.ts';
import type { SetMatching, SetQuestion } from '../../sets/matchSets.ts';
import type { SetEvidence } from '../../sets/setEvidence.ts';
import { type OfferInputs, offerSet, type Suggestion } from '../../sets/suggest.ts';
import type { FindingChoice } from '../finding.ts';
import { readsInverted } from './slotVerdict.ts';

/** A file that the match of sets gives to a missing image. */
export interface LinkProposal {
  path: string;
  reason: string;
  sure: boolean;
}

/** What follows from the match of sets and materials. */
export interface Settlement {
  matching: SetMatching;
  /** Images for slots that are empty, of sets beyond doubt. */
  fills: Suggestion[];
  /** Materials whose images are painted for another shading model. */
  workflows: WorkflowChange[];
  /** Files for missing images, by the image's key. */
  links: ReadonlyMap<string, LinkProposal>;
  /**
   * Missing images whose slots want to be read in another way than written: the assignments instead, by the
   * image's key.
   */
  rewired: ReadonlyMap<string, Suggestion[]>;
}

/** From this on an image of a set that is beyond doubt is taken without asking. */
export const SURE_IMAGE = 0.8;

/**
 * Tells which images the file gives to other materials alone, none of which shares any image with this one: it
 * knows what each wears, whatever they are called.
 */
function imagesOfOthers({ source, resolvedPath }: OfferInputs): (path: string, material: string) => boolean {
  const readers = new Map<string, Set<string>>();
  const readBy = new Map<string, string[]>();
  for (const { key, channels } of source.materials) {
    const paths = Object.values(channels).flatMap((channel) => {
      const path = channel?.map && resolvedPath(channel.map.image);
      return path ? [path] : [];
    });
    readBy.set(key, paths);
    for (const path of paths) readers.set(path, (readers.get(path) ?? new Set()).add(key));
  }
  return (path, material) => {
    const others = readers.get(path);
    if (!others || others.has(material)) return false;
    return !(readBy.get(material) ?? []).some((own) =>
      [...(readers.get(own) ?? [])].some((key) => others.has(key)),
    );
  };
}

/** Turns matches of image sets into offers for slots; each slot takes the best one. */
export function resolveSets(matching: SetMatching, inputs: OfferInputs): Settlement {
  const { state } = inputs;
  const fills: Suggestion[] = [];
  const workflows: WorkflowChange[] = [];
  const forMissing = new Map<string, Suggestion[]>();
  const filled = new Set<string>();
  const isOthers = imagesOfOthers(inputs);
  for (const match of matching.matches) {
    const material = findMaterial(state, match.material);
    if (!material) continue;
    const offer = offerSet(material, match, inputs);
    if (offer.workflow) workflows.push(offer.workflow);
    for (const suggestion of offer.suggestions) {
      if (suggestion.missing === null && isOthers(suggestion.image, material.key)) continue;
      const slot = `${suggestion.material}\n${suggestion.channel}`;
      if (filled.has(slot)) continue;
      filled.add(slot);
      if (suggestion.missing === null) fills.push(suggestion);
      else forMissing.set(suggestion.missing, [...(forMissing.get(suggestion.missing) ?? []), suggestion]);
    }
  }
  const links = new Map<string, LinkProposal>();
  const rewired = new Map<string, Suggestion[]>();
  for (const [key, suggestions] of forMissing) {
    const link = asLink(suggestions, state);
    if (link) links.set(key, link);
    else rewired.set(key, withFollowers(key, suggestions, state));
  }
  return { matching, fills, workflows, links, rewired };
}

/**
 * One file that every slot of a missing image can read just as it is written; null where they need other
 * wiring.
 */
function asLink(suggestions: readonly Suggestion[], state: AssetState): LinkProposal | null {
  const [first] = suggestions;
  if (suggestions.some(({ image }) => image !== first.image)) return null;
  const fits = suggestions.every((suggestion) => {
    const map = findMaterial(state, suggestion.material)?.channels[suggestion.channel]?.map;
    return map !== undefined && map !== null && readsSame(map, suggestion);
  });
  if (!fits) return null;
  const channels = [...new Set(suggestions.map(({ channel }) => channelInWords(channel)))].join(', ');
  return {
    path: first.image,
    reason: `${channels} of the material's set, since ${first.setReason}`,
    sure: suggestions.every(({ confidence }) => confidence >= SURE_IMAGE),
  };
}

/**
 * Slots that read a missing image beside those that a set names, such as the opacity in a colour's alpha: they
 * read the same file as the slot that reads it as it was written.
 */
function withFollowers(missing: string, suggestions: readonly Suggestion[], state: AssetState): Suggestion[] {
  const followers = suggestions.flatMap((lead) => {
    const channels = findMaterial(state, lead.material)?.channels ?? {};
    const written = channels[lead.channel]?.map;
    if (!written || !readsSame(written, lead)) return [];
    return Object.entries(channels).flatMap(([name, { map }]): Suggestion[] => {
      const channel = name as ChannelName;
      const known = suggestions.some((one) => one.material === lead.material && one.channel === channel);
      if (map?.image !== missing || known) return [];
      const { component, space, normalY } = map;
      return [{ ...lead, channel, component, space, normalY, invert: readsInverted(map) }];
    });
  });
  // Of several that would bring a slot along the first does.
  const slots = followers.map(({ material, channel }) => `${material}\n${channel}`);
  return [...suggestions, ...followers.filter((_, i) => slots.indexOf(slots[i]) === i)];
}

/** Whether what is written reads the same numbers from the image as the assignment would. */
function readsSame(map: MapUse, { component, invert, channel }: SlotAssignment): boolean {
  if (readsInverted(map) !== invert) return false;
  if (map.component === component) return true;
  const first = new Set(['rgb', 'r', 'luminance']);
  return (
    first.has(map.component) && first.has(component) && channel !== 'baseColor' && channel !== 'emission'
  );
}

/** The edits by which a set becomes a material's, and the files that it brings. */
export function editsOfSet(material: Material, evidence: SetEvidence, inputs: OfferInputs): FindingChoice {
  const { state } = inputs;
  const { suggestions, workflow } = offerSet(material, evidence, inputs);
  const origin = {
    from: 'hand' as const,
    detail: `the set "${evidence.set.label}" was chosen for ${material.key}`,
  };
  const edits: Edit[] = [];
  const byImage = new Map<string, Suggestion[]>();
  for (const suggestion of suggestions) {
    if (suggestion.missing !== null)
      byImage.set(suggestion.missing, [...(byImage.get(suggestion.missing) ?? []), suggestion]);
  }
  const assignments: SlotAssignment[] = suggestions
    .filter(({ missing }) => missing === null)
    .map(assignmentOf);
  const links: { image: string; path: string; reason: string }[] = [];
  for (const [key, ownSuggestions] of byImage) {
    const link = asLink(ownSuggestions, state);
    if (link) links.push({ image: key, path: link.path, reason: `of the set "${evidence.set.label}"` });
    else assignments.push(...withFollowers(key, ownSuggestions, state).map(assignmentOf));
  }
  if (links.length > 0) edits.push({ kind: 'linkImages', links, origin });
  if (assignments.length > 0)
    edits.push({ kind: 'assignSlots', assignments, ...(workflow ? { workflows: [workflow] } : {}), origin });
  return {
    id: evidence.set.id,
    label: evidence.set.label,
    reason: evidence.reasons.join('; '),
    images: [...new Set(suggestions.map(({ image }) => image))],
    edits,
  };
}

/** The assignment of a suggestion, without why. */
export function assignmentOf({
  reason: _reason,
  setReason: _set,
  confidence: _confidence,
  missing: _missing,
  ...assignment
}: Suggestion): SlotAssignment {
  return assignment;
}

/** True where every slot that reads an image belongs to a material whose set is asked about. */
export function isAskedAbout(slots: readonly SlotAddress[], questions: readonly SetQuestion[]): boolean {
  return (
    slots.length > 0 &&
    slots.every((slot) => questions.some(({ material, partial }) => !partial && material === slot.material))
  );
}
