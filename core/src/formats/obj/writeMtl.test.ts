import { describe, expect, it } from 'vitest';
import { createDocument } from '../../scene/document.ts';
import type { Loss } from '../../scene/loss.ts';
import {
  type Channel,
  type ChannelName,
  createMapUse,
  createMaterial,
  type MapUse,
  type Material,
} from '../../scene/material.ts';
import { Losses } from '../written.ts';
import { writeMtl } from './writeMtl.ts';

/** A material of values, and of maps where a second entry says how they are read. */
function material(
  name: string,
  workflow: Material['workflow'],
  channels: Partial<Record<ChannelName, { value?: Channel['value']; map?: Partial<MapUse> }>>,
): Material {
  const made = createMaterial(name, workflow);
  for (const [channel, { value = 1, map }] of Object.entries(channels) as [
    ChannelName,
    { value?: Channel['value']; map?: Partial<MapUse> },
  ][])
    made.channels[channel] = {
      value,
      map: map ? createMapUse(map.image ?? 'a.png', channel, map) : null,
      source: { from: 'file', detail: '' },
    };
  return made;
}

function write(...materials: Material[]): { lines: string[]; losses: readonly Loss[] } {
  const document = createDocument('obj', 'OBJ');
  document.materials.push(...materials);
  document.images.push({ key: 'a.png', written: 'a.png', relative: null, embedded: null });
  const losses = new Losses();
  const text = new TextDecoder().decode(
    writeMtl(document, ({ written }) => ({ path: `maps/${written}`, embed: null }), losses),
  );
  return { lines: text.split('\n').filter((line) => line !== ''), losses: losses.list() };
}

/** What is written for one map of a channel. */
const mapLine = (channel: ChannelName, map: Partial<MapUse>, value: Channel['value'] = 1) =>
  write(material('M', 'metalRough', { [channel]: { value, map } })).lines.filter((line) =>
    / maps\//.test(line),
  );

describe('a material library, line by line', () => {
  it('has classic and modern words for a modern material', () => {
    const { lines, losses } = write(
      material('Hull', 'metalRough', {
        baseColor: { value: [0.5, 0.25, 0] },
        emission: { value: [0, 0, 2] },
        metalness: { value: 1 },
        roughness: { value: 0.5 },
        ior: { value: 1.45 },
        opacity: { value: 0.75 },
        sheenColor: { value: [0.1, 0.2, 0.3] },
        coat: { value: 0.5 },
        coatRoughness: { value: 0.25 },
      }),
    );
    expect(lines).toEqual([
      'newmtl Hull',
      'Kd 0.5 0.25 0',
      'Ke 0 0 2',
      // 2 / 0.5^4 - 2.
      'Ns 30',
      'Ni 1.45',
      'd 0.75',
      'Pr 0.5',
      'Pm 1',
      'Ps 0.1 0.2 0.3',
      'Pc 0.5',
      'Pcr 0.25',
      'illum 4',
    ]);
    expect(losses).toEqual([]);
  });

  it('has classic words alone for a classic one', () => {
    const made = material('Hull', 'legacy', {
      baseColor: { value: [1, 1, 1] },
      specularColor: { value: [0.2, 0.2, 0.2] },
      metalness: { value: 1 },
    });
    made.exponent = 64;
    expect(write(made).lines).toEqual(['newmtl Hull', 'Kd 1 1 1', 'Ks 0.2 0.2 0.2', 'Ns 64', 'illum 2']);
  });

  it('names materials by their key where names repeat, on one line', () => {
    const [first, second] = [material('Hull', 'metalRough', {}), material('Hull', 'metalRough', {})];
    second.key = 'Hull#2';
    expect(
      write(first, second, material('Deck\nplate', 'metalRough', {})).lines.filter((line) =>
        line.startsWith('newmtl'),
      ),
    ).toEqual(['newmtl Hull', 'newmtl Hull#2', 'newmtl Deck plate']);
  });

  it('says what it has no word for', () => {
    const { losses } = write(
      material('Hull', 'metalRough', {
        transmission: { value: 0.5 },
        subsurface: { value: [1, 0, 0] },
        specular: { map: {} },
        coat: { map: { image: 'gone.png' } },
      }),
    );
    expect(losses.map(({ code, channel }) => [code, channel])).toEqual([
      ['mtl.noWord', 'transmission'],
      ['mtl.noWord', 'subsurface'],
      ['mtl.noMapWord', 'specular'],
      ['mtl.noMapWord', 'coat'],
    ]);
    expect(write(material('Hull', 'metalRough', { transmission: { value: 0 } })).losses).toEqual([]);
    // A tint of what reflects is no classic highlight.
    const tinted = write(material('Hull', 'metalRough', { specularColor: { value: [1, 0.5, 0.2] } }));
    expect(tinted.losses.map(({ code, channel }) => [code, channel])).toEqual([
      ['mtl.noWord', 'specularColor'],
    ]);
    expect(tinted.lines.join()).not.toMatch(/Ks/);
    expect(write(material('Hull', 'legacy', { transmission: { value: 0.5 } })).losses).toEqual([]);
  });
});

