import type { ChannelName } from '../scene/material.ts';
import { COLOUR_CHANNELS } from '../scene/material.ts';
import { constantOf, type PixelFacts } from './pixelFacts.ts';

/** What an image looks like, whatever its name says. */
export type PixelKind = 'constant' | 'normal' | 'mask' | 'grey' | 'emission' | 'colour' | 'unclear';

/** What an image looks like, by its pixels alone. */
export interface PixelJudgement {
  kind: PixelKind;
  /** In 0..1. */
  confidence: number;
  evidence: string;
}

const GREY_SHARE = 0.98;
const MASK_SHARE = 0.97;
const COLOURFUL = 0.12;

/** The kind of an image by its pixels alone. */
export function judgePixels(facts: PixelFacts): PixelJudgement {
  const colours = facts.components >= 3 ? 3 : 1;
  const constants = Array.from({ length: colours }, (_, k) => constantOf(facts, k));
  if (constants.every((value) => value !== null))
    return {
      kind: 'constant',
      confidence: 1,
      evidence: `every pixel is ${constants.map((value) => (value as number).toFixed(3)).join(' ')}`,
    };
  if (isNormalLike(facts)) {
    const unit = facts.unit / (1 - facts.dark);
    const rest = facts.dark > 0.01 ? ' that are not black' : '';
    const how =
      unit > 0.85
        ? `${percent(unit)} of the pixels${rest} are unit vectors`
        : `vectors around (0.5, 0.5, 1), of mean length ${facts.length.toFixed(2)}`;
    return {
      kind: 'normal',
      confidence: unit > 0.85 ? 0.95 : 0.8,
      evidence: `${how}, mean ${meanInWords(facts)}`,
    };
  }
  const grey = facts.grey >= GREY_SHARE;
  if (grey && facts.ends[0] >= MASK_SHARE)
    return {
      kind: 'mask',
      confidence: 0.9,
      evidence: `${percent(facts.ends[0])} of the pixels have one of two values`,
    };
  if (grey)
    return {
      kind: 'grey',
      confidence: 0.9,
      evidence: `red, green and blue are equal on ${percent(facts.grey)} of the pixels`,
    };
  // What is clear is black by no will of anybody.
  const clear = facts.alpha?.clear ?? 0;
  const dark = Math.max(0, facts.dark - clear) / Math.max(1 - clear, 1e-6);
  if (dark > 0.75 && facts.percentiles[6] > 0.4)
    return { kind: 'emission', confidence: 0.6, evidence: `bright spots on ${percent(dark)} black` };
  if (facts.saturation > COLOURFUL)
    return {
      kind: 'colour',
      confidence: 0.7,
      evidence: `colourful: mean saturation ${facts.saturation.toFixed(2)}`,
    };
  return {
    kind: 'unclear',
    confidence: 0.3,
    evidence: `mean ${meanInWords(facts)}, saturation ${facts.saturation.toFixed(2)}`,
  };
}

const STEEP_UNIT = 0.95;
/** Bakes leave what lies outside of the islands black, up to this share. */
const MOST_VOID = 0.8;
/** Blue as normals are all over, and this share of unit vectors: some pixels have no length of their own. */
const MOSTLY_UNIT = 0.6;

/**
 * True for images whose pixels are tangent-space normals, unit length or nearly so; black ones hold none and do
 * not count.
 */
export function isNormalLike(facts: PixelFacts): boolean {
  if (facts.components < 3 || facts.dark > MOST_VOID) return false;
  const held = 1 - facts.dark;
  if ((facts.grey - facts.dark) / held > 0.6) return false;
  const [r, g, b] = facts.mean.map((value) => value / held);
  const unit = facts.unit / held;
  const around = Math.abs(r - 0.5) < 0.1 && Math.abs(g - 0.5) < 0.1;
  // Steep relief leaves little blue; unit vectors all over are normals nevertheless.
  const steep = unit > STEEP_UNIT && Math.abs(r - 0.5) < 0.2 && Math.abs(g - 0.5) < 0.2 && b > 0.5;
  const blue = b - Math.max(r, g);
  return (
    steep ||
    (around &&
      ((unit > 0.85 && b > 0.62) ||
        (unit > MOSTLY_UNIT && b > 0.75 && blue > 0.25) ||
        (b > 0.68 && facts.length > 0.5 && facts.min[2] > 0.3 && blue > 0.15)))
  );
}

/** A blue that varies less than this says nothing. */
const EMPTY_BLUE = 4 / 255;

/** True for normal maps that hold x and y only: two components, or a blue that is the same everywhere. */
export function lacksBlue({ mean, min, max, disc, unit, components }: PixelFacts): boolean {
  if (components === 1 || Math.abs(mean[0] - 0.5) > 0.12 || Math.abs(mean[1] - 0.5) > 0.12 || disc < 0.95)
    return false;
  if (max[0] - min[0] <= EMPTY_BLUE && max[1] - min[1] <= EMPTY_BLUE) return false;
  // Nearly flat normals have a nearly constant blue that is right all the same.
  return components === 2 || (max[2] - min[2] < EMPTY_BLUE && unit < 0.5);
}

/** Why an image cannot be what a channel needs, by its pixels; null when nothing speaks against it. */
export function contradiction(channel: ChannelName, facts: PixelFacts, alone: boolean): string | null {
  const { kind, confidence, evidence } = judgePixels(facts);
  if (confidence < 0.65 || kind === 'constant') return null;
  if (channel === 'normal') {
    if (kind === 'normal' || lacksBlue(facts)) return null;
    return `a normal map holds vectors, but ${evidence}`;
  }
  if (kind === 'normal') return `it looks like a normal map: ${evidence}`;
  // Colours may be grey, or two-valued as white print on black is; a packed image feeds several scalars.
  if (COLOUR_CHANNELS.has(channel)) return null;
  return kind === 'colour' && alone ? `a scalar is grey, but it is ${evidence}` : null;
}

/** A share in 0..1 as percents with two or three digits. */
export function percent(share: number): string {
  const value = share * 100;
  return `${roundedPercent(value)}%`;
}

function roundedPercent(value: number) {
  if (value >= 99.95 || value < 0.05) return Math.round(value);
  return value >= 10 ? value.toFixed(0) : value.toFixed(1);
}

function meanInWords({ mean }: PixelFacts): string {
  return `(${mean
    .slice(0, 3)
    .map((value) => value.toFixed(2))
    .join(', ')})`;
}
