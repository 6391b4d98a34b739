import { PRIMARIES, type Primaries, usualCurve } from '../colour/primaries.ts';
import { conversionOf } from '../colour/spaces.ts';
import type { PixelBuffer } from '../images/pixelBuffer.ts';
import { halfToNumber, numberToHalf } from '../scene/half.ts';
import { encodeSrgb } from '../scene/transfer.ts';
import type { EncodingState } from './encodingState.ts';

/**
 * Most float maps were 8-bit sRGB once: taken back along the right way, their numbers are whole codes again.
 * The best of all ways, and the best of those with another state and with other primaries. Shares in 0..1.
 */
export interface CodeEvidence {
  state: EncodingState;
  /** The linear space of the primaries. */
  space: Primaries['linear'];
  share: number;
  rivalState: number;
  rivalSpace: number;
}

const STATES: readonly EncodingState[] = ['linear', 'encoded', 'encodedTwice', 'darkened'];
const SAMPLES = 1500;
const LEAST = 100;
/** Half-width of what counts as a whole code; half floats are coarser. Chance is twice that. */
const SLACK = 0.05;
const HALF_SLACK = 0.12;
/** Codes at the ends are where everything is cut, and tell nothing. */
const ENDS = [2, 253] as const;

/** Null where there are too few numbers between the ends. Costs some 24 looks at up to 1,500 pixels. */
export function codeEvidence({ width, height, components, data }: PixelBuffer): CodeEvidence | null {
  const count = width * height;
  const step = Math.max(1, Math.floor(count / SAMPLES)) | 1;
  const stored: number[] = [];
  let half = true;
  for (let i = 0; i < count; i += step) {
    for (let k = 0; k < 3; k += 1) {
      // Grey stands for three equal components.
      const value = data[i * components + (components < 3 ? 0 : k)];
      stored.push(value);
      if (half && halfToNumber(numberToHalf(value)) !== value) half = false;
    }
  }
  const slack = half ? HALF_SLACK : SLACK;
  const shares = PRIMARIES.flatMap((primaries) =>
    STATES.map((state) => ({
      state,
      space: primaries.linear,
      share: shareOf(stored, state, primaries, slack),
    })),
  );
  const best = shares.reduce((most, share) => (share.share > most.share ? share : most));
  if (best.share <= 0) return null;
  const most = (rivals: typeof shares) => rivals.reduce((top, { share }) => Math.max(top, share), 0);
  const round = (share: number) => Math.round(share * 1e4) / 1e4;
  return {
    ...best,
    share: round(best.share),
    rivalState: round(most(shares.filter(({ state }) => state !== best.state))),
    rivalSpace: round(
      most(shares.filter(({ state, space }) => state === best.state && space !== best.space)),
    ),
  };
}

/**
 * Share of components that are whole 8-bit sRGB codes of Rec.709 when taken for this state and these
 * primaries.
 */
function shareOf(
  stored: readonly number[],
  state: EncodingState,
  primaries: Primaries,
  slack: number,
): number {
  const toLight = lightOf(state, primaries);
  const { matrix } = conversionOf(primaries.linear, 'lin_rec709_scene');
  let [seen, whole] = [0, 0];
  for (let i = 0; i < stored.length; i += 3) {
    const [r, g, b] = [toLight(stored[i]), toLight(stored[i + 1]), toLight(stored[i + 2])];
    for (let k = 0; k < 3; k += 1) {
      const light = matrix ? matrix[k * 3] * r + matrix[k * 3 + 1] * g + matrix[k * 3 + 2] * b : [r, g, b][k];
      const code = encodeSrgb(light) * 255;
      if (!(code > ENDS[0] && code < ENDS[1])) continue;
      seen += 1;
      if (Math.abs(code - Math.round(code)) < slack) whole += 1;
    }
  }
  return seen < LEAST ? 0 : whole / seen;
}

function lightOf(state: EncodingState, primaries: Primaries): (stored: number) => number {
  const { decode, encode } = usualCurve(primaries);
  if (state === 'linear') return (value) => value;
  if (state === 'encoded') return decode;
  return state === 'encodedTwice' ? (value) => decode(decode(value)) : encode;
}
