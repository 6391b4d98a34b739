import type { Primaries } from '../colour/primaries.ts';
import { SPACES } from '../colour/spaces.ts';
import { decodeSrgb, encodeSrgb } from '../scene/transfer.ts';
import { type EncodingState, STATE_WORDS } from './encodingState.ts';
import { percent } from './judgePixels.ts';
import type { NamedSpace } from './nameSpace.ts';
import type { PixelFacts } from './pixelFacts.ts';

/** What the numbers of a float colour map are, as far as anything tells. */
export interface EncodingJudgement {
  state: EncodingState;
  /** In 0..1; from {@link SURE} on it may be acted on, below {@link TOLD} nobody can tell. */
  confidence: number;
  /** The linear space with the map's primaries; null where nothing tells of them. */
  linear: Primaries['linear'] | null;
  /** What told of the primaries. */
  by: 'header' | 'name' | 'codes' | null;
  evidence: string[];
}

/** What stands beside the pixels. */
export interface EncodingHints {
  /** Facts of an 8-bit image of the same map. */
  sibling?: PixelFacts | null;
  /** What the file name says. */
  name?: NamedSpace | null;
  /** The linear space that the file's header states. */
  header?: Primaries['linear'] | null;
}

/** Confidence from which a doubt is mended with what is safe. */
export const SURE = 0.9;
/** Confidence from which a doubt is reported. */
export const TOLD = 0.6;
/** Chance is a tenth to a quarter: so many whole 8-bit codes are no chance. */
const CODES = 0.55;
const RIVAL = 0.4;
/** Other primaries must be so much worse. */
const APART = 0.15;
/** Plausible albedo in light: 30 to 240 of 8-bit sRGB. */
export const ALBEDO_BAND = [decodeSrgb(30 / 255), decodeSrgb(240 / 255)] as const;
/**
 * Root mean square difference of percentiles, in sRGB-encoded numbers, that still counts as equal. Brightness
 * of decoded components is not quite the decoded brightness, so some slack is needed.
 */
const SAME = 0.06;

/**
 * Judges a float colour map: by the codes that its numbers once were, by an 8-bit sibling of the same map, by
 * its name, and last by the band in which surfaces reflect. What contradicts each other is no proof of
 * either.
 */
export function judgeEncoding(
  facts: PixelFacts,
  { sibling = null, name = null, header = null }: EncodingHints = {},
): EncodingJudgement {
  const proven = (sibling && againstSibling(facts, sibling)) ?? byCodes(facts);
  const judged = proven ?? byBand(facts);
  const evidence = [...judged.evidence];
  let { state, confidence } = judged;
  if (name?.state) {
    const agrees = name.state === state || (name.state === 'encoded' && state === 'encodedTwice');
    if (!proven && !contradicts(name.state, facts)) [state, confidence] = [name.state, SURE];
    else if (!agrees) confidence = Math.min(confidence, proven ? TOLD : 0.5);
    evidence.push(`the name says "${name.words}"`);
  }
  const { linear, by } = primariesOf(facts, proven ? state : null, name, header);
  if (by === 'header')
    evidence.push(`its header states the primaries of ${SPACES[linear as Primaries['linear']].title}`);
  if (by === 'codes')
    evidence.push(
      `taken for ${SPACES[linear as Primaries['linear']].title} they are whole codes, for other primaries not`,
    );
  return { state, confidence, linear, by, evidence };
}

function primariesOf(
  { codes }: PixelFacts,
  state: EncodingState | null,
  name: NamedSpace | null,
  header: Primaries['linear'] | null,
): Pick<EncodingJudgement, 'linear' | 'by'> {
  const clear =
    codes !== null &&
    codes.state === state &&
    codes.share >= CODES &&
    codes.share - codes.rivalSpace >= APART;
  if (header) return { linear: header, by: 'header' };
  if (name?.linear) return { linear: name.linear, by: 'name' };
  return clear ? { linear: codes.space, by: 'codes' } : { linear: null, by: null };
}

