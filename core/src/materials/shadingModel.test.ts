import { describe, expect, it } from 'vitest';
import {
  type ChannelName,
  createMapUse,
  createMaterial,
  type Material,
  type Rgb,
  unitValue,
  type Workflow,
} from '../scene/material.ts';
import { exponentOfMaterial } from '../scene/shading.ts';
import { toMetalRough } from './metalRough.ts';
import { classicMetalShare, mayBeClassicMetal, shadingModelOf } from './shadingModel.ts';

/** A material of images and values: `roughness.png` is an image, anything else a value. */
function material(
  workflow: Workflow,
  channels: Partial<Record<ChannelName, string | number | Rgb>>,
  exponent: number | null = null,
): Material {
  const made = { ...createMaterial('Rail', workflow), exponent };
  for (const [name, content] of Object.entries(channels)) {
    const channel = name as ChannelName;
    const map = typeof content === 'string' ? createMapUse(content, channel) : null;
    made.channels[channel] = {
      value: typeof content === 'string' ? unitValue(channel) : content,
      map,
      source: { from: 'file', detail: '' },
    };
  }
  return made;
}

describe('the shading model is what the channels say', () => {
  it.each<[Workflow, Partial<Record<ChannelName, string | number | Rgb>>, Workflow]>([
    ['legacy', { baseColor: 'd.png', specularColor: [0.5, 0.5, 0.5] }, 'legacy'],
    ['legacy', { baseColor: 'd.png', metalness: 'm.png' }, 'metalRough'],
    ['legacy', { baseColor: 'd.png', specularColor: 's.png', metalness: 1 }, 'metalRough'],
    ['legacy', { baseColor: 'd.png', roughness: 0.4 }, 'metalRough'],
    ['legacy', { baseColor: 'd.png', roughness: 'r.png', specularColor: [0.2, 0.2, 0.2] }, 'metalRough'],
    ['legacy', { baseColor: 'd.png', specularColor: 's.png' }, 'legacy'],
    ['legacy', { baseColor: 'd.png', specularColor: 's.png', glossiness: 'g.png' }, 'specGloss'],
    ['legacy', { baseColor: 'd.png', specularColor: 's.png', roughness: 'r.png' }, 'specGloss'],
    ['legacy', { baseColor: 'd.png', glossiness: 'g.png' }, 'legacy'],
    ['metalRough', { baseColor: 'd.png', specularColor: 's.png', roughness: 'r.png' }, 'metalRough'],
    ['metalRough', { baseColor: 'd.png', specularColor: 's.png', glossiness: 'g.png' }, 'specGloss'],
    ['specGloss', { baseColor: 'd.png', specularColor: [1, 0.8, 0.4], metalness: 0 }, 'specGloss'],
    ['specGloss', { baseColor: 'd.png', metalness: 'm.png' }, 'metalRough'],
  ])('%s with %j is %s', (workflow, channels, expected) => {
    expect(shadingModelOf(material(workflow, channels))).toBe(expected);
  });
});

describe('classic specular colours', () => {
  it('are highlights where grey, metals where tinted', () => {
    const brown = [0.3, 0.2, 0.1];
    expect(classicMetalShare(brown, [0.9, 0.9, 0.9], false)).toBe(0);
    expect(classicMetalShare(brown, [0, 0, 0], false)).toBe(0);
    expect(classicMetalShare(brown, [0.96, 0.79, 0.41], false)).toBe(1);
    // An eighth less blue than red: half way to a metal's tint.
    expect(classicMetalShare(brown, [0.8, 0.75, 0.7], false)).toBeCloseTo(0.5, 9);
  });

  it('are metals in an image where bright on black, too', () => {
    const black = [0.01, 0.01, 0.01];
    expect(classicMetalShare(black, [0.6, 0.6, 0.6], true)).toBe(1);
    expect(classicMetalShare(black, [0.6, 0.6, 0.6], false)).toBe(0);
    expect(classicMetalShare(black, [0.1, 0.1, 0.1], true)).toBe(0);
    expect(classicMetalShare([0.2, 0.2, 0.2], [0.6, 0.6, 0.6], true)).toBe(0);
  });

  it('say whether there is anything to convert', () => {
    expect(mayBeClassicMetal(material('legacy', {}))).toBe(false);
    expect(mayBeClassicMetal(material('legacy', { specularColor: [0.5, 0.5, 0.5] }))).toBe(false);
    expect(mayBeClassicMetal(material('legacy', { specularColor: [0.9, 0.7, 0.4] }))).toBe(true);
    expect(mayBeClassicMetal(material('legacy', { specularColor: 's.png' }))).toBe(true);
  });

  it('of gold on black read as gold, of grey as they stand', () => {
    const gold = toMetalRough(
      material('legacy', { baseColor: [0, 0, 0], specularColor: [0.963, 0.787, 0.408] }, 1248),
    );
    expect(gold.metalness.value).toBeCloseTo(1, 5);
    expect(gold.baseColor.value.map((component) => Math.round(component * 1000))).toEqual([963, 787, 408]);
    expect(gold.roughness.value).toBeCloseTo(0.2, 9);
    const rubber = toMetalRough(
      material('legacy', { baseColor: [0.05, 0.05, 0.05], specularColor: [0.4, 0.4, 0.4] }, 10),
    );
    expect([rubber.baseColor.value, rubber.metalness.value]).toEqual([[0.05, 0.05, 0.05], 0]);
  });
});

describe('the exponent for classic readers', () => {
  it('comes from roughness or gloss where there is one, else from the file', () => {
    // Ns = 2 / 0.2^4 - 2.
    expect(exponentOfMaterial(material('legacy', { roughness: 0.2 }, 30))).toBeCloseTo(1248, 6);
    expect(exponentOfMaterial(material('specGloss', { glossiness: 0.8 }))).toBeCloseTo(1248, 6);
    expect(exponentOfMaterial(material('legacy', {}, 30))).toBe(30);
    expect(exponentOfMaterial(material('legacy', {}))).toBe(0);
    // Mirrors stay within what classic readers take: 2 / 0.1^4 - 2.
    expect(exponentOfMaterial(material('metalRough', { roughness: 0 }))).toBeCloseTo(19_998, 6);
  });
});
