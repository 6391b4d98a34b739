import { testMaterial } from '@kinkajou/core/test/assets';
import { expect, test, vi } from 'vitest';
import { recipeFinder } from './recipeFinder.ts';

/** A net that can be padded, since its colour has an alpha, and a hull that cannot. */
function netAndHull() {
  const alpha = { image: 'net_c.png', component: 'a' } as const;
  return [testMaterial('Net', { baseColor: 'net_c.png', opacity: alpha }), testMaterial('Hull')].map(
    (material) => ({ ...material, key: material.name }),
  );
}

function listed(chosen: string[], id: string) {
  const open = vi.fn();
  const slots = chosen.map((material) => ({ material, channel: 'baseColor' as const }));
  const found = recipeFinder(netAndHull(), () => slots, open)
    .find()
    .find(({ key }) => key === id);
  return { found, open };
}

test('a recipe opens for those of the chosen materials that have what it needs', () => {
  const { found, open } = listed(['Hull'], 'spec-gloss');
  expect(found).toMatchObject({ title: 'To spec/gloss', detail: 'Hull' });
  expect(found?.words).toMatch(/^make new images .*glossiness/);
  found?.go();
  expect(open).toHaveBeenCalledExactlyOnceWith({ materials: ['Hull'], recipe: 'spec-gloss', params: {} });
});

test('it opens for all others that have it where none of the chosen does, and is not offered where none has', () => {
  expect(listed(['Hull'], 'pad-edges').found?.detail).toBe('Net');
  expect(listed([], 'spec-gloss').found?.detail).toBe('2 materials');
  expect(listed(['Net'], 'metal-rough').found).toBeUndefined();
});
