import { expect, it } from 'vitest';
import { standIn } from './standIn.ts';

const use = (component: 'rgb' | 'r' | 'g' | 'a' | 'luminance', invert = false, gain = 1, offset = 0) => ({
  component,
  invert,
  gain,
  offset,
});

it('stands for an image as that would be stored, so that nothing is black, clear or a mirror meanwhile', () => {
  expect(standIn('baseColor', use('rgb'))).toEqual([0.7, 0.7, 0.7, 1]);
  expect(standIn('normal', use('rgb'))).toEqual([0.5, 0.5, 1, 1]);
  expect(standIn('emission', use('rgb'))).toEqual([0, 0, 0, 1]);
  expect(standIn('opacity', use('luminance'))).toEqual([1, 1, 1, 1]);
  // An image of what is clear is black where all is there.
  expect(standIn('opacity', use('luminance', true))).toEqual([0, 0, 0, 1]);
  expect(standIn('roughness', use('g'))).toEqual([1, 0.6, 0, 1]);
  const [red, , , alpha] = standIn('roughness', use('r', false, -1, 1));
  expect([red, alpha]).toEqual([expect.closeTo(0.4), 1]);
  expect(standIn('roughness', use('a', false, 0.1, 0))[3]).toBe(1);
  expect(standIn('metalness', use('r'))).toEqual([0, 0.6, 0, 1]);
});
