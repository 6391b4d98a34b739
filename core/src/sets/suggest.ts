import type { AssetSource, AssetState, SlotAssignment, WorkflowChange } from '../asset/asset.ts';
import { WEAK_CONFIDENCE } from '../maps/nameClass.ts';
import type { PixelFacts } from '../maps/pixelFacts.ts';
import { servedReading } from '../maps/servedReading.ts';
import {
  type ChannelName,
  COLOUR_CHANNELS,
  defaultSpace,
  type Material,
  type Workflow,
} from '../scene/material.ts';
import { alphaWithin } from './alphaWithin.ts';
import type { ImageSet, SetMember } from './imageSet.ts';
import { createReadPaths } from './readPath.ts';
import type { SetEvidence } from './setEvidence.ts';

/** A slot that is empty or whose image is missing, and an image that fits it. */
export interface Suggestion extends SlotAssignment {
  /** What the image is, and how that is known. */
  reason: string;
  /** Why its set is the material's. */
  setReason: string;
  confidence: number;
  /** Key of the missing image that the slot reads now; null for an empty slot. */
  missing: string | null;
}

/** What a set gives to a material. */
export interface SetOffer {
  suggestions: Suggestion[];
  /** The shading model that the set is painted for, where it is not the material's own. */
  workflow: WorkflowChange | null;
}

/** What offers are made from. */
export interface OfferInputs {
  source: AssetSource;
  state: AssetState;
  /** The file that an image of the state is, or plainly will be; null while it is missing. */
  resolvedPath(key: string): string | null;
  /** What the pixels of a file say; null where they were not looked at. */
  factsOf(path: string): PixelFacts | null;
}

/** How sure slots of a set are that is the material's beyond doubt. */
const OF_OWN_SET = 0.97;

/**
 * The images of a set for the open slots of a material. A glossiness image serves roughness, inverted, unless
 * the set is painted for specular and gloss. Images that the material reads already are not offered again,
 * packed ones aside, and colours of which the alpha alone is read.
 */
export function offerSet(
  material: Material,
  evidence: SetEvidence & { only?: boolean },
  { state, source, resolvedPath, factsOf }: OfferInputs,
): SetOffer {
  const { reasons } = evidence;
  const set = paintedLike(material, evidence.set, resolvedPath);
  const specGloss = isSpecGloss(set) && !paintedMetalRough(material, resolvedPath);
  const reads = [...createReadPaths(source, resolvedPath)(material)].map(([channel, path]) => ({
    path,
    alpha: material.channels[channel]?.map?.component === 'a',
  }));
  const suggestions: Suggestion[] = [];
  const filled = new Set<ChannelName>();
  for (const member of orderedMembers(set)) {
    const { map, reading } = member;
    const served = servedReading(reading, specGloss ? 'specGloss' : material.workflow);
    const { channel } = served;
    const inverse = channel !== reading.channel;
    const missing = missingImage(material, channel, resolvedPath, state);
    if (filled.has(channel) || missing === 'read') continue;
    if (map.constant && isResolved(material, channel)) continue;
    // Who reads the alpha of an image alone has not read its colours.
    const alpha = served.component === 'a';
    if (!map.packed && reads.some((read) => read.path === map.path && (alpha || !read.alpha))) continue;
    // A clear background is no cut-out, whatever the name says.
    const facts = channel === 'opacity' && served.component === 'a' ? factsOf(map.path) : null;
    if (facts && alphaWithin(source.uvLayouts?.[material.key], facts) === 0) continue;
    filled.add(channel);
    suggestions.push({
      material: material.key,
      channel,
      image: map.path,
      component: served.component,
      invert: served.invert,
      space:
        COLOUR_CHANNELS.has(channel) && map.space !== 'data' && map.space !== 'unknown'
          ? map.space
          : defaultSpace(channel),
      normalY: reading.normalY ?? 'Y+',
      reason: [...map.evidence, ...(inverse ? ['inverted it gives roughness'] : [])].join('; '),
      setReason: reasons.join('; '),
      confidence: Math.min(
        OF_OWN_SET,
        isNamesake(evidence) ? Math.max(member.confidence, NAMESAKE) : member.confidence,
      ),
      missing,
    });
  }
  const changes =
    specGloss &&
    material.workflow !== 'specGloss' &&
    suggestions.some(({ channel }) => channel === 'glossiness' || channel === 'specularColor');
  // Diffuse and specular alone are a classic material, whatever the file's default says.
  const classic =
    !specGloss &&
    material.workflow === 'metalRough' &&
    isClassic(set) &&
    !paintedMetalRough(material, resolvedPath);
  const takesSpecular = suggestions.some(({ channel }) => channel === 'specularColor');
  const workflow: Workflow | null = workflowOf(changes, classic, takesSpecular);
  if (!workflow) return { suggestions, workflow };
  // What is dressed already says by its images what it is; another shading model is asked about.
  const doubt = reads.length > 0 && material.workflow === 'metalRough' ? WEAK_CONFIDENCE : 1;
  return {
    suggestions: suggestions.map((suggestion) =>
      OF_SPECULAR.has(suggestion.channel)
        ? { ...suggestion, confidence: Math.min(suggestion.confidence, doubt) }
        : suggestion,
    ),
    workflow: { material: material.key, workflow, exponent: null },
  };
}

