import { describe, expect, it } from 'vitest';
import { createMaterial } from '../scene/material.ts';
import type { PartChange } from '../scene/partChange.ts';
import type { AssetState } from './asset.ts';
import { reshapedKey, reshapedState } from './reshaped.ts';

const state = (parts: PartChange[], more: Partial<AssetState> = {}) =>
  ({ materials: [createMaterial('Oak', 'metalRough')], parts, ...more }) as AssetState;
const cut: PartChange = { do: 'cut', parts: ['Hull'], by: 'solids' };

describe('the geometry that the view shows', () => {
  it.each<[string, PartChange[]]>([
    ['nothing', []],
    [
      'what the view does itself',
      [
        { do: 'drop', parts: ['a'] },
        { do: 'restore', parts: ['a'] },
        { do: 'rename', names: [{ part: 'a', name: 'b' }] },
        { do: 'turnFaces', parts: ['a'] },
        { do: 'move', parts: ['a'], under: null },
        { do: 'group', parts: ['a'], name: 'g' },
        { do: 'merge', parts: ['a', 'b'], name: 'm' },
        { do: 'pivot', parts: ['a'], at: 'bottom' },
        { do: 'apply', parts: ['a'] },
        { do: 'collision', parts: ['a'], shape: 'hull' },
      ],
    ],
  ])('is the one that was read after %s', (_, parts) => {
    expect([reshapedState(state(parts)), reshapedKey(state(parts), 'hash')]).toEqual([null, null]);
  });

  it.each<PartChange>([
    cut,
    { do: 'normals', parts: ['a'], angle: 60 },
    { do: 'agreeFaces', parts: ['a'] },
    { do: 'reset', parts: ['a'] },
    { do: 'place', parts: ['a'], about: [0, 0, 0], move: [1, 0, 0], turn: [0, 0, 0], scale: 1 },
  ])('is made anew after $do, with what is dropped in it', (change) => {
    const turned: PartChange = { do: 'turnFaces', parts: ['a'] };
    const made = reshapedState(
      state([{ do: 'drop', parts: ['a'] }, turned, change, { do: 'collision', parts: ['a'], shape: 'box' }]),
    );
    expect(made?.parts).toEqual([turned, change]);
  });

  it('goes by a name that only what changes it changes', () => {
    const key = (parts: PartChange[], more: Partial<AssetState> = {}, geometry = 'hash') =>
      reshapedKey(state(parts, more), geometry);
    const own = key([cut]);
    expect(own).toMatch(/^[0-9a-f]{16}$/);
    expect(key([cut, { do: 'drop', parts: ['Hull_1'] }])).toBe(own);
    expect(key([JSON.parse('{"by":"solids","parts":["Hull"],"do":"cut"}')])).toBe(own);
    expect(key([cut], { bindings: {}, merged: {} })).toBe(own);
    const others = [
      key([{ ...cut, by: 'materials' }]),
      key([cut, { do: 'turnFaces', parts: ['Hull_1'] }]),
      key([cut], { bindings: { Hull_1: 'Oak' } }),
      key([cut], { merged: { Elm: 'Oak' } }),
      key([cut], { materials: [] }),
      key([cut], {}, 'other'),
    ];
    expect(new Set([own, ...others]).size).toBe(others.length + 1);
  });
});
