import { expect, it } from 'vitest';
import { needsLook } from '../../server/wire/compared.ts';
import { comparedWords } from './comparedWords.ts';

it('each package is told about by its destination, and what needs a look is marked', () => {
  const one = (
    verdict: 'same' | 'different' | 'changed' | 'unreadable',
    differences = 0,
    reason: string | null = null,
  ) => ({
    destination: 'web-gltf',
    verdict,
    differences,
    reason,
  });
  expect(
    [
      one('same'),
      one('different', 1),
      one('different', 12),
      one('changed'),
      one('unreadable', 0, 'the content is gone'),
    ].map((row) => comparedWords([row])[0]),
  ).toEqual([
    'web-gltf: as the asset is',
    'web-gltf: 1 difference',
    'web-gltf: 12 differences',
    'web-gltf: the asset was changed since',
    'web-gltf: the content is gone',
  ]);
  expect(comparedWords([])).toEqual(['there is no package to compare with']);
  expect([[one('same')], [one('same'), one('changed')], []].map(needsLook)).toEqual([false, true, true]);
});
