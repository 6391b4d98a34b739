import { channelInWords } from '../scene/channelTitles.ts';
import type { Component } from '../scene/material.ts';
import type { MapReading } from './nameSpans.ts';
import { constantOf, type PixelFacts } from './pixelFacts.ts';

/** Readings as the pixels allow them, and what was changed, in words. */
export interface FittedReadings {
  readings: MapReading[];
  evidence: string[];
}

const WHOLE = 0.9985;
/** Occlusion that is darker than this on the mean is none: the component was left empty. */
const NO_OCCLUSION = 0.02;

/** Position of a component among those that an image has; -1 where it has none such. */
export function componentIndex(component: Component, components: number): number {
  if (component === 'a') return alphaPlane(components);
  if (component === 'g' || component === 'b') return colourPlane(components, component);
  return 0;
}

function alphaPlane(components: number): number {
  if (components === 4) return 3;
  return components === 2 ? 1 : -1;
}

function colourPlane(components: number, component: Component): number {
  if (components >= 3) return component === 'g' ? 1 : 2;
  return -1;
}

/**
 * Looks at what a name says before it is believed: components that the image does not have are not read, an
 * alpha that is 1 all over is no opacity and no gloss, and a grey shape may lie in the alpha of a plain
 * image.
 */
export function fitReadings(readings: readonly MapReading[], facts: PixelFacts): FittedReadings {
  const evidence: string[] = [];
  const fitted = readings.flatMap((reading): MapReading[] => {
    const { component, channel } = reading;
    const index = componentIndex(component, facts.components);
    if (index < 0) {
      evidence.push(`it has no component ${component} for ${channelInWords(channel)}`);
      return [];
    }
    const value = constantOf(facts, index);
    if (component === 'a' && value !== null && value >= WHOLE) {
      evidence.push(`its alpha is 1 all over, which is no ${channelInWords(channel)}`);
      return [];
    }
    if (channel === 'occlusion' && !reading.invert && facts.mean[index] < NO_OCCLUSION) {
      evidence.push(`its ${component} is black, which is no occlusion`);
      return [];
    }
    if (readings.length === 1 && component === 'r' && alphaVaries(facts)) {
      if (value !== null) {
        evidence.push('its colour is one value and its alpha varies');
        return [{ ...reading, component: 'a' }];
      }
      // What is called transparent, and has an alpha, is so by that.
      if (channel === 'opacity') {
        evidence.push('its alpha varies');
        return [{ ...reading, component: 'a', invert: false }];
      }
    }
    return [reading];
  });
  return pairInPlace(fitted, facts, evidence);
}

/** True where an image has an alpha that is not the same all over. */
export function alphaVaries(facts: Pick<PixelFacts, 'alpha'>): boolean {
  return facts.alpha !== null && facts.alpha.full < WHOLE && facts.alpha.clear < WHOLE;
}

/** Roughness and metalness in green and blue, or in red and green: the component that holds nothing tells. */
function pairInPlace(readings: MapReading[], facts: PixelFacts, evidence: string[]): FittedReadings {
  const roughness = readings.find(({ channel, component }) => channel === 'roughness' && component === 'g');
  const metalness = readings.find(({ channel, component }) => channel === 'metalness' && component === 'b');
  if (readings.length !== 2 || !roughness || !metalness || facts.components < 3)
    return { readings, evidence };
  const [red, green, blue] = [0, 1, 2].map((k) => constantOf(facts, k));
  const blueEmpty = blue !== null && red === null && green === null;
  if (!blueEmpty) return { readings, evidence };
  evidence.push('blue is one value all over, so red and green hold the two');
  return {
    readings: [
      { ...roughness, component: 'r' },
      { ...metalness, component: 'g' },
    ],
    evidence,
  };
}