/** Channels that only classic and specular/glossiness materials have. */
const OF_SPECULAR: ReadonlySet<ChannelName> = new Set(['specularColor', 'glossiness']);

function workflowOf(changes: boolean, classic: boolean, takesSpecular: boolean): Workflow | null {
  if (changes) return 'specGloss';
  return classic && takesSpecular ? 'legacy' : null;
}

/**
 * Of two shading models side by side the one whose images the material reads already: the two are never
 * mixed.
 */
export function paintedLike(
  material: Material,
  set: ImageSet,
  resolvedPath: (key: string) => string | null,
): ImageSet {
  const { other } = set;
  if (!other) return set;
  const holds = ({ members }: ImageSet, path: string) => members.some(({ map }) => map.path === path);
  const reads = Object.values(material.channels).flatMap(
    (channel) => (channel?.map && resolvedPath(channel.map.image)) ?? [],
  );
  const [ownWords, others] = [
    reads.filter((path) => holds(set, path) && !holds(other, path)),
    reads.filter((path) => holds(other, path) && !holds(set, path)),
  ];
  return others.length > ownWords.length ? other : set;
}

const CLEAR_NAME = 0.85;
/** An image that is called like the material and nothing else is its colour. */
const NAMESAKE = 0.85;
/** Pixels that are a colour picture's, without a word in the name. */
const PAINTED = 0.7;
/** And its islands lie where the faces are, and hardly anywhere else. */
const EXACT_LAYOUT = 0.85;

/** Whether a lone image can hardly be anything but the material's colour. */
function isNamesake({ set, name, layout, only }: SetEvidence & { only?: boolean }): boolean {
  const [member] = set.members;
  const colour = set.members.length === 1 && member.reading.channel === 'baseColor';
  if (member.map.contradicted || !(set.guess || colour)) return false;
  const painted = !set.guess && member.confidence >= PAINTED && (layout ?? 0) >= EXACT_LAYOUT;
  return name >= CLEAR_NAME || only === true || painted;
}

/** Roughness before the glossiness that would stand for it. */
function orderedMembers({ members }: ImageSet): SetMember[] {
  return [...members].sort(
    (a, b) => Number(a.reading.channel === 'glossiness') - Number(b.reading.channel === 'glossiness'),
  );
}

/** Painted as specular colour and gloss, with neither metalness nor roughness. */
export function isSpecGloss({ members }: ImageSet): boolean {
  const channels = new Set(members.map(({ reading }) => reading.channel));
  return (
    channels.has('specularColor') &&
    channels.has('glossiness') &&
    !channels.has('metalness') &&
    !channels.has('roughness')
  );
}

/** Painted as diffuse and specular colour, and nothing that speaks of another model. */
function isClassic({ members }: ImageSet): boolean {
  const channels = new Set(members.map(({ reading }) => reading.channel));
  return (
    channels.has('specularColor') &&
    !['glossiness', 'metalness', 'roughness'].some((channel) => channels.has(channel as ChannelName))
  );
}

function paintedMetalRough({ channels }: Material, resolvedPath: (key: string) => string | null): boolean {
  return [channels.metalness, channels.roughness].some(
    (channel) => channel?.map && resolvedPath(channel.map.image) !== null,
  );
}

/**
 * The key of the missing image that the slot reads, null where it reads none, `read` where its image is
 * there.
 */
function missingImage(
  material: Material,
  channel: ChannelName,
  resolvedPath: (key: string) => string | null,
  state: AssetState,
): string | null | 'read' {
  const map = material.channels[channel]?.map;
  if (!map) return null;
  if (resolvedPath(map.image) !== null) return 'read';
  return state.images.some(({ key }) => key === map.image) ? map.image : null;
}

/** A map of one value adds nothing where somebody set the value, nor where its value would be neutral. */
function isResolved(material: Material, channel: ChannelName): boolean {
  const ownChannel = material.channels[channel];
  return (
    channel === 'normal' ||
    channel === 'occlusion' ||
    (ownChannel !== undefined && ownChannel.source.from !== 'file')
  );
}
