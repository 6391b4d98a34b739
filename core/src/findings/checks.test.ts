import { describe, expect, it } from 'vitest';
import type { ParcelImage } from '../asset/asset.ts';
import { lookAtPixels, type PixelFacts } from '../maps/pixelFacts.ts';
import type { ChannelName, MapUse, Material } from '../scene/material.ts';
import { testImage, testMaterial, testSource, testState } from '../test/assets.ts';
import { findFindings } from './checks.ts';

const SIZE = 48;
type Pixel = (x: number, y: number) => number[];

/** Facts of a small image painted by a function of the pixel, values in 0..1. */
function painted(pixel: Pixel, floating = false): PixelFacts {
  const values: number[] = [];
  for (let y = 0; y < SIZE; y += 1) for (let x = 0; x < SIZE; x += 1) values.push(...pixel(x, y));
  const components = values.length / (SIZE * SIZE);
  const data = floating
    ? Float32Array.from(values)
    : Uint8Array.from(values, (value) => Math.round(Math.min(1, Math.max(0, value)) * 255));
  return lookAtPixels({ width: SIZE, height: SIZE, components, data });
}

const wave = (x: number, y: number) => 0.5 + 0.3 * Math.sin(x / 3) * Math.cos(y / 4);
const PAINT: Record<string, Pixel> = {
  colour: (x, y) => [0.75 * wave(x, y) + 0.1, 0.35 * wave(y, x) + 0.1, 0.15],
  grey: (x, y) => [wave(x, y)],
  greyRgb: (x, y) => [wave(x, y), wave(x, y), wave(x, y)],
  packed: (x, y) => [wave(x, y), wave(y, x), x % 7 === 0 ? 1 : 0],
  mask: (x) => [x % 12 < 6 ? 0 : 1],
  holes: (x, y) => [...PAINT.colour(x, y), x % 12 < 6 ? 0 : 1],
  normal: (x, y) => {
    const [p, q] = [0.5 * Math.cos(x / 3) * Math.cos(y / 4), -0.5 * Math.sin(x / 3) * Math.sin(y / 4)];
    const length = Math.hypot(p, q, 1);
    return [0.5 - p / length / 2, 0.5 + q / length / 2, 0.5 + 0.5 / length];
  },
};

/** Findings of one material whose slots read painted images, without notes on what is unused. */
function codes(
  slots: Partial<Record<ChannelName, Partial<MapUse> & { image: string }>>,
  images: Record<string, Pixel>,
  change: (material: Material) => void = () => {},
): string[] {
  const material = testMaterial('Thing', slots);
  change(material);
  const state = testState([material]);
  const files: ParcelImage[] = [];
  const facts = new Map<string, PixelFacts>();
  for (const [path, pixel] of Object.entries(images)) {
    const seen = painted(pixel, path.endsWith('.exr'));
    const file = testImage(path, {
      width: SIZE,
      height: SIZE,
      components: seen.components,
      floating: seen.floating,
      bitDepth: seen.floating ? 32 : 8,
    });
    files.push(file);
    facts.set(file.sha256, seen);
  }
  return findFindings(testSource(state), state, files, { facts })
    .map(({ code }) => code)
    .filter((code) => code !== 'map.unused' && code !== 'colour.albedoRange');
}

describe('nothing is said of what is right', () => {
  it.each<[string, Parameters<typeof codes>[0], Record<string, Pixel>]>([
    [
      'a grey base colour',
      { baseColor: { image: 'crate_basecolor.png' } },
      { 'crate_basecolor.png': PAINT.greyRgb },
    ],
    [
      'roughness in green of a packed image',
      {
        roughness: { image: 'crate_orm.png', component: 'g' },
        occlusion: { image: 'crate_orm.png', component: 'r' },
        metalness: { image: 'crate_orm.png', component: 'b' },
      },
      { 'crate_orm.png': PAINT.packed },
    ],
    [
      'several scalars in an image whose name says nothing',
      {
        roughness: { image: 'layer.png', component: 'g' },
        occlusion: { image: 'layer.png', component: 'r' },
      },
      { 'layer.png': PAINT.packed },
    ],
    ['a normal map', { normal: { image: 'crate_normal.png' } }, { 'crate_normal.png': PAINT.normal }],
    ['heights in the bump slot', { bump: { image: 'crate_height.png' } }, { 'crate_height.png': PAINT.grey }],
    [
      'glossiness read as roughness, inverted',
      { roughness: { image: 'crate_gloss.png', invert: true } },
      { 'crate_gloss.png': PAINT.grey },
    ],
    [
      'a base colour that glows',
      { baseColor: { image: 'sign_basecolor.png' }, emission: { image: 'sign_basecolor.png' } },
      { 'sign_basecolor.png': PAINT.colour },
    ],
    ['a name that says nothing', { roughness: { image: 'img_0042.png' } }, { 'img_0042.png': PAINT.grey }],
    [
      'linear light tagged raw',
      { baseColor: { image: 'crate_basecolor.exr', space: 'lin_rec709_scene' } },
      { 'crate_basecolor.exr': (x, y) => [0.2 + 0.1 * wave(x, y), 0.12, 0.31 * wave(y, x) + 0.013] },
    ],
  ])('%s', (_, slots, images) => {
    expect(codes(slots, images)).toEqual([]);
  });

  it('a mask with two sides that reads the alpha of its base colour', () => {
    const found = codes(
      { baseColor: { image: 'net.png' }, opacity: { image: 'net.png', component: 'a' } },
      { 'net.png': PAINT.holes },
      (material) => {
        Object.assign(material, { alphaMode: 'mask', doubleSided: true });
      },
    );
    expect(found).toEqual([]);
  });
});

