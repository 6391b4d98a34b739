import { describe, expect, it } from 'vitest';
import { decodeSrgb, encodeSrgb } from '../colour/transfer.ts';
import { createMapUse, createMaterial } from '../scene/material.ts';
import { exponentOfRoughness, reflectanceOfIndex, roughnessOfExponent } from '../scene/shading.ts';
import { toMetalRough } from './metalRough.ts';

describe('shading formulas', () => {
  it('turns exponents into roughness and back', () => {
    // Ns 6: alpha = sqrt(2 / 8) = 0.5, roughness = sqrt(0.5).
    expect(roughnessOfExponent(6)).toBeCloseTo(Math.SQRT1_2, 12);
    expect(exponentOfRoughness(Math.SQRT1_2)).toBeCloseTo(6, 9);
    expect(roughnessOfExponent(0)).toBe(1);
  });

  it('gives 0.04 for an index of 1.5', () => {
    expect(reflectanceOfIndex(1.5)).toBeCloseTo(0.04, 12);
  });

  it('follows the sRGB curve', () => {
    expect(decodeSrgb(0.5)).toBeCloseTo(0.214041, 6);
    expect(encodeSrgb(0.214041)).toBeCloseTo(0.5, 5);
  });

  it('reads glossiness as one minus roughness, value and map', () => {
    const material = createMaterial('m', 'specGloss');
    material.channels.glossiness = { value: 0.8, map: createMapUse('g', 'glossiness'), source: { from: 'file', detail: '' } };
    const { map, value } = toMetalRough(material).roughness;
    // x = 0.5 gives glossiness 0.4, so roughness 0.6.
    expect(value * (0.5 * (map?.gain ?? 0) + (map?.offset ?? 0))).toBeCloseTo(0.6, 12);
  });

  it('takes a spec/gloss metal without maps for a metal, and leaves one with maps alone', () => {
    const source = { from: 'file' as const, detail: '' };
    const material = createMaterial('m', 'specGloss');
    material.channels.baseColor = { value: [0, 0, 0], map: null, source };
    material.channels.specularColor = { value: [0.95, 0.64, 0.54], map: null, source };
    expect(toMetalRough(material).metalness.value).toBeCloseTo(1, 6);
    toMetalRough(material).baseColor.value.forEach((part, i) => expect(part).toBeCloseTo([0.95, 0.64, 0.54][i], 6));
    material.channels.specularColor = { value: [1, 1, 1], map: createMapUse('s', 'specularColor'), source };
    expect(toMetalRough(material)).toMatchObject({ baseColor: { value: [0, 0, 0] }, metalness: { value: 0 } });
  });
});
