import { describe, expect, it } from 'vitest';
import { DESTINATIONS, findDestination } from './destinations.ts';
import { fillName } from './names.ts';
import { type Destination, parseProfile } from './profile.ts';
import { resolveChoices } from './resolveChoices.ts';

const engine = findDestination('engine-packed') as Destination;
const plain = () => JSON.parse(JSON.stringify(engine)) as Record<string, unknown> & Destination;

describe('profiles', () => {
  it('of version 1 become ones of today: their prefix is a template', () => {
    const { names: _names, size: _size, split: _split, ...old } = plain();
    const upgraded = parseProfile({ ...old, profile: 1, prefix: 'Q_' });
    expect(upgraded).toMatchObject({
      profile: 2,
      names: { map: 'Q_{material}_{suffix}', file: '{asset}_{part}' },
      split: 'one',
      size: 0,
    });
  });

  it('are refused with the field that is wrong', () => {
    const refused: [Partial<Record<keyof Destination, unknown>>, RegExp][] = [
      [{ split: 'rooms' }, /split/],
      [{ names: { ...engine.names, map: '{material}' } }, /\{suffix\}/],
      [{ names: { ...engine.names, map: '../{suffix}' } }, /names\.map/],
      [{ names: { ...engine.names, file: '{part}' } }, /names\.file/],
      [{ split: 'groups', names: { ...engine.names, file: '{asset}' } }, /\{part\}/],
      [{ folder: '/etc' }, /folder/],
      [{ folder: 'a//b' }, /folder/],
      [{ collision: { shape: 'box', name: 'shape' } }, /collision\.name/],
      [{ variants: ['fbx', 'glb'] }, /glb/],
      [{ variants: ['obj'] }, /no variant obj/],
      [{ maps: [{ ...engine.maps[0], type: 'exr', depth: 8 }] }, /holds no 8 bits/],
      [{ maps: [engine.maps[0], { ...engine.maps[1], name: engine.maps[0].name }] }, /maps/],
      [
        {
          maps: [
            { ...engine.maps[0], components: [...engine.maps[0].components, engine.maps[1].components[0]] },
          ],
        },
        /more than four/,
      ],
      [{ choices: ['colour'] }, /choices/],
      [{ format: 'gltf', variants: ['glb'], upAxis: 'Z' }, /always Y up/],
      [
        { format: 'gltf', variants: ['glb'], upAxis: 'Y', metresPerUnit: 1, normalY: 'Y+' },
        /glTF takes PNG maps/,
      ],
      [{ unknown: 1 } as never, /unknown/],
    ];
    const web = JSON.parse(JSON.stringify(findDestination('web-gltf'))) as Destination;
    const [base, orm, ...rest] = web.maps;
    refused.push(
      [{ ...web, normalY: 'Y-' }, /point Y\+/],
      [{ ...web, parts: 'solids' }, /share their materials/],
      [{ ...web, workflow: 'specGloss' }, /metal\/rough/],
      [
        { ...web, maps: [base, { ...orm, components: [...orm.components].reverse() }, ...rest] },
        /set by glTF: occlusion,roughness,metalness/,
      ],
      [
        { ...web, maps: [{ ...base, alpha: { channel: 'roughness', part: 0, empty: 1 } }, orm, ...rest] },
        /alpha of "baseColor" is set by glTF: opacity, or null/,
      ],
      [{ ...web, maps: [base, { ...orm, alpha: base.alpha }, ...rest] }, /set by glTF: null/],
    );
    for (const [change, message] of refused)
      expect(() => parseProfile({ ...plain(), ...change }), JSON.stringify(change)).toThrow(message);
    expect(() => parseProfile(null)).toThrow(/not valid/);
  });

  it('mix formats where these are written alike', () => {
    expect(parseProfile({ ...plain(), variants: ['fbx', 'obj', 'usdz'] }).variants).toHaveLength(3);
  });
});

describe('names by template', () => {
  it('leave out what stands for nothing, with the separator beside it', () => {
    expect(fillName('{asset}_{part}', { asset: 'lantern', part: '' }, 'x')).toBe('lantern');
    expect(fillName('{asset}_{part}', { asset: 'kit', part: 'lamps' }, 'x')).toBe('kit_lamps');
    expect(fillName('T_{material}_{suffix}', { material: 'Öl & Teer', suffix: 'BC' }, 'x')).toBe(
      'T_Ol_Teer_BC',
    );
    expect(fillName('{part}-{asset}', { asset: 'kit', part: '' }, 'x')).toBe('kit');
    expect(fillName('{asset}', { asset: '///' }, 'asset')).toBe('asset');
  });
});

describe('settling', () => {
  it('takes the first variant, and the format that the variant says', () => {
    expect(resolveChoices(engine)).toMatchObject({ variant: 'fbx', format: 'fbx' });
    const parts = findDestination('building-parts') as Destination;
    expect(resolveChoices(parts, { variant: 'usdc' })).toMatchObject({
      variant: 'usdc',
      format: 'usd',
      variants: ['usdc'],
    });
    expect(() => resolveChoices(engine, { variant: 'glb' })).toThrow(/no variant "glb"/);
  });

  it('takes size, unit and type only where the destination leaves them open', () => {
    const [classic, garment, gloss] = ['compositor-classic', 'garment-figure', 'engine-gloss-alpha'].map(
      (id) => findDestination(id) as Destination,
    );
    expect(resolveChoices(classic, { size: 2.5 }).size).toBe(2.5);
    expect(resolveChoices(garment, { metresPerUnit: 0.001 }).metresPerUnit).toBe(0.001);
    expect(resolveChoices(gloss, { type: 'tga' }).maps.every(({ type }) => type === 'tga')).toBe(true);
    for (const choice of [{ size: 2 }, { metresPerUnit: 2 }, { type: 'tga' as const }])
      expect(() => resolveChoices(engine, choice)).toThrow(/does not leave/);
    expect(() => resolveChoices(classic, { size: -1 })).toThrow(/no size/);
    expect(() => resolveChoices(garment, { metresPerUnit: 0 })).toThrow(/no unit/);
    // Saying what is so anyway is no choice.
    expect(resolveChoices(engine, { size: 0, metresPerUnit: 0.01 }).size).toBe(0);
    expect(DESTINATIONS.every((destination) => resolveChoices(destination).variants.length === 1)).toBe(true);
  });
});