function againstSibling(
  facts: PixelFacts,
  sibling: PixelFacts,
): Pick<EncodingJudgement, 'state' | 'confidence' | 'evidence'> | null {
  const coded = sibling.percentiles;
  // Compared in encoded numbers, where a step looks equally large in dark and bright.
  const hypotheses: [EncodingState, (code: number) => number][] = [
    ['linear', (code) => code],
    ['encoded', (code) => encodeSrgb(code)],
    ['encodedTwice', (code) => encodeSrgb(encodeSrgb(code))],
    ['darkened', (code) => decodeSrgb(code)],
  ];
  const distances = hypotheses.map(([state, expected]) => {
    const squares = facts.percentiles.map((value, i) => (encodeSrgb(value) - expected(coded[i])) ** 2);
    return { state, distance: Math.sqrt(squares.reduce((sum, value) => sum + value, 0) / squares.length) };
  });
  distances.sort((a, b) => a.distance - b.distance);
  const [best, second] = distances;
  if (best.distance > SAME || second.distance < best.distance * 2) return null;
  return {
    state: best.state,
    confidence: 0.95,
    evidence: [
      `against the 8-bit sibling the numbers are ${STATE_WORDS[best.state]} (median ${facts.percentiles[3].toFixed(3)} here, ${coded[3].toFixed(3)} there)`,
    ],
  };
}

const CODE_WORDS: Record<EncodingState, string> = {
  linear: 'once encoded as sRGB',
  encoded: 'as they stand',
  encodedTwice: 'once decoded',
  darkened: 'only after encoding twice',
};

function byCodes({ codes }: PixelFacts): Pick<EncodingJudgement, 'state' | 'confidence' | 'evidence'> | null {
  if (!codes || codes.share < CODES || codes.rivalState > RIVAL) return null;
  const { state, share } = codes;
  return {
    state,
    confidence: SURE,
    evidence: [
      `${percent(share)} of the numbers are whole 8-bit codes ${CODE_WORDS[state]}, so they are ${STATE_WORDS[state]}`,
    ],
  };
}

/** Encoded medians below this would be blacker than any paint. */
const DARK = 0.1;

/** Albedo lies in a known band; maps far above or below it were encoded once too often or too seldom. */
function byBand({
  percentiles,
  over,
}: PixelFacts): Pick<EncodingJudgement, 'state' | 'confidence' | 'evidence'> {
  const [, low, , middle, , high] = percentiles;
  const range = `5 to 95 of 100 pixels lie in ${low.toFixed(3)} to ${high.toFixed(3)}, median ${middle.toFixed(3)}`;
  if (over > 0.01)
    return {
      state: 'linear',
      confidence: 0.7,
      evidence: [`${percent(over)} of the pixels are above 1, which encoded numbers never are`],
    };
  if (low > 0.2 && middle > 0.45)
    return {
      state: 'encoded',
      confidence: TOLD,
      evidence: [`${range}: paler than any surface if linear, plausible if still encoded`],
    };
  if (high < 0.05)
    return {
      state: 'darkened',
      confidence: TOLD,
      evidence: [`${range}: darker than coal if linear, plausible if the curve was undone twice`],
    };
  if (middle < DARK)
    return {
      state: 'linear',
      confidence: 0.7,
      evidence: [`${range}: plausible as linear albedo, and blacker than paint if still encoded`],
    };
  return {
    state: 'linear',
    confidence: 0.5,
    evidence: [`${range}: plausible as linear albedo, and as encoded numbers`],
  };
}

/** Few surfaces reflect more than this in the middle; of encoded numbers it is the usual middle. */
const PALE = 0.3;

/** Whether the band speaks against what a name says. */
function contradicts(state: 'linear' | 'encoded', facts: PixelFacts): boolean {
  const band = byBand(facts);
  if (state === 'linear') return band.state !== 'linear' || facts.percentiles[3] > PALE;
  return band.state === 'darkened' || (band.state === 'linear' && band.confidence >= TOLD);
}
