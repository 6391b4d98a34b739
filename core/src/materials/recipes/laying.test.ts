import { describe, expect, it } from 'vitest';
import { image, materialOf } from '../../test/recipes.ts';
import { byMean, layingOf } from './laying.ts';
import { recipeOf } from './recipes.ts';

const pixels = image(2, 1, 3, [255, 0, 0, 255, 255, 0]);
const moved = {
  transform: { offset: [0.5, 0] as [number, number], scale: [1, 1] as [number, number], rotation: 0 },
};

describe('how images lie that are taken together', () => {
  const laying = (use: object) => {
    const { material } = materialOf('specGloss', { baseColor: { pixels }, specularColor: { pixels, use } });
    return layingOf(material, recipeOf('metal-rough'));
  };

  it.each([
    [{}, [], []],
    [{ uvSet: 'st1' }, ['specularColor'], []],
    [moved, ['specularColor'], []],
    [{ wrap: ['clamp', 'repeat'] }, [], ['specularColor']],
    [{ filter: 'nearest' }, [], ['specularColor']],
    [{ component: 'r', invert: true, space: 'data' }, [], []],
  ])('%j', (use, elsewhere, beyond) => {
    expect(laying(use)).toEqual({ elsewhere, beyond });
  });

  it('is asked of images alone', () => {
    const { material } = materialOf('specGloss', { specularColor: { pixels, use: moved } });
    expect(layingOf(material, recipeOf('metal-rough'))).toEqual({ elsewhere: [], beyond: [] });
  });

  it.each(['spec-gloss', 'legacy'])('is asked for %s of base colour and metalness', (id) => {
    const { material } = materialOf('metalRough', {
      baseColor: { pixels },
      metalness: { pixels, use: moved },
    });
    expect(layingOf(material, recipeOf(id)).elsewhere).toEqual(['metalness']);
  });

  it('is not asked of images that are taken each for itself', async () => {
    const light = { value: [0.5, 1, 1] as [number, number, number], pixels };
    const slots = { baseColor: light, emission: { ...light, use: moved } };
    const { material } = materialOf('metalRough', slots);
    expect(recipeOf('bake-tint').reads(material, {})).toHaveLength(2);
    expect(layingOf(material, recipeOf('bake-tint'))).toEqual({ elsewhere: [], beyond: [] });
  });
});

describe('a channel by its mean', () => {
  it('is that of its light, its value included', () => {
    const { inputs } = materialOf('specGloss', { specularColor: { pixels, value: [0.5, 1, 1] } });
    const { value, map } = byMean('specularColor', inputs.specularColor as never);
    expect(value).toEqual([0.5, 0.5, 0]);
    expect(map).toBeNull();
  });

  it('is that of its numbers as they are read', () => {
    const { inputs } = materialOf('metalRough', {
      metalness: { pixels, value: 0.5, use: { component: 'g', invert: true } },
    });
    expect(byMean('metalness', inputs.metalness as never)).toEqual({ value: 0.25, map: null, pixels: null });
  });
});

it('an occlusion that lies elsewhere is divided out of nothing', () => {
  const refusal = (use: object) => {
    const { material } = materialOf('metalRough', { baseColor: { pixels }, occlusion: { pixels, use } });
    return recipeOf('remove-occlusion').refuses(material);
  };
  expect(refusal({ uvSet: 'st1' })).toMatch(/lies elsewhere than the base colour/);
  expect(refusal({ wrap: ['clamp', 'clamp'] })).toBeNull();
});
