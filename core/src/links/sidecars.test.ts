import { describe, expect, it } from 'vitest';
import { findSidecars } from './sidecars.ts';

const file = (path: string, width = 512, height = width) => ({ path, width, height });

describe('converted copies', () => {
  it('are files of the same folder, stem and shape and another type, halved any number of times', () => {
    const files = [
      file('t/hull.png'),
      file('t/hull.exr'),
      file('t/hull.dds', 128),
      file('t/hull_n.exr'),
      file('u/hull.exr'),
    ];
    expect(findSidecars(files, new Set(['t/hull.png']))).toEqual([
      { path: 't/hull.exr', original: 't/hull.png' },
      { path: 't/hull.dds', original: 't/hull.png' },
    ]);
  });

  it('are never files that the model names', () => {
    expect(findSidecars([file('hull.png'), file('hull.exr')], new Set(['hull.png', 'hull.exr']))).toEqual([]);
    expect(findSidecars([file('hull.png'), file('hull.exr')], new Set(['hull.exr']))).toEqual([
      { path: 'hull.png', original: 'hull.exr' },
    ]);
  });

  it('are not images of another shape', () => {
    expect(findSidecars([file('hull.png', 512), file('hull.jpg', 300)], new Set())).toEqual([]);
    expect(findSidecars([file('hull.png', 512, 512), file('hull.jpg', 256, 512)], new Set())).toEqual([]);
  });

  it('are copies of the most usual type, and of the first by name where types say nothing', () => {
    expect(findSidecars([file('hull.ktx2'), file('hull.exr'), file('hull.tif')], new Set())).toEqual([
      { path: 'hull.exr', original: 'hull.tif' },
      { path: 'hull.ktx2', original: 'hull.tif' },
    ]);
    expect(findSidecars([file('hull.png'), file('Hull.png')], new Set())).toEqual([
      { path: 'hull.png', original: 'Hull.png' },
    ]);
    expect(findSidecars([file('b/hull.PNG'), file('b/HULL.png')], new Set())).toEqual([
      { path: 'b/hull.PNG', original: 'b/HULL.png' },
    ]);
  });

  it('lie in the folder of the original', () => {
    expect(findSidecars([file('a/hull.png'), file('b/hull.exr')], new Set())).toEqual([]);
  });

  it('may be larger by doublings, and are told apart from other shapes within two hundredths of one', () => {
    const of = (width: number, height = width) =>
      findSidecars([file('hull.png', 1024), file('hull.exr', width, height)], new Set()).length;
    expect([of(2048), of(512), of(1024, 512), of(1000), of(1020), of(700)]).toEqual([1, 1, 0, 0, 1, 0]);
  });
});
