import Color from 'colorjs.io';
import { expect, it } from 'vitest';
import { byteOfLight } from './byteOfLight.ts';

it('light becomes the byte that sRGB has for it, everywhere between black and white', () => {
  const expected = (light: number) =>
    Math.round((new Color('srgb-linear', [light, light, light]).to('srgb').coords[0] ?? 0) * 255);
  for (let i = 0; i <= 5000; i += 1) expect(byteOfLight(i / 5000), String(i / 5000)).toBe(expected(i / 5000));
  for (let i = 0; i <= 300; i += 1) expect(byteOfLight(i / 100_000)).toBe(expected(i / 100_000));
  expect([byteOfLight(-1), byteOfLight(0), byteOfLight(7), byteOfLight(Number.NaN)]).toEqual([0, 0, 255, 0]);
});
