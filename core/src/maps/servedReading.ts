import type { Workflow } from '../scene/material.ts';
import type { MapReading } from './nameSpans.ts';

/**
 * How a material of a shading model reads an image: gloss serves as roughness, inverted, wherever gloss is no
 * channel.
 */
export function servedReading(reading: MapReading, workflow: Workflow): MapReading {
  if (reading.channel !== 'glossiness' || workflow === 'specGloss') return reading;
  return { ...reading, channel: 'roughness', invert: !reading.invert };
}
