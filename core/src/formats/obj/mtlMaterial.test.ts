import { describe, expect, it } from 'vitest';
import { shadingModelOf } from '../../materials/shadingModel.ts';
import { toMaterial } from './mtlMaterial.ts';
import { parseMtl } from './parseMtl.ts';

const read = (...lines: string[]) => {
  const [source] = parseMtl(new TextEncoder().encode(['newmtl Hull', ...lines].join('\n')));
  return toMaterial(source, (written) => ({ key: written, written, relative: null, embedded: null }), []);
};

describe('materials of MTL', () => {
  it('have the shading model that their statements speak of', () => {
    expect(read('map_Kd a.png', 'map_Ks s.png', 'map_Ns g.png', 'norm n.png').workflow).toBe('specGloss');
    expect(read('map_Kd a.png', 'map_Ks s.png', 'norm n.png').workflow).toBe('legacy');
    // Painted for spec/gloss, with roughness for gloss.
    const painted = read('map_Kd a.png', 'map_Ks s.png', 'map_Pr r.png');
    expect([painted.workflow, shadingModelOf(painted)]).toEqual(['legacy', 'specGloss']);
    expect(read('map_Kd a.png', 'map_Ks s.png', 'map_Pr r.png', 'Pm 0').workflow).toBe('metalRough');
    expect(read('map_Kd a.png', 'Ks 1 1 1', 'Pr 0.3').workflow).toBe('metalRough');
    expect(read('map_Kd a.png', 'norm n.png').workflow).toBe('metalRough');
    expect(read('Kd 1 1 1', 'Ns 20').workflow).toBe('legacy');
  });

  it('keep a classic highlight beside modern words for readers who know no other', () => {
    const modern = read('Ks 0.5 0.5 0.5', 'Pr 0.3', 'Pm 1');
    expect(modern.channels.specularColor).toBeUndefined();
    expect(modern.extras['classic highlight']).toBe('0.5 0.5 0.5');
    expect(read('Ks 0.5 0.5 0.5', 'Ns 20').channels.specularColor?.value).toEqual([0.5, 0.5, 0.5]);
    expect(read('map_Ks s.png', 'Pm 1').channels.specularColor?.map?.image).toBe('s.png');
  });

  it('have no index of refraction where 0 is written for none', () => {
    expect(read('Ni 1.33').channels.ior?.value).toBe(1.33);
    expect(read('Ni 0').channels.ior).toBeUndefined();
    expect(read('Ni 0').extras.Ni).toBe('0');
  });

  it('read base 1 and gain -1 as an inversion, and other numbers as they are', () => {
    expect(read('map_Pr -mm 1 -1 gloss.png').channels.roughness?.map).toMatchObject({
      invert: true,
      gain: 1,
      offset: 0,
    });
    expect(read('map_Pr -mm 0.2 0.5 rough.png').channels.roughness?.map).toMatchObject({
      invert: false,
      gain: 0.5,
      offset: 0.2,
    });
  });

  it('have the amount of relief where relief is, that of normals in their strength, and nowhere else', () => {
    const { channels } = read(
      'map_Bump -bm 0.4 b.png',
      'disp -bm 0.2 h.png',
      'norm -bm 2 n.png',
      'map_Kd -bm 3 a.png',
    );
    expect([channels.bump?.value, channels.height?.value]).toEqual([0.4, 0.2]);
    expect([channels.normal?.map?.strength, channels.bump?.map?.strength]).toEqual([2, undefined]);
    expect(channels.baseColor?.value).toEqual(read('map_Kd a.png').channels.baseColor?.value);
    expect(read('norm -bm 1 n.png').channels.normal?.map?.strength).toBeUndefined();
  });

  it('read colours however far apart their numbers stand, and one number as a grey', () => {
    expect(read('Kd  0.1\t0.2   0.3').channels.baseColor?.value).toEqual([0.1, 0.2, 0.3]);
    expect(read('Kd 0.4').channels.baseColor?.value).toEqual([0.4, 0.4, 0.4]);
  });
});
