import { describe, expect, it } from 'vitest';
import { mendAsset } from '../../inspect.ts';
import type { ChannelName, MapUse } from '../../scene/material.ts';
import { testMaterial } from '../../test/assets.ts';
import { look, type Paint } from '../../test/sets.ts';

const hues: Paint = (x, y) => [200 - x, 90 + y, 40];
const greys: Paint = (x, y) => Array(3).fill(40 + ((x * 3 + y) % 160));
const set = ['hull_diffuse.png', 'hull_specular.png', 'hull_glossiness.png'];

interface Case {
  maps?: Partial<Record<ChannelName, string>>;
  use?: Partial<MapUse>;
  metalness?: number;
  more?: readonly string[];
}

function judged({ maps = {}, use = {}, metalness, more = [] }: Case) {
  const material = testMaterial('Hull', { baseColor: 'hull_diffuse.png', ...maps });
  Object.assign(material.channels.roughness?.map ?? {}, use);
  if (metalness !== undefined)
    material.channels.metalness = { value: metalness, map: null, source: { from: 'file', detail: '' } };
  const paths = [...new Set([...set, ...Object.values(maps), ...more])];
  const paints = Object.fromEntries(
    paths.map((path) => [path, /gloss|rough|metal/.test(path) ? greys : hues]),
  );
  const { source, files, known, findings } = look({ materials: [material], paths, paints });
  const told = findings.filter(({ code }) => code === 'slot.wrongModel');
  const [mended] = mendAsset(source, files, 'safe', known).state.materials;
  return {
    told: told.map(({ safe, message }) => [safe, message]),
    workflow: mended.workflow,
    reads: Object.entries(mended.channels).map(
      ([channel, { map }]) =>
        `${channel} ${map?.image.replace('parcel:', '')}${map?.invert ? ' inverted' : ''}`,
    ),
  };
}

describe('images of spec/gloss in a metal/rough material', () => {
  const message =
    'Hull is metal/rough, but hull_specular.png and hull_glossiness.png are painted for spec/gloss.';
  const asPainted = [
    'baseColor hull_diffuse.png',
    'specularColor hull_specular.png',
    'glossiness hull_glossiness.png',
  ];

  it.each<[string, Case]>([
    ['in slots of their own', { maps: { specularColor: set[1], glossiness: set[2] } }],
    [
      'gloss inverted as roughness',
      { maps: { specularColor: set[1], roughness: set[2] }, use: { invert: true } },
    ],
    [
      'gloss by a negative gain',
      { maps: { specularColor: set[1], roughness: set[2] }, use: { gain: -1, offset: 1 } },
    ],
  ])('make it what they are: %s', (_, of) => {
    const { told, workflow, reads } = judged(of);
    expect(told).toEqual([[true, message]]);
    expect(workflow).toBe('specGloss');
    expect(reads.sort()).toEqual([...asPainted].sort());
  });

  it('do so once the specular colour is in its slot', () => {
    const { told, workflow, reads } = judged({ maps: { roughness: set[2] }, use: { invert: true } });
    expect(told).toEqual([]);
    expect(workflow).toBe('specGloss');
    expect(reads.sort()).toEqual([...asPainted].sort());
  });

  it('are asked about where the material is metal all over', () => {
    const maps = { specularColor: set[1], glossiness: set[2] };
    expect(judged({ maps, metalness: 1 })).toMatchObject({
      told: [[false, message]],
      workflow: 'metalRough',
    });
    expect(judged({ maps, metalness: 0 })).toMatchObject({ told: [[true, message]], workflow: 'specGloss' });
  });

  it('are none beside metalness or roughness of the set, of two sets, or without gloss', () => {
    const maps = { specularColor: set[1], glossiness: set[2] };
    for (const of of [
      { maps, more: ['hull_metallic.png'] },
      { maps, more: ['hull_roughness.png'] },
      { maps: { ...maps, metalness: 'deck_metallic.png' } },
      { maps: { specularColor: 'deck_specular.png', glossiness: set[2] } },
      { maps: { specularColor: set[1] } },
      { maps: { specularColor: set[1], roughness: set[2] } },
    ])
      expect(judged(of).told, JSON.stringify(of)).toEqual([]);
  });
});
