import { spaceOfChromaticities } from '../colour/primaries.ts';
import type { ImageInfo } from '../images/probe.ts';
import { channelInWords } from '../scene/channelTitles.ts';
import { type ChannelName, COLOUR_CHANNELS, type ColourSpace, type Component } from '../scene/material.ts';
import { classifyNames, type MapReading, type NameClass, type NameOptions } from './classifyName.ts';
import { tagOf } from './encodingState.ts';
import { alphaVaries, fitReadings } from './fitReadings.ts';
import { judgeEncoding } from './judgeEncoding.ts';
import { contradiction, judgePixels, type PixelKind } from './judgePixels.ts';
import { WEAK_CONFIDENCE } from './nameClass.ts';
import { nameSpace } from './nameSpace.ts';
import { plainReading } from './nameSpans.ts';
import type { PixelFacts } from './pixelFacts.ts';

/** An image, and what is known of it. */
export interface ImageToDetect {
  path: string;
  info: ImageInfo | null;
  /** Null where the pixels were not looked at; then the name alone decides. */
  facts: PixelFacts | null;
  /** Slots that already read the image, strongest evidence after a packed order in the name. */
  slots?: readonly { channel: ChannelName; component: Component }[];
}

/** What an image is, by name, siblings, slots and pixels together. */
export interface DetectedMap {
  path: string;
  set: string;
  readings: MapReading[];
  packed: boolean;
  space: ColourSpace;
  confidence: number;
  evidence: string[];
  /** Name and pixels say different things. */
  contradicted: boolean;
  /** Every pixel is the same, alpha included. */
  constant: boolean;
  /** The words of the name that told the channel; '' where none did. */
  telling: string;
  /** Marks of resolution, version and copy in the name. */
  marks: readonly string[];
  /** A baked helper map that no material reads. */
  helper: boolean;
}

/** From this confidence on a result is acted on without asking. */
export const SURE_ENOUGH = 0.8;
const CONTRADICTED = 0.4;

/** Detects each image in the light of the others. Order of the result is that of the images. */
export function detectMaps(images: readonly ImageToDetect[], options: NameOptions = {}): DetectedMap[] {
  return classifyNames(
    images.map(({ path }) => path),
    options,
  ).map((named, i) => detectMap(images[i], named));
}

/** Detects one image whose name was read beside the others'. */
export function detectMap({ path, info, facts, slots = [] }: ImageToDetect, named: NameClass): DetectedMap {
  let { readings, packed, confidence } = named;
  const evidence = [...named.evidence];
  let contradicted = false;
  const fed = new Map(slots.map((slot) => [slot.component, slot.channel]));
  if (readings.length === 0 && fed.size > 1) {
    packed = true;
    readings = [...fed].map(([component, channel]) => plainReading(channel, component));
    confidence = 0.85;
    evidence.push('several slots already read its components');
  } else if (readings.length === 0 && slots.length > 0) {
    readings = [plainReading(slots[0].channel, slots[0].component)];
    confidence = 0.7;
    evidence.push(`a slot reads it as ${channelInWords(slots[0].channel)}`);
  }
  if (facts && readings.length === 0 && !named.helper) {
    const judged = judgePixels(facts);
    const guess = guessByPixels(judged.kind);
    if (guess) {
      readings = [plainReading(guess)];
      confidence = Math.min(0.75, judged.confidence);
    }
    evidence.push(judged.evidence);
  } else if (facts && readings.length > 0) {
    const judged = judgePixels(facts);
    const meant = meantByLetter(readings[0], named.alternatives ?? [], judged.kind);
    if (meant) {
      readings = [meant];
      confidence = Math.max(confidence, SURE_ENOUGH);
      evidence.push(`of what the name may mean the pixels are ${channelInWords(meant.channel)}`);
    }
    const fitted = fitReadings(readings, facts);
    evidence.push(...fitted.evidence);
    readings = fitted.readings;
    packed = packed && readings.length > 1;
    const against =
      packed || readings.length === 0
        ? null
        : contradiction(readings[0].channel, facts, readings[0].component !== 'a');
    const vague = against
      ? null
      : vagueMask(named.telling, readings[0], { kind: judged.kind, grey: facts.grey });
    if (vague) {
      confidence = Math.min(confidence, WEAK_CONFIDENCE);
      evidence.push(vague);
    } else if (against) {
      contradicted = true;
      confidence = Math.min(confidence, CONTRADICTED);
      evidence.push(against);
    } else {
      const fits = packed
        ? packedFits(readings, facts)
        : readings.length > 0 && agrees(readings[0].channel, judged.kind);
      if (fits) confidence = Math.min(0.99, confidence + (confidence < SURE_ENOUGH ? 0.2 : 0.03));
      evidence.push(judged.evidence);
    }
  }
  readings = readings.map((reading) =>
    reading.channel === 'normal' ? withDirection(reading, facts, evidence) : reading,
  );
  const space = spaceOf(named, readings, { info, facts }, evidence);
  return {
    path,
    set: named.set,
    readings,
    packed,
    space,
    confidence: Math.round(confidence * 100) / 100,
    evidence,
    contradicted,
    constant: facts !== null && judgePixels(facts).kind === 'constant' && !alphaVaries(facts),
    telling: named.telling,
    marks: named.marks,
    helper: named.helper,
  };
}

