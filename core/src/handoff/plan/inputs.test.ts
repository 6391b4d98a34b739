import { describe, expect, it } from 'vitest';
import { createMapUse } from '../../scene/material.ts';
import { testImage, testMaterial, testState } from '../../test/assets.ts';
import { berth } from '../../test/berth.ts';
import { channelInputs } from './inputs.ts';
import { planPatch } from './patchHandoff.ts';
import { planFor } from './planFor.ts';

const from = { from: 'file' as const, detail: '' };

describe('channels as a shading model sees them', () => {
  it('have gloss as roughness read the other way', () => {
    const glossOf = (value: number, use: { gain?: number; offset?: number; invert?: boolean } | null) => {
      const material = testMaterial('Hull');
      material.channels.roughness = {
        value,
        map: use && createMapUse('r.png', 'roughness', use),
        source: from,
      };
      const { glossiness } = channelInputs(material, 'metalRough');
      return glossiness?.map
        ? [glossiness.value, glossiness.map.invert, glossiness.map.gain, glossiness.map.offset]
        : glossiness?.value;
    };
    expect(glossOf(0.25, null)).toBe(0.75);
    expect(glossOf(1, {})).toEqual([1, true, 1, 0]);
    expect(glossOf(1, { invert: true })).toEqual([1, false, 1, 0]);
    // 1 - 0.5 (0.8 x + 0.1) = -0.4 x + 0.95
    expect(glossOf(0.5, { gain: 0.8, offset: 0.1 })).toEqual([1, false, -0.4, 0.95]);
  });

  it('are taken as they are by spec/gloss, and nothing is made up but the gloss', () => {
    const material = testMaterial('Hull', {
      baseColor: 'b.png',
      specularColor: 's.png',
      coat: 'c.png',
      metalness: 'm.png',
    });
    material.exponent = null;
    const inputs = channelInputs(material, 'specGloss');
    expect(Object.keys(inputs).sort()).toEqual(['baseColor', 'coat', 'glossiness', 'specularColor']);
    expect(inputs.specularColor?.map?.image).toBe('s.png');
    // Without roughness a surface is rough: no gloss.
    expect(inputs.glossiness).toEqual({ value: 0, map: null });
    material.channels.glossiness = { value: 0.3, map: null, source: from };
    expect(channelInputs(material, 'specGloss').glossiness?.value).toBe(0.3);
  });

  it('have a weight of reflection where the material has one', () => {
    const material = testMaterial('Hull');
    expect(Object.keys(channelInputs(material, 'metalRough'))).not.toContain('specular');
    material.channels.specular = { value: 0.4, map: null, source: from };
    expect(channelInputs(material, 'metalRough').specular?.value).toBe(0.4);
  });
});

describe('a source file that is changed itself', () => {
  const material = testMaterial('Hull', {
    baseColor: 'a/skin.tif',
    normal: 'b/skin.tif',
    roughness: 'b/skin.tif',
    coat: 'gone.png',
    emission: 'inside.png',
  });
  const state = testState([material], ['gone.png']);
  state.images = state.images.map((image) =>
    image.key === 'inside.png' ? { ...image, status: 'embedded' as const } : image,
  );
  const images = [
    testImage('a/skin.tif', { format: 'tiff', bitDepth: 16 }),
    testImage('b/skin.tif', { format: 'tiff', components: 1 }),
  ];
  const plan = planPatch(state, images, berth());

  it('takes its images along as they are, each once and under names apart', () => {
    expect(plan.images.map(({ copyOf }) => copyOf)).toEqual(['a/skin.tif', 'b/skin.tif']);
    const [first, second] = plan.images;
    expect(first.file).toBe('skin.tif');
    expect(second.file).toMatch(/^skin.+\.tif$/);
    expect(first.copied).toEqual({ type: 'tiff', depth: 16 });
    expect(first.components.map((one) => one.from === 'image' && one.component)).toEqual(['r', 'g', 'b']);
    expect(second.components).toHaveLength(1);
    expect(plan.materials[0].images.roughness?.file).toBe(plan.materials[0].images.normal?.file);
    expect(plan.materials[0].images.roughness?.use.image).toBe('b/skin.tif');
  });

  it('names what is missing once, and leaves what lies inside it', () => {
    expect(plan.losses).toEqual([{ code: 'image.missing', detail: 'gone.png' }]);
    expect(Object.keys(plan.materials[0].images).sort()).toEqual(['baseColor', 'normal', 'roughness']);
    expect(plan.patched).toBe(true);
  });

  it('is written anew where it cannot be changed, with the reason', () => {
    const prepared = { state, images, done: ['To spec/gloss: Hull'], losses: [] } as unknown as Parameters<
      typeof planFor
    >[0];
    const made = (refusal: string | null, patch: boolean) =>
      planFor({ ...prepared, refusal }, berth({ patch }), 'hull');
    expect(made(null, true)).toMatchObject({
      patched: true,
      prepared: [expect.any(String), 'To spec/gloss: Hull'],
    });
    expect(made('parts were left out', true)).toMatchObject({
      patched: false,
      prepared: ['To spec/gloss: Hull', 'Written anew, since parts were left out'],
    });
    expect(made('it is not the format', false)).toMatchObject({
      patched: false,
      prepared: ['To spec/gloss: Hull'],
    });
  });
});
