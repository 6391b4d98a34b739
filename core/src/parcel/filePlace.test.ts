import { describe, expect, it } from 'vitest';
import { type FilePlace, isElsewhere, pathOf, placeOf } from './filePlace.ts';

const ID = '0f3b1c2d-0000-4000-8000-00000000000a';

describe('where a file lies', () => {
  it.each<[string, FilePlace, boolean]>([
    ['maps/hull.png', { in: 'parcel', path: 'maps/hull.png' }, false],
    ['embedded/hull.png', { in: 'model', path: 'hull.png' }, false],
    ['search/12/a/hull.png', { in: 'searchFolder', folder: 12, path: 'a/hull.png' }, true],
    [`parcels/${ID}/hull.png`, { in: 'otherParcel', parcel: ID, path: 'hull.png' }, true],
    // A parcel's own folders may be called the same.
    ['search/hull.png', { in: 'parcel', path: 'search/hull.png' }, false],
    ['search/one/hull.png', { in: 'parcel', path: 'search/one/hull.png' }, false],
    ['parcels/2/hull.png', { in: 'parcel', path: 'parcels/2/hull.png' }, false],
    ['search/3/', { in: 'parcel', path: 'search/3/' }, false],
  ])('%s', (path, place, elsewhere) => {
    expect(placeOf(path)).toEqual(place);
    expect(pathOf(place)).toBe(path);
    expect(isElsewhere(path)).toBe(elsewhere);
  });
});