describe('the most telling explanation wins, and only that', () => {
  it.each<[string, Parameters<typeof codes>[0], Record<string, Pixel>]>([
    ['slot.normalAsBump', { bump: { image: 'crate_bump.png' } }, { 'crate_bump.png': PAINT.normal }],
    ['slot.bumpAsNormal', { normal: { image: 'crate_normal.png' } }, { 'crate_normal.png': PAINT.greyRgb }],
    [
      'slot.glossAsRoughness',
      { roughness: { image: 'crate_smoothness.png' } },
      { 'crate_smoothness.png': PAINT.grey },
    ],
    [
      'slot.glossAsRoughness',
      { glossiness: { image: 'crate_roughness.png' } },
      { 'crate_roughness.png': PAINT.grey },
    ],
    [
      'slot.packedWhole',
      { metalness: { image: 'crate_orm.png', component: 'r' } },
      { 'crate_orm.png': PAINT.packed },
    ],
    ['slot.contradiction', { roughness: { image: 'crate_ao.png' } }, { 'crate_ao.png': PAINT.grey }],
    ['slot.pixels', { baseColor: { image: 'img_7.png' } }, { 'img_7.png': PAINT.normal }],
    ['slot.pixels', { roughness: { image: 'img_8.png' } }, { 'img_8.png': PAINT.colour }],
    [
      'normal.direction',
      { normal: { image: 'crate_normal.png', normalY: 'Y-' } },
      { 'crate_normal.png': PAINT.normal },
    ],
    [
      'normal.direction',
      { normal: { image: 'crate_normal_dx.png', normalY: 'Y+' } },
      { 'crate_normal_dx.png': PAINT.normal },
    ],
    [
      'normal.notUnit',
      { normal: { image: 'crate_normal.png' } },
      { 'crate_normal.png': (x, y) => PAINT.normal(x, y).map((value) => 0.5 + (value - 0.5) * 0.6) },
    ],
    [
      'slot.constant',
      { roughness: { image: 'crate_roughness.png' } },
      { 'crate_roughness.png': () => [0.4] },
    ],
    [
      'colour.dataAsColour',
      { roughness: { image: 'crate_roughness.png', space: 'g22_rec709_scene' } },
      { 'crate_roughness.png': PAINT.grey },
    ],
    [
      'colour.colourAsData',
      { baseColor: { image: 'crate_basecolor.png', space: 'data' } },
      { 'crate_basecolor.png': PAINT.colour },
    ],
  ])('%s of %j', (code, slots, images) => {
    expect(codes(slots, images)).toEqual([code]);
  });

  it('of a whole swap: both slots are told of, and one mend sets both right', () => {
    const slots = {
      roughness: { image: 'crate_metalness.png' },
      metalness: { image: 'crate_roughness.png' },
    };
    const state = testState([testMaterial('Thing', slots)]);
    const files = ['crate_metalness.png', 'crate_roughness.png'].map((path) => testImage(path));
    const found = findFindings(testSource(state), state, files);
    expect(found.map(({ code }) => code)).toEqual(['slot.contradiction', 'slot.contradiction']);
    const pairs = found.map(({ mend }) =>
      mend?.kind === 'assignSlots'
        ? mend.assignments.map(({ channel, image }) => `${channel} ${image}`).sort()
        : [],
    );
    expect(pairs).toEqual([
      ['metalness crate_metalness.png', 'roughness crate_roughness.png'],
      ['metalness crate_metalness.png', 'roughness crate_roughness.png'],
    ]);
  });
});

describe('transparency', () => {
  const net = { 'net.png': PAINT.holes };
  const slots = { baseColor: { image: 'net.png' }, opacity: { image: 'net.png', component: 'a' as const } };
  const alpha =
    (mode: Material['alphaMode'], doubleSided = false) =>
    (material: Material) => {
      Object.assign(material, { alphaMode: mode, doubleSided });
    };

  it('tells masks from blends by the share of pixels in between', () => {
    expect(codes(slots, net, alpha('blend'))).toEqual(['alpha.maskWouldDo']);
    const ramp: Pixel = (x, y) => [...PAINT.colour(x, y), x / SIZE];
    expect(codes(slots, { 'net.png': ramp }, alpha('blend'))).toEqual([]);
  });

  it('sees cut-outs with one side, and alpha that nobody reads', () => {
    expect(codes(slots, net, alpha('mask'))).toEqual(['alpha.oneSided']);
    expect(codes({ baseColor: { image: 'net.png' } }, net)).toEqual(['alpha.ignored']);
  });

  it('sees opacity that is 1 all over, from alpha and from an image of its own', () => {
    const solid: Pixel = (x, y) => [...PAINT.colour(x, y), 1];
    expect(codes(slots, { 'net.png': solid }, alpha('blend'))).toEqual(['alpha.needless']);
    // Where the image has no alpha that could be read, too.
    expect(codes(slots, { 'net.png': PAINT.colour }, alpha('blend'))).toEqual(['alpha.needless']);
    expect(
      codes({ opacity: { image: 'net_opacity.png' } }, { 'net_opacity.png': () => [1] }, alpha('blend')),
    ).toContain('alpha.needless');
  });

  it('sees a transparency map that is read as opacity', () => {
    const image = { 'net_transparency.png': (x: number, y: number) => [0.2 + 0.5 * wave(x, y)] };
    expect(codes({ opacity: { image: 'net_transparency.png' } }, image, alpha('blend'))).toEqual([
      'alpha.inverted',
    ]);
    expect(
      codes({ opacity: { image: 'net_transparency.png', invert: true } }, image, alpha('blend')),
    ).toEqual([]);
  });
});
