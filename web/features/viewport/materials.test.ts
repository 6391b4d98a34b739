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

it('what dielectrics reflect is tinted and weighed as metal/rough says it', () => {
  const source = { from: 'file' as const, detail: '' };
  const drawn = (workflow: Material['workflow']) =>
    createViewMaterial(
      hull({
        workflow,
        channels: {
          specular: { value: 0.5, map: null, source },
          specularColor: { value: [1, 0.5, 0.25], map: null, source },
        },
      }),
      context(false),
    ).shown as MeshPhysicalMaterial;
  const { specularColor, specularIntensity, ior } = drawn('metalRough');
  expect([specularColor.toArray(), specularIntensity, ior]).toEqual([[1, 0.5, 0.25], 0.5, 1.5]);
  // A classic colour is the strength of a highlight.
  expect(drawn('legacy').specularColor.toArray()).toEqual([1, 1, 1]);
});
