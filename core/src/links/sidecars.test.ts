import { describe, expect, it } from 'vitest';
import { findSidecars } from './sidecars.ts';

const file = (path: string, width = 512, height = width) => ({ path, width, height });

describe('converted copies', () => {
  it('are files of the same folder, stem and shape and another type, halved any number of times', () => {
    const files = [file('t/hull.png'), file('t/hull.exr'), file('t/hull.dds', 128), file('t/hull_n.exr'), file('u/hull.exr')];
    expect(findSidecars(files, new Set(['t/hull.png']))).toEqual([
      { path: 't/hull.exr', original: 't/hull.png' },
      { path: 't/hull.dds', original: 't/hull.png' },
    ]);
  });

  it('are never files that the model names', () => {
    expect(findSidecars([file('hull.png'), file('hull.exr')], new Set(['hull.png', 'hull.exr']))).toEqual([]);
    expect(findSidecars([file('hull.png'), file('hull.exr')], new Set(['hull.exr']))).toEqual([{ path: 'hull.png', original: 'hull.exr' }]);
  });

  it('are not images of another shape', () => {
    expect(findSidecars([file('hull.png', 512), file('hull.jpg', 300)], new Set())).toEqual([]);
    expect(findSidecars([file('hull.png', 512, 512), file('hull.jpg', 256, 512)], new Set())).toEqual([]);
  });
});
