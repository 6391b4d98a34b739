import { TAKE_ALL } from '@kinkajou/core/scene/intake';
import { createMapUse, createMaterial, type Material } from '@kinkajou/core/scene/material';
import { type MeshPhysicalMaterial, Texture } from 'three';
import { expect, it } from 'vitest';
import { createViewMaterial, lookOf, type MaterialContext } from './materials.ts';
import type { TextureStore } from './textures.ts';

const context = (coloured: boolean, mode: MaterialContext['mode'] = 'lit'): MaterialContext => ({
  state: { materials: [], images: [], intake: TAKE_ALL },
  images: new Map(),
  // Pictures are drawn in browsers alone.
  textures: { missing: () => new Texture() } as unknown as TextureStore,
  mode,
  uvSet: 0,
  wireframe: false,
  displaced: false,
  metresPerUnit: 1,
  density: 0,
  coloured,
});

const hull = (more: Partial<Material> = {}): Material => ({
  ...createMaterial('Hull', 'metalRough'),
  ...more,
});

it('colours of points are drawn where parts have them and the material shows them', () => {
  const drawn = (material: Material, of: MaterialContext) =>
    (createViewMaterial(material, of).shown as MeshPhysicalMaterial).vertexColors;
  const map = createMapUse('tide.png', 'baseColor', {});
  const imaged = {
    baseColor: {
      value: [1, 1, 1] as [number, number, number],
      map,
      source: { from: 'file' as const, detail: '' },
    },
  };
  expect(drawn(hull(), context(true))).toBe(true);
  // A shader without the attribute would draw black.
  expect(drawn(hull(), context(false))).toBe(false);
  expect(drawn(hull({ colours: 'passed' }), context(true))).toBe(false);
  expect(drawn(hull({ channels: imaged }), context(true))).toBe(false);
  expect(drawn(hull({ channels: imaged, colours: 'shown' }), context(true))).toBe(true);
  expect(drawn(hull(), context(true, 'baseColor'))).toBe(true);
  expect(drawn(hull(), context(true, 'roughness'))).toBe(false);
  expect(lookOf(hull(), context(true))).not.toBe(lookOf(hull(), context(false)));
});
