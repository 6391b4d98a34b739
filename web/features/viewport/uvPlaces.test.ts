import { describe, expect, it } from 'vitest';
import { uvNames, uvPlace } from './uvPlaces.ts';

describe('UV sets in the view', () => {
  it('stand where they are listed, unless the source says otherwise', () => {
    const listed = { uvSets: ['map1', 'light'] };
    expect([null, 'map1', 'light', 'gone'].map((name) => uvPlace(listed, name))).toEqual([0, 0, 1, 0]);
    expect(uvNames(listed)).toEqual(['map1', 'light']);
    // Two parts whose only set has another name, and one with a second.
    const placed = { uvSets: ['map1', 'UVMap', 'light'], uvPlaces: { map1: 0, UVMap: 0, light: 1 } };
    expect(['map1', 'UVMap', 'light'].map((name) => uvPlace(placed, name))).toEqual([0, 0, 1]);
    expect(uvNames(placed)).toEqual(['map1, UVMap', 'light']);
  });

  it('have no name where nothing stands', () => {
    expect(uvNames({ uvSets: ['b'], uvPlaces: { b: 1 } })).toEqual(['', 'b']);
  });
});
