import Color from 'colorjs.io';
import { describe, expect, it } from 'vitest';
import { COLOUR_SPACES, type ColourSpace } from '../scene/material.ts';
import { convertByOcio, OCIO_SPACES } from '../test/ocio.ts';
import { conversionOf, convertColour, isColourSpace } from './spaces.ts';

const COLOURS = [
  [0, 0, 0],
  [1, 1, 1],
  [0.18, 0.18, 0.18],
  [0.02, 0.3, 0.7],
  [0.6, 0.55, 0.5],
  [0.35, 0.4, 0.33],
  [0.9, 0.85, 0.2],
  [0.001, 0.002, 0.0015],
];

/** Names of the spaces that colorjs.io knows with the same curve. */
const COLORJS: Partial<Record<ColourSpace, string>> = {
  srgb_rec709_scene: 'srgb',
  lin_rec709_scene: 'srgb-linear',
  lin_p3d65_scene: 'p3-linear',
  srgb_p3d65_scene: 'p3',
  lin_rec2020_scene: 'rec2020-linear',
  lin_adobergb_scene: 'a98rgb-linear',
  g22_adobergb_scene: 'a98rgb',
  lin_ap1_scene: 'acescg',
  lin_ciexyzd65_scene: 'xyz-d65',
};

describe('conversions between colour spaces', () => {
  it('agree with OpenColorIO for every pair it reaches', () => {
    const pairs = OCIO_SPACES.flatMap((from) =>
      OCIO_SPACES.map((to): [ColourSpace, ColourSpace] => [from, to]),
    );
    const theirs = convertByOcio(pairs, COLOURS);
    let compared = 0;
    pairs.forEach(([from, to], i) => {
      COLOURS.forEach((colour, k) => {
        const ours = convertColour(colour, from, to);
        // Its display transforms cut colours that their primaries cannot make.
        if (ours.some((value) => value < 0)) return;
        compared += 1;
        ours.forEach((value, c) => {
          expect(
            Math.abs(value - theirs[i][k][c]),
            `${from} to ${to}, ${colour} component ${c}: ${value}, OpenColorIO ${theirs[i][k][c]}`,
          ).toBeLessThan(1e-4);
        });
      });
    });
    expect(compared).toBeGreaterThan(pairs.length * COLOURS.length * 0.7);
  });

  it('agree with colorjs.io for every pair it knows', () => {
    const typed = Object.entries(COLORJS) as [ColourSpace, string][];
    for (const [from, fromId] of typed) {
      for (const [to, toId] of typed) {
        for (const colour of COLOURS) {
          const theirs = new Color(fromId, colour as [number, number, number]).to(toId).coords as number[];
          const light = theirs.some((value) => value < 0);
          convertColour(colour, from, to).forEach((value, c) => {
            // Its white for ACEScg is rounded otherwise, and Adobe's primaries come as a ready matrix.
            if (!light)
              expect(
                Math.abs(value - theirs[c]),
                `${from} to ${to}, ${colour}: ${value}, colorjs ${theirs[c]}`,
              ).toBeLessThan(1e-4);
          });
        }
      }
    }
  });

  it('gives the published matrix from linear Rec.709 to AP1', () => {
    const published = [
      0.613097, 0.339523, 0.047379, 0.070194, 0.916354, 0.013452, 0.020616, 0.10957, 0.869815,
    ];
    conversionOf('lin_rec709_scene', 'lin_ap1_scene').matrix?.forEach((value, i) => {
      expect(value).toBeCloseTo(published[i], 5);
    });
  });

  it('come back to where they started', () => {
    const spaces = COLOUR_SPACES.filter(isColourSpace);
    for (const from of spaces) {
      for (const to of spaces) {
        for (const colour of COLOURS) {
          convertColour(convertColour(colour, from, to), to, from).forEach((value, c) => {
            expect(value).toBeCloseTo(colour[c], 9);
          });
        }
      }
    }
  });

  it('refuse data', () =>
    expect(() => conversionOf('data', 'srgb_rec709_scene')).toThrow(/names no colour space/));
});
