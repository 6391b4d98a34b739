import { expect, it } from 'vitest';
import { Cloud } from './cloud.ts';

it('a place is one within the tolerance, on either side of a cell', () => {
  const cloud = new Cloud(0.01);
  expect(cloud.add(0, 0, 0)).toBe(0);
  expect(cloud.add(0.005, 0, 0)).toBe(0);
  expect(cloud.add(-0.005, 0.004, 0)).toBe(0);
  expect(cloud.add(0.02, 0, 0)).toBe(1);
  expect(cloud.add(0, 0.02, 0)).toBe(2);
  expect(cloud.add(0, 0, 0.02)).toBe(3);
  expect([cloud.size, cloud.places]).toEqual([4, [0, 0, 0, 0.02, 0, 0, 0, 0.02, 0, 0, 0, 0.02]]);
  expect([cloud.find(0.021, 0, 0), cloud.find(0, -0.011, 0), cloud.find(5, 5, 5)]).toEqual([1, -1, -1]);
});

it('looks as far as it is told', () => {
  const cloud = new Cloud(0.01);
  cloud.add(0, 0, 0);
  expect([0.014, 0.016].map((x) => cloud.find(x, 0, 0))).toEqual([-1, -1]);
  expect([0.014, 0.016].map((x) => cloud.find(x, 0, 0, 0.015))).toEqual([0, -1]);
  expect(cloud.find(-0.0199, 0, 0, 0.02)).toBe(0);
});

it('tells all places within twice the tolerance', () => {
  const cloud = new Cloud(0.01);
  for (const x of [0, 0.015, 0.03, -0.019, -0.021]) cloud.add(x, 0, 0);
  expect(cloud.near(0, 0, 0).sort()).toEqual([0, 1, 3]);
  expect(cloud.near(0.03, 0.0199, 0)).toEqual([2]);
  expect(cloud.near(1, 1, 1)).toEqual([]);
});

it('finds every one of many, and of several the nearest', () => {
  const cloud = new Cloud(0.25);
  const places = Array.from({ length: 500 }, (_, i) => [
    (i % 10) - 5,
    (Math.floor(i / 10) % 10) - 5,
    Math.floor(i / 100),
  ]);
  places.forEach(([x, y, z], i) => expect(cloud.add(x, y, z)).toBe(i));
  places.forEach(([x, y, z], i) => expect(cloud.find(x + 0.1, y - 0.1, z + 0.1)).toBe(i));
  const close = new Cloud(0.5);
  close.add(0, 0, 0);
  close.add(0.6, 0, 0);
  expect([close.find(0.25, 0, 0), close.find(0.35, 0, 0)]).toEqual([0, 1]);
});

it('without a tolerance takes only what is the very same', () => {
  const cloud = new Cloud(0);
  cloud.add(0.1, 0.2, 0.3);
  expect([cloud.find(0.1, 0.2, 0.3), cloud.find(0.1, 0.2, 0.3001)]).toEqual([0, -1]);
});

it('ends far out, where a cell more is the same number', () => {
  const cloud = new Cloud(1e-5);
  expect(cloud.add(1e300, -1e300, 3e200)).toBe(0);
  expect(cloud.find(1e300, -1e300, 3e200)).toBe(0);
  expect(cloud.find(1e299, -1e300, 3e200)).toBe(-1);
});