describe('a map of the library', () => {
  it.each<[ChannelName, string]>([
    ['baseColor', 'map_Kd'],
    ['specularColor', 'map_Ks'],
    ['emission', 'map_Ke'],
    ['sheenColor', 'map_Ps'],
    ['normal', 'norm'],
  ])('of %s is %s', (channel, word) => {
    expect(mapLine(channel, { component: 'rgb' })).toEqual([`${word} maps/a.png`]);
  });

  it.each<[ChannelName, string]>([
    ['glossiness', 'map_Ns'],
    ['roughness', 'map_Pr'],
    ['metalness', 'map_Pm'],
    ['coat', 'map_Pc'],
    ['coatRoughness', 'map_Pcr'],
    ['occlusion', 'map_ao'],
    ['bump', 'map_Bump'],
    ['height', 'disp'],
  ])('of %s is %s, of one component', (channel, word) => {
    expect(mapLine(channel, { component: 'r' })).toEqual([`${word} maps/a.png`]);
    expect(mapLine(channel, { component: 'g' })).toEqual([`${word} -imfchan g maps/a.png`]);
  });

  it('tells its component, and of opacity always', () => {
    expect(mapLine('opacity', { component: 'a' })).toEqual(['map_d -imfchan m maps/a.png']);
    expect(mapLine('opacity', { component: 'r' })).toEqual(['map_d -imfchan r maps/a.png']);
    expect(mapLine('roughness', { component: 'luminance' })).toEqual(['map_Pr -imfchan l maps/a.png']);
    expect(mapLine('roughness', { component: 'b' })).toEqual(['map_Pr -imfchan b maps/a.png']);
  });

  it('tells how it lies', () => {
    expect(mapLine('baseColor', { transform: { offset: [0.5, 0], scale: [2, 3], rotation: 0 } })).toEqual([
      'map_Kd -o 0.5 0 0 -s 2 3 1 maps/a.png',
    ]);
    expect(mapLine('baseColor', { wrap: ['clamp', 'clamp'] })).toEqual(['map_Kd -clamp on maps/a.png']);
    expect(mapLine('baseColor', { wrap: ['clamp', 'repeat'] })).toEqual(['map_Kd maps/a.png']);
  });

  it('tells its amount: of bump, of displacement and of normals', () => {
    expect(mapLine('bump', { component: 'r' }, 0.5)).toEqual(['map_Bump -bm 0.5 maps/a.png']);
    expect(mapLine('height', { component: 'r' }, 3)).toEqual(['disp -bm 3 maps/a.png']);
    expect(mapLine('roughness', { component: 'r' }, 3)).toEqual(['map_Pr maps/a.png']);
    expect(mapLine('normal', { strength: 2 })).toEqual(['norm -bm 2 maps/a.png']);
    expect(mapLine('normal', { strength: 1 })).toEqual(['norm maps/a.png']);
  });

  it('tells its range as base and gain', () => {
    expect(mapLine('roughness', { component: 'r', gain: 0.5, offset: 0.25 })).toEqual([
      'map_Pr -mm 0.25 0.5 maps/a.png',
    ]);
    expect(mapLine('roughness', { component: 'r', invert: true })).toEqual(['map_Pr -mm 1 -1 maps/a.png']);
    expect(mapLine('roughness', { component: 'r', invert: true, gain: 0.5, offset: 0.25 })).toEqual([
      'map_Pr -mm 0.75 -0.5 maps/a.png',
    ]);
  });

  it('tells what of its place has no word', () => {
    const details = (map: Partial<MapUse>) =>
      write(material('M', 'metalRough', { baseColor: { map } })).losses.map(({ code, detail }) => [
        code,
        detail,
      ]);
    expect(details({ transform: { offset: [0, 0], scale: [1, 1], rotation: 1 } })).toEqual([
      ['mtl.placing', 'the turn'],
    ]);
    expect(details({ wrap: ['clamp', 'repeat'] })).toEqual([['mtl.placing', 'the wrapping']]);
    expect(details({ wrap: ['mirror', 'mirror'] })).toEqual([['mtl.placing', 'the wrapping']]);
    expect(details({ uvSet: 'map2' })).toEqual([['mtl.placing', 'the UV set']]);
    expect(
      details({ wrap: ['clamp', 'clamp'], transform: { offset: [1, 1], scale: [2, 2], rotation: 0 } }),
    ).toEqual([]);
  });
});
