import { describe, expect, it } from 'vitest';
import { distinctNames } from './distinctNames.ts';

describe('short names of paths', () => {
  it('are file names, with folders where these alone would be the same', () => {
    const paths = [
      'boat/mr/hull.png',
      'boat/sg/hull.png',
      'boat/mr/deck.png',
      'a/x/map.png',
      'b/x/map.png',
      'map.png',
      'C:\\quay\\net.png',
    ];
    expect([...distinctNames(paths).values()]).toEqual([
      'mr/hull.png',
      'sg/hull.png',
      'deck.png',
      'a/x/map.png',
      'b/x/map.png',
      'map.png',
      'net.png',
    ]);
  });

  it('are the same for a path that is named twice', () => {
    expect([...distinctNames(['a/hull.png', 'a/hull.png'])]).toEqual([['a/hull.png', 'hull.png']]);
  });
});
