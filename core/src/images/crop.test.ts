import { expect, it } from 'vitest';
import { cropBuffer, resizeBuffer } from './components.ts';
import { heatPicture } from './heat.ts';

const numbered = { width: 4, height: 3, components: 2, data: Uint8Array.from({ length: 24 }, (_, i) => i) };

it('cuts a window, moved so that it lies inside', () => {
  // Pixel (x, y) holds 8 y + 2 x and the number after it.
  expect([...cropBuffer(numbered, { left: 1, top: 1, width: 2, height: 2 }).data]).toEqual([
    10, 11, 12, 13, 18, 19, 20, 21,
  ]);
  expect([...cropBuffer(numbered, { left: 3, top: 2, width: 2, height: 2 }).data]).toEqual([
    12, 13, 14, 15, 20, 21, 22, 23,
  ]);
  expect(cropBuffer(numbered, { left: -5, top: -5, width: 99, height: 99 })).toMatchObject({
    width: 4,
    height: 3,
  });
});

it('resamples each component by itself, alpha too', () => {
  const { width, height, data } = resizeBuffer(numbered, 2, 3);
  expect([width, height]).toEqual([2, 3]);
  // Means of two neighbours: (0 + 2) / 2 = 1, (1 + 3) / 2 = 2.
  expect([...data.slice(0, 4)]).toEqual([1, 2, 5, 6]);
});

it('colours differences from dark to light, never darker for more', () => {
  const { data } = heatPicture({
    width: 256,
    height: 1,
    components: 1,
    data: Uint8Array.from({ length: 256 }, (_, i) => i),
  });
  expect([...data.slice(0, 3)]).toEqual([16, 24, 20]);
  expect([...data.slice(255 * 3)]).toEqual([255, 252, 244]);
  for (let i = 1; i <= 51; i += 1) expect(data[i * 3 + 1]).toBeGreaterThanOrEqual(data[(i - 1) * 3 + 1]);
});
