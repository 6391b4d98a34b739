import { expect, test } from 'vitest';
import { patiently } from './patiently.ts';

/** As the loader of pieces throws it; the browser test of a bad day has a real one. */
const lost = () => Object.assign(new Error('a piece is lost'), { name: 'ChunkLoadError' });

test('a piece that does not come is asked for again until it does', async () => {
  let asked = 0;
  const load = async () => {
    asked += 1;
    if (asked < 4) throw lost();
    return 'view';
  };
  expect(await patiently(load, 1)).toBe('view');
  expect(asked).toBe(4);
});

test('a piece that came and fails is not asked for again', async () => {
  let asked = 0;
  const load = async () => {
    asked += 1;
    throw new TypeError('no such function');
  };
  await expect(patiently(load, 1)).rejects.toThrow('no such function');
  expect(asked).toBe(1);
});
