import { expect, it } from 'vitest';
import { testMaterial } from '../test/assets.ts';
import { createReadPaths } from './readPath.ts';

it('takes what was made of an image for that image, where the model names one in the slot', () => {
  const source = {
    materials: [testMaterial('Lash', { baseColor: 'lash.png', opacity: 'lost.png' }), testMaterial('Skin')],
  };
  const paths = createReadPaths(source, (key) => (key.endsWith('lost.png') ? null : key));
  const read = (name: string, maps: Parameters<typeof testMaterial>[1]) => [
    ...paths(testMaterial(name, maps)),
  ];
  const own = testMaterial('Lash', { baseColor: 'lash.png' }).channels.baseColor?.map?.image ?? '';
  expect(read('Lash', { baseColor: 'made/lash_1f.png' })).toEqual([['baseColor', own]]);
  // Another one in its place, one where the model has none, and one whose image is not there.
  const image = (path: string) => testMaterial('x', { normal: path }).channels.normal?.map?.image;
  expect(read('Lash', { baseColor: 'other.png', normal: 'made/n.png' })).toEqual([
    ['baseColor', image('other.png')],
    ['normal', image('made/n.png')],
  ]);
  expect(read('Lash', { opacity: 'made/lash_a.png' })).toEqual([['opacity', image('made/lash_a.png')]]);
  expect(read('Skin', { baseColor: 'made/skin.png' })).toEqual([['baseColor', image('made/skin.png')]]);
});
