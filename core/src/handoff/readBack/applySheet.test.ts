import { describe, expect, it } from 'vitest';
import type { AssetImage } from '../../asset/asset.ts';
import type { SceneDocument } from '../../scene/document.ts';
import {
  type ChannelName,
  createMapUse,
  createMaterial,
  type MapUse,
  type Material,
} from '../../scene/material.ts';
import type { Sheet, SheetChannel, SheetMap, SheetMaterial } from '../write/sheet.ts';
import { applySheet } from './applySheet.ts';

type Format = SceneDocument['format'];

const FILE = 'maps/Oak_ORM.png';

function entry(more: Partial<SheetMaterial> = {}): SheetMaterial {
  return {
    key: 'Oak',
    name: 'Oak',
    copies: [],
    shading: 'metalRough',
    alpha: { mode: 'opaque', cutoff: 0.5 },
    doubleSided: false,
    values: {},
    mapped: [],
    height: null,
    maps: [],
    ...more,
  };
}

function map(channels: SheetChannel[], more: Partial<SheetMap> = {}): SheetMap {
  return {
    file: FILE,
    colour: 'data',
    space: 'data',
    tag: null,
    depth: '8',
    channels,
    from: {},
    palette: false,
    ...more,
  };
}

const feed = (
  channel: ChannelName,
  component: SheetChannel['component'],
  inverted = false,
): SheetChannel => ({ channel, component, inverted });

function material(maps: Partial<Record<ChannelName, Partial<MapUse>>>): Material {
  const made = createMaterial('Oak', 'metalRough');
  for (const [name, use] of Object.entries(maps)) {
    const channel = name as ChannelName;
    made.channels[channel] = {
      value: 1,
      map: createMapUse('image', channel, { component: 'r', ...use }),
      source: { from: 'file', detail: '' },
    };
  }
  return made;
}

const images: AssetImage[] = [
  { key: 'image', written: FILE, relative: null, status: 'found', resolved: FILE, how: '' },
  {
    key: 'other',
    written: 'maps/Brass_ORM.png',
    relative: null,
    status: 'found',
    resolved: 'maps/Brass_ORM.png',
    how: '',
  },
];

function read(
  format: Format,
  given: Material,
  reported: SheetMaterial,
  { images: own = images, ...more }: Partial<Sheet> & { images?: AssetImage[] } = {},
) {
  const sheet = { normalY: 'Y+', metresPerUnit: 1, materials: [reported], ...more } as Sheet;
  const { materials, words, contradictions } = applySheet([given], own, sheet, format);
  return {
    channels: materials[0].channels,
    material: materials[0],
    words: words.map(({ channel, word, value }) =>
      [channel, word, value].filter((part) => part !== null).join(' '),
    ),
    against: contradictions.map(({ difference: { code, material: name, channel, measured, allowed } }) => [
      code,
      name,
      channel,
      measured,
      allowed,
    ]),
  };
}

describe('how a material is shaded', () => {
  const classic = () => Object.assign(material({}), { workflow: 'legacy' });

  it('is the word of the sheet where the format has none, and is listed', () => {
    const told = read('fbx', classic(), entry({ shading: 'specGloss' }));
    expect([told.material.workflow, told.words, told.against]).toEqual([
      'specGloss',
      ['shading specGloss'],
      [],
    ]);
    expect(read('obj', classic(), entry({ shading: 'legacy' }))).toMatchObject({
      material: { workflow: 'legacy' },
      words: [],
    });
  });

  it('is the word of the model where it has one, and another of the sheet is against it', () => {
    const told = read('usd', material({}), entry({ shading: 'specGloss' }));
    expect([told.material.workflow, told.words]).toEqual(['metalRough', []]);
    expect(told.against).toEqual([
      ['sheet.contradicts', 'Oak', null, 'shading specGloss', 'shading metalRough'],
    ]);
    // Formats that know nothing classic read classic materials as what they know.
    expect(read('gltf', material({}), entry({ shading: 'legacy' })).against).toEqual([]);
  });
});

