import { describe, expect, it } from 'vitest';
import {
  type Channel,
  type ChannelName,
  createMapUse,
  createMaterial,
  type Material,
} from '../scene/material.ts';
import { exponentOfRoughness, reflectanceOfIndex, roughnessOfExponent } from '../scene/shading.ts';
import { decodeSrgb, encodeSrgb } from '../scene/transfer.ts';
import { channelsLeftOut, tintedDielectric, toMetalRough } from './metalRough.ts';

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
    material.channels.glossiness = {
      value: 0.8,
      map: createMapUse('g', 'glossiness'),
      source: { from: 'file', detail: '' },
    };
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
    toMetalRough(material).baseColor.value.forEach((component, i) =>
      expect(component).toBeCloseTo([0.95, 0.64, 0.54][i], 6),
    );
    material.channels.specularColor = { value: [1, 1, 1], map: createMapUse('s', 'specularColor'), source };
    expect(toMetalRough(material)).toMatchObject({
      baseColor: { value: [0, 0, 0] },
      metalness: { value: 0 },
    });
  });
});

describe('a material as metal/rough reads it', () => {
  const source = { from: 'file' as const, detail: '' };
  const read = (
    workflow: 'metalRough' | 'specGloss' | 'legacy',
    channels: Material['channels'],
    more: Partial<Material> = {},
  ) => toMetalRough(Object.assign(createMaterial('m', workflow), { channels }, more));

  it('has what the standard says where nothing is written', () => {
    expect(read('metalRough', {})).toEqual({
      baseColor: { value: [1, 1, 1], map: null },
      metalness: { value: 0, map: null },
      roughness: { value: 1, map: null },
      normal: null,
      bump: null,
      occlusion: null,
      emission: { value: [0, 0, 0], map: null },
      opacity: { value: 1, map: null },
      transmission: { value: 0, map: null },
      coat: { value: 0, map: null },
      coatRoughness: { value: 0, map: null },
      sheenColor: { value: [0, 0, 0], map: null },
      sheenRoughness: 0.5,
      specular: { value: 1, map: null },
      specularColor: { value: [1, 1, 1], map: null },
      ior: 1.5,
      thickness: 0,
      height: null,
      alphaMode: 'opaque',
      alphaCutoff: 0.5,
      doubleSided: false,
    });
  });

  it('takes each channel with its value and its map', () => {
    const of = (channel: ChannelName, value: Channel['value']): Channel => ({
      value,
      map: createMapUse(`${channel}.png`, channel),
      source,
    });
    const channels = {
      baseColor: of('baseColor', 0.5),
      metalness: of('metalness', 0.25),
      roughness: of('roughness', [0.3, 0.6, 0.9]),
      normal: of('normal', 1),
      bump: of('bump', 0.2),
      occlusion: of('occlusion', 1),
      height: of('height', 0.1),
      specular: of('specular', 0.5),
      specularColor: of('specularColor', [0.7, 0.8, 0.9]),
      sheenColor: of('sheenColor', [0.1, 0.2, 0.3]),
    };
    const found = read('metalRough', channels, {
      thickness: 0.02,
      extras: { sheenRoughness: '0.8' },
      doubleSided: true,
    });
    const image = (name: ChannelName) => expect.objectContaining({ image: `${name}.png` });
    expect(found).toMatchObject({
      baseColor: { value: [0.5, 0.5, 0.5], map: image('baseColor') },
      metalness: { value: 0.25, map: image('metalness') },
      normal: image('normal'),
      bump: { value: 0.2, map: image('bump') },
      occlusion: image('occlusion'),
      height: { value: 0.1, map: image('height') },
      specular: { value: 0.5, map: image('specular') },
      specularColor: { value: [0.7, 0.8, 0.9], map: image('specularColor') },
      sheenColor: { value: [0.1, 0.2, 0.3], map: image('sheenColor') },
      sheenRoughness: 0.8,
      thickness: 0.02,
      doubleSided: true,
    });
    expect(found.roughness.value).toBeCloseTo(0.6, 12);
    // A weight of the reflection is a matter of metal/rough alone.
    const { specular, specularColor } = channels;
    const gloss = read('specGloss', { specular, specularColor });
    expect(gloss.specular).toEqual({ value: 1, map: null });
    expect(gloss.specularColor).toEqual({ value: [1, 1, 1], map: null });
    // Images of reflectance and gloss in a material that is called metal/rough.
    const painted = read('metalRough', { specularColor, glossiness: of('glossiness', 1) });
    expect(painted.specularColor).toEqual({ value: [1, 1, 1], map: null });
  });

  it('keeps the diffuse of a spec/gloss material with an image, and converts values', () => {
    const map = createMapUse('d.png', 'baseColor');
    const mapped = read('specGloss', {
      baseColor: { value: [0.2, 0.2, 0.2], map, source },
      specularColor: { value: [0.9, 0.8, 0.7], map: null, source },
    });
    expect(mapped).toMatchObject({ baseColor: { value: [0.2, 0.2, 0.2], map }, metalness: { value: 0 } });
    const gold = read('specGloss', {
      specularColor: { value: [0.9, 0.8, 0.7], map: null, source },
      baseColor: { value: 0, map: null, source },
    });
    expect(gold.metalness.value).toBeCloseTo(1, 6);
  });

  it('tells the images that it has no place for', () => {
    const channels = Object.fromEntries(
      (['specularColor', 'bump', 'roughness'] as const).map((channel) => [
        channel,
        { value: 1, map: createMapUse('x.png', channel), source },
      ]),
    );
    const material = Object.assign(createMaterial('m', 'metalRough'), {
      channels: { ...channels, height: { value: 1, map: null, source } },
    });
    expect(channelsLeftOut(material)).toEqual(['bump']);
    expect(channelsLeftOut({ ...material, workflow: 'legacy' })).toEqual(['specularColor', 'bump']);
  });
});

it('no tint and no weight make dielectrics reflect more than all', () => {
  expect(tintedDielectric(0.04, 0.5, 0.5)).toBeCloseTo(0.01, 12);
  expect(tintedDielectric(0.04, 100, 1)).toBe(1);
  expect(tintedDielectric(0.04, 1, 3)).toBe(0.04);
  expect(tintedDielectric(0.04, 1, -1)).toBe(0);
});
