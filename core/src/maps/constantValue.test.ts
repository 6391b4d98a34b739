import { describe, expect, it } from 'vitest';
import { type Channel, type ChannelName, createMapUse, type MapUse } from '../scene/material.ts';
import { constantValue, memoryOf } from './constantValue.ts';
import { lookAtPixels } from './pixelFacts.ts';

const facts = (...pixel: number[]) =>
  lookAtPixels({
    width: 8,
    height: 8,
    components: pixel.length,
    data: Uint8Array.from({ length: 64 * pixel.length }, (_, i) => pixel[i % pixel.length]),
  });
const content = (channel: ChannelName, value: Channel['value'], use: Partial<MapUse> = {}): Channel => ({
  value,
  map: createMapUse('x.png', channel, use),
  source: { from: 'file', detail: '' },
});
const read = (channel: ChannelName, value: Channel['value'], pixel: number[], use: Partial<MapUse> = {}) =>
  constantValue(channel, content(channel, value, use), facts(...pixel))?.value;

describe('a map of one value', () => {
  it('becomes that value times the factor, read as the slot reads it', () => {
    expect(read('roughness', 0.5, [204])).toBeCloseTo(0.4, 6);
    expect(read('roughness', 1, [51], { invert: true })).toBeCloseTo(0.8, 6);
    expect(read('metalness', 1, [10, 20, 255], { component: 'b' })).toBe(1);
  });

  it('becomes light where it is a colour: 128 of sRGB is 0.2159', () => {
    const value = read('baseColor', [1, 0.5, 1], [128, 128, 128]) as number[];
    const light = ((128 / 255 + 0.055) / 1.055) ** 2.4;
    [light, light / 2, light].forEach((expected, i) => expect(value[i]).toBeCloseTo(expected, 6));
  });

  it('empties slots that do nothing: flat normals and full ambient light', () => {
    expect(read('normal', [1, 1, 1], [128, 128, 255])).toBeNull();
    expect(read('occlusion', 1, [255])).toBeNull();
  });

  it('is none where pixels vary, or where a tilt or a shade would be lost', () => {
    const varied = lookAtPixels({ width: 2, height: 1, components: 1, data: Uint8Array.of(10, 200) });
    expect(constantValue('roughness', content('roughness', 1), varied)).toBeNull();
    expect(read('normal', [1, 1, 1], [200, 128, 220])).toBeUndefined();
    expect(read('occlusion', 1, [128])).toBeUndefined();
  });

  it('says what it takes: 4096 squared with its levels is 89 MB', () => {
    expect(memoryOf({ width: 4096, height: 4096 })).toBe('89.5 MB');
  });
});