function guessByPixels(kind: ReturnType<typeof judgePixels>['kind']): ChannelName | null {
  if (kind === 'normal') return 'normal';
  if (kind === 'colour') return 'baseColor';
  if (kind === 'emission') return 'emission';
  return null;
}

/**
 * Of the meanings of a letter the one that pixels show beyond doubt: two values are a cut-out and no occlusion,
 * colours are a colour and no scalar. Null where they leave it open.
 */
function meantByLetter(
  first: MapReading,
  others: readonly MapReading[],
  kind: ReturnType<typeof judgePixels>['kind'],
): MapReading | null {
  const shown = [first, ...others].filter(({ channel }) => {
    if (kind === 'normal') return channel === 'normal';
    if (kind === 'mask') return channel === 'opacity' || channel === 'metalness';
    return kind === 'colour' && COLOUR_CHANNELS.has(channel);
  });
  return others.length > 0 && shown.length === 1 ? shown[0] : null;
}

/** Words that do not tell what is masked. */
const MASK_WORD = /^(mask|msk)$/;

/** Why what is called a mask may mask something else than the surface; null where it is a cut-out. */
function vagueMask(
  telling: string,
  reading: MapReading | undefined,
  { kind, grey }: { kind: PixelKind; grey: number },
): string | null {
  if (!MASK_WORD.test(telling) || reading?.channel !== 'opacity') return null;
  if (reading.component === 'a') return grey < 0.9 ? 'its components mask several things' : null;
  return kind === 'mask' ? null : 'greys may mask anything';
}

/** Pixels that could hardly be anything else. */
function agrees(channel: ChannelName, kind: ReturnType<typeof judgePixels>['kind']): boolean {
  if (channel === 'normal') return kind === 'normal';
  if (channel === 'emission') return kind === 'emission';
  // Neither grey, nor vectors, nor spots of light: a colour without much of a hue.
  if (COLOUR_CHANNELS.has(channel)) return kind === 'colour' || kind === 'unclear';
  return kind === 'grey' || (kind === 'mask' && (channel === 'opacity' || channel === 'metalness'));
}

/** Components of a packed image differ from each other; those of a plain grey one do not. */
function packedFits(readings: readonly MapReading[], facts: PixelFacts): boolean {
  return readings.some(({ component }) => component === 'a') || facts.grey < 0.9;
}

function withDirection(reading: MapReading, facts: PixelFacts | null, evidence: string[]): MapReading {
  const seen = facts?.direction;
  if (!seen?.direction) return reading;
  evidence.push(`slopes fit ${seen.direction} (${seen.confidence.toFixed(2)})`);
  if (reading.normalY && reading.normalY !== seen.direction)
    evidence.push(`the name says ${reading.normalY}`);
  // What the name states stands, and is asked about where the slopes belie it.
  if (reading.normalY || seen.confidence < SURE_ENOUGH) return reading;
  return { ...reading, normalY: seen.direction };
}

/**
 * Colour or data by channel; words in the name, stated primaries and the numbers of floats settle the rest.
 */
function spaceOf(
  { path, marks }: NameClass,
  readings: readonly MapReading[],
  { info, facts }: { info: ImageInfo | null; facts: PixelFacts | null },
  evidence: string[],
): ColourSpace {
  const colour = readings.some(({ channel, component }) => COLOUR_CHANNELS.has(channel) && component !== 'a');
  if (readings.length === 0) return 'unknown';
  if (!colour) return 'data';
  const name = nameSpace(path);
  if (!info?.floating) return integerSpace(name, marks.includes('srgb'), evidence);
  const header = spaceOfChromaticities(info.chromaticities);
  if (!facts)
    return told(
      tagOf('linear', header ?? name?.linear ?? 'lin_rec709_scene').space,
      'float colour is linear unless evidence says otherwise',
      evidence,
    );
  const judged = judgeEncoding(facts, { name, header });
  evidence.push(...judged.evidence);
  const state = judged.state === 'encoded' && judged.confidence >= SURE_ENOUGH ? 'encoded' : 'linear';
  return tagOf(state, judged.linear ?? 'lin_rec709_scene').space;
}

/** Integers are encoded unless their name says otherwise, primaries and all. */
function integerSpace(name: ReturnType<typeof nameSpace>, marked: boolean, evidence: string[]): ColourSpace {
  if (name?.linear && !marked)
    return told(tagOf(name.state ?? 'encoded', name.linear).space, `the name says "${name.words}"`, evidence);
  return marked ? told('srgb_rec709_scene', 'the name says sRGB', evidence) : 'srgb_rec709_scene';
}

function told(space: ColourSpace, why: string, evidence: string[]): ColourSpace {
  evidence.push(why);
  return space;
}
