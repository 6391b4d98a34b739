import { expect, it } from 'vitest';
import { createMapUse, createMaterial } from '../scene/material.ts';
import type { AssetImage, ParcelImage } from './asset.ts';
import { tagAsUsdReads } from './unstatedTags.ts';

/** The space in which a reader of USD takes an image, stated as data or left to it. */
function taken(bitDepth: 8 | 16 | 32, components: number, floating = false, stated = false) {
  const material = createMaterial('Hull', 'metalRough');
  const use = createMapUse('a.png', 'normal', stated ? {} : { spaceFrom: 'unstated' });
  material.channels.normal = { value: [1, 1, 1], map: use, source: { from: 'file', detail: '' } };
  const info = { format: 'png' as const, width: 1, height: 1, bitDepth, components, floating };
  const file: ParcelImage = { path: 'a.png', size: 1, sha256: '', modified: null, info, fault: null };
  const image: AssetImage = {
    key: 'a.png',
    written: 'a.png',
    relative: null,
    status: 'found',
    resolved: 'a.png',
    how: '',
  };
  return tagAsUsdReads([material], [image], [file])[0].channels.normal?.map?.space;
}

it('leaves the space to the image as UsdPreviewSurface does: 8 bits of three or four components are sRGB', () => {
  expect(taken(8, 3)).toBe('srgb_rec709_scene');
  expect(taken(8, 4)).toBe('srgb_rec709_scene');
  for (const other of [taken(8, 1), taken(8, 2), taken(16, 3), taken(32, 3, true), taken(8, 3, false, true)])
    expect(other).toBe('data');
});