describe('words that the format has none for', () => {
  it('fill what an FBX leaves open, each listed', () => {
    const given = material({ roughness: {}, normal: {}, baseColor: { component: 'rgb' } });
    const reported = entry({
      alpha: { mode: 'mask', cutoff: 0.4 },
      doubleSided: true,
      maps: [
        map([feed('roughness', 'g', true)]),
        map([feed('normal', 'rgb')]),
        map([feed('baseColor', 'rgb')], { space: 'lin_ap1_scene', palette: true }),
      ],
    });
    const { channels, material: made, words, against } = read('fbx', given, reported, { normalY: 'Y-' });
    expect(against).toEqual([]);
    expect(channels.roughness?.map).toMatchObject({ component: 'g', invert: true });
    expect(channels.normal?.map).toMatchObject({ normalY: 'Y-' });
    expect(channels.baseColor?.map).toMatchObject({ space: 'lin_ap1_scene', filter: 'nearest' });
    expect(made).toMatchObject({ alphaMode: 'mask', alphaCutoff: 0.4, doubleSided: true });
    expect(words.sort()).toEqual(
      [
        'roughness component g',
        'roughness inversion inverted',
        'normal component rgb',
        'normal direction Y-',
        'baseColor space lin_ap1_scene',
        'baseColor palette texels one by one',
        'alpha mask at 0.4',
        'sides two',
      ].sort(),
    );
  });

  it('say nothing where the model says the same', () => {
    const given = material({ roughness: { component: 'g' } });
    const told = entry({ maps: [map([feed('roughness', 'g')])] });
    expect(read('fbx', given, told)).toMatchObject({ words: [], against: [] });
    expect(read('gltf', given, told)).toMatchObject({ words: [], against: [] });
  });

  it('bind an image to a channel that the format has no slot for, and to no other', () => {
    const occlusion = read(
      'fbx',
      material({ roughness: {} }),
      entry({ maps: [map([feed('occlusion', 'b')])] }),
    );
    expect(occlusion.words).toEqual([`occlusion image ${FILE}`]);
    expect(occlusion.channels.occlusion?.map).toMatchObject({ image: 'image', component: 'b' });
    // FBX has a slot for metalness: that it is not used is a contradiction, and the image stays where it is.
    const metal = read('fbx', material({}), entry({ maps: [map([feed('metalness', 'b')])] }));
    expect(metal.channels.metalness).toBeUndefined();
    expect(metal.against).toEqual([['sheet.contradicts', 'Oak', 'metalness', `image ${FILE}`, 'no image']]);
  });

  it('tell heights in metres', () => {
    const given = material({ height: { offset: -0.5 } });
    const told = entry({ height: { amount: 0.02, unit: 'm', mid: 0.5 }, maps: [map([feed('height', 'r')])] });
    expect(read('fbx', given, told, { metresPerUnit: 0.01 }).channels.height).toMatchObject({
      value: 2,
      map: { gain: 1, offset: -0.5 },
    });
    expect(
      read('fbx', given, { ...told, height: { amount: 0.02, unit: 'of the size', mid: 0.5 } }).channels
        .height,
    ).toMatchObject({ value: 1 });
  });
});

