import { describe, expect, it } from 'vitest';
import { createMapUse, createMaterial, type MapUse, type Material } from '../../scene/material.ts';
import { image, make, materialOf } from '../../test/recipes.ts';
import { recipeOf } from './recipes.ts';

const white = [1, 1, 1] as [number, number, number];

describe('a recipe by its name', () => {
  it('is found, or refused with the names that there are', () => {
    expect(recipeOf('pad-edges').title).toBe('Pad the edges');
    expect(() => recipeOf('varnish')).toThrow(
      expect.objectContaining({
        code: 'recipe.unknown',
        message: '"varnish" is no recipe',
        hint: 'Use one of metal-rough, spec-gloss, legacy, bake-tint, normal, remove-occlusion, undo-premultiplied, pad-edges.',
      }),
    );
  });

  it('goes on with where a map is laid and how it goes on', async () => {
    const use: Partial<MapUse> = { uvSet: 'map2', wrap: ['clamp', 'mirror'] };
    const result = await make('bake-tint', 'metalRough', {
      baseColor: { value: [0.5, 1, 1], pixels: image(1, 1, 3, [1, 2, 3]), use },
    });
    expect(result.images[0].like).toMatchObject(use);
  });

  it('tells how far it is, between bands of rows', async () => {
    const shares: number[] = [];
    const { material, inputs }: { material: Material; inputs: ReturnType<typeof materialOf>['inputs'] } =
      materialOf('metalRough', {
        baseColor: { value: [0.5, 1, 1], pixels: image(1, 128, 3, new Uint8Array(384)) },
      });
    await recipeOf('bake-tint').make(material, inputs, {}, (share) => void shares.push(share));
    expect(shares).toEqual([0.5, 1]);
    const net = createMapUse('net.png', 'baseColor');
    const pads: number[] = [];
    const edge = { value: white, map: net, pixels: image(1, 64, 4, new Uint8Array(256)) };
    await recipeOf('pad-edges').make(
      createMaterial('Net', 'metalRough'),
      { baseColor: edge },
      { width: 4, solid: 1 },
      (share) => void pads.push(share),
    );
    expect(pads).toEqual([0.7, 1]);
  });
});
