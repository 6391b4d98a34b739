import { decodeSrgb, encodeSrgb } from '../colour/transfer.ts';
import { percent } from './judgePixels.ts';
import type { PixelFacts } from './pixelFacts.ts';

/**
 * How the numbers of a float colour map stand to light: `linear`; `encoded`, when the sRGB curve was not undone;
 * `darkened`, when it was undone twice.
 */
export type EncodingState = 'linear' | 'encoded' | 'darkened';

export interface EncodingJudgement {
  state: EncodingState;
  /** In 0..1; from 0.8 on it may be acted on. */
  confidence: number;
  evidence: string[];
}

/** Chance is a tenth: so many whole 8-bit codes are no chance. */
const CODES = 0.55;
const RIVAL = 0.35;
/** Plausible albedo in light: 30 to 240 of 8-bit sRGB. */
export const ALBEDO_BAND = [decodeSrgb(30 / 255), decodeSrgb(240 / 255)] as const;
/**
 * Root mean square difference of percentiles, in sRGB-encoded numbers, that still counts as equal. Brightness of decoded
 * components is not quite the decoded brightness, so some slack is needed.
 */
const SAME = 0.06;

/** Judges a float colour map, by an 8-bit sibling of the same map where there is one, else by its own numbers. */
export function judgeEncoding(facts: PixelFacts, sibling: PixelFacts | null = null): EncodingJudgement {
  if (sibling) {
    const found = againstSibling(facts, sibling);
    if (found) return found;
  }
  return byCodes(facts) ?? byBand(facts);
}

function againstSibling(facts: PixelFacts, sibling: PixelFacts): EncodingJudgement | null {
  const coded = sibling.percentiles;
  // Compared in encoded numbers, where a step looks equally large in dark and bright.
  const hypotheses: [EncodingState, (code: number) => number][] = [
    ['linear', (code) => code],
    ['encoded', (code) => encodeSrgb(code)],
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

function byCodes({ codes }: PixelFacts): EncodingJudgement | null {
  if (!codes) return null;
  const ranked = (
    [
      ['encoded', codes.stored, 'as they stand'],
      ['linear', codes.encoded, 'once encoded as sRGB'],
      ['darkened', codes.encodedTwice, 'only after encoding twice'],
    ] as [EncodingState, number, string][]
  ).sort((a, b) => b[1] - a[1]);
  const [[state, share, how], [, rival]] = ranked;
  if (share < CODES || rival > RIVAL) return null;
  return { state, confidence: 0.9, evidence: [`${percent(share)} of the numbers are whole 8-bit codes ${how}, so they are ${STATE_WORDS[state]}`] };
}

/** Albedo lies in a known band; maps far above or below it were encoded once too often or too seldom. */
function byBand({ percentiles, over }: PixelFacts): EncodingJudgement {
  const [, low, , middle, , high] = percentiles;
  const range = `5 to 95 of 100 pixels lie in ${low.toFixed(3)} to ${high.toFixed(3)}, median ${middle.toFixed(3)}`;
  if (over > 0.01) return { state: 'linear', confidence: 0.7, evidence: [`${percent(over)} of the pixels are above 1, which encoded numbers never are`] };
  if (low > 0.2 && middle > 0.45)
    return { state: 'encoded', confidence: 0.6, evidence: [`${range}: paler than any surface if linear, plausible if still encoded`] };
  if (high < 0.05) return { state: 'darkened', confidence: 0.6, evidence: [`${range}: darker than coal if linear, plausible if the curve was undone twice`] };
  return { state: 'linear', confidence: 0.5, evidence: [`${range}: plausible as linear albedo`] };
}

const STATE_WORDS: Record<EncodingState, string> = { linear: 'linear', encoded: 'still encoded', darkened: 'decoded twice' };