describe('words against what the model states', () => {
  const STATED: [Format, Partial<MapUse>, SheetMaterial, Partial<Sheet>, unknown[]][] = [
    [
      'gltf',
      { component: 'g' },
      entry({ maps: [map([feed('roughness', 'r'), feed('metalness', 'b')])] }),
      {},
      ['roughness', 'component r', 'component g'],
    ],
    [
      'usd',
      { component: 'g' },
      entry({ maps: [map([feed('roughness', 'b')])] }),
      {},
      ['roughness', 'component b', 'component g'],
    ],
    [
      'obj',
      { component: 'g' },
      entry({ maps: [map([feed('roughness', 'b')])] }),
      {},
      ['roughness', 'component b', 'component g'],
    ],
    [
      'gltf',
      {},
      entry({ maps: [map([feed('roughness', 'r', true)])] }),
      {},
      ['roughness', 'inversion inverted', 'inversion as it is'],
    ],
    [
      'usd',
      { gain: -1, offset: 1 },
      entry({ maps: [map([feed('roughness', 'r')])] }),
      {},
      ['roughness', 'inversion as it is', 'inversion inverted'],
    ],
  ];

  it.each(STATED)(
    'of %s change nothing and are told',
    (format, use, reported, more, [channel, measured, allowed]) => {
      const given = material({
        roughness: use,
        ...(format === 'gltf' ? { metalness: { component: 'b' } } : {}),
      });
      const { channels, words, against } = read(format, given, reported, more);
      expect(channels.roughness).toEqual(given.channels.roughness);
      expect(words).toEqual([]);
      expect(against).toEqual([['sheet.contradicts', 'Oak', channel, measured, allowed]]);
    },
  );

  it('of the material as a whole are told for glTF and USD, and are words for the others', () => {
    const told = entry({ alpha: { mode: 'blend', cutoff: 0.5 }, doubleSided: true });
    const gltf = read('gltf', material({}), told);
    expect(gltf.material).toMatchObject({ alphaMode: 'opaque', doubleSided: false });
    expect(gltf.words).toEqual([]);
    expect(gltf.against.map(([, , , measured, allowed]) => [measured, allowed])).toEqual([
      ['alpha blend', 'alpha opaque'],
      ['sides two', 'sides one'],
    ]);
    // USD blends and cuts by opacity alone: where all of it is there, it is opaque.
    const usd = read('usd', material({}), told);
    expect(usd.material).toMatchObject({ alphaMode: 'blend', doubleSided: false });
    expect(usd.against.map(([, , , measured]) => measured)).toEqual(['sides two']);
    const cut = read('usd', material({}), entry({ alpha: { mode: 'mask', cutoff: 0.5 } }));
    expect([cut.material.alphaMode, cut.against]).toEqual(['mask', []]);
    const mapped = read('usd', material({ opacity: {} }), entry({ alpha: { mode: 'blend', cutoff: 0.5 } }));
    expect(mapped.against.map(([, , , measured]) => measured)).toEqual(['alpha blend']);
    for (const format of ['fbx', 'obj'] as const)
      expect(read(format, material({}), told)).toMatchObject({
        against: [],
        words: ['alpha blend', 'sides two'],
      });
  });

  it('name another image than the model, even where it lies in the package', () => {
    const told = entry({ maps: [map([feed('roughness', 'r')], { file: 'maps/Brass_ORM.png' })] });
    for (const format of ['fbx', 'obj', 'usd', 'gltf'] as const) {
      const { channels, against } = read(format, material({ roughness: {} }), told);
      expect(channels.roughness?.map?.image).toBe('image');
      expect(against).toEqual([
        ['sheet.contradicts', 'Oak', 'roughness', 'image maps/Brass_ORM.png', `image ${FILE}`],
      ]);
    }
  });

  it('are none of a grey image, whose components are all the same', () => {
    expect(
      read(
        'gltf',
        material({ coatRoughness: { component: 'g' } }),
        entry({ maps: [map([feed('coatRoughness', 'r')])] }),
      ),
    ).toMatchObject({
      against: [],
      words: [],
    });
    expect(
      read('gltf', material({ opacity: { component: 'a' } }), entry({ maps: [map([feed('opacity', 'r')])] }))
        .against,
    ).toHaveLength(1);
  });
});

describe('materials', () => {
  it('that the sheet does not know stay as they are; copies follow the first', () => {
    const given = material({ roughness: {} });
    const reported = entry({ name: 'Elm', copies: ['Oak'], doubleSided: true });
    expect(read('fbx', given, reported).material.doubleSided).toBe(true);
    expect(read('fbx', given, { ...reported, copies: [] }).material).toEqual(given);
  });
});

describe('words that name spaces and images', () => {
  const tagged = (space: MapUse['space']) => material({ baseColor: { component: 'rgb', space } });
  const says = (space: MapUse['space']) => entry({ maps: [map([feed('baseColor', 'rgb')], { space })] });
  const spaces = (model: MapUse['space'], sheet: MapUse['space']) => {
    const { channels, words, against } = read('usd', tagged(model), says(sheet));
    return [channels.baseColor?.map?.space, words, against.map(([code]) => code)];
  };

  it('are followed in USD where its two words leave room, and contradict it else', () => {
    expect(spaces('data', 'lin_ap1_scene')).toEqual(['lin_ap1_scene', [], []]);
    expect(spaces('srgb_rec709_scene', 'srgb_rec709_scene')).toEqual(['srgb_rec709_scene', [], []]);
    expect(spaces('srgb_rec709_scene', 'lin_ap1_scene')).toEqual([
      'srgb_rec709_scene',
      [],
      ['sheet.contradicts'],
    ]);
    expect(spaces('data', 'srgb_rec709_scene')).toEqual(['data', [], ['sheet.contradicts']]);
  });

  it('know an image inside a model by its bare name, and none outside by that', () => {
    const told = entry({ maps: [map([feed('roughness', 'r')])] });
    const against = (status: AssetImage['status'], written: string) =>
      read('gltf', material({ roughness: {} }), told, {
        images: [{ ...images[0], written, status, resolved: null }],
      }).against.map(([code]) => code);
    expect(against('embedded', 'Oak_ORM')).toEqual([]);
    expect(against('embedded', 'Brass_ORM')).toEqual(['sheet.contradicts']);
    expect(against('missing', 'Oak_ORM')).toEqual(['sheet.contradicts']);
  });
});
