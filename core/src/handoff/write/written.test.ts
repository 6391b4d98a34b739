import { describe, expect, it } from 'vitest';
import { type Destination, outputMap, perChannel, scalar } from '../../destinations/profile.ts';
import type { Channel, ChannelName, MapUse, Material, Rgb } from '../../scene/material.ts';
import { testImage, testMaterial, testState } from '../../test/assets.ts';
import { berth, planOf } from '../../test/berth.ts';
import { planHandoff } from '../plan/plan.ts';
import { componentInBrief, componentInWords } from '../words.ts';
import { feedsOf, writtenMaterial } from './destinationDocument.ts';
import { materialXDocument } from './materialX.ts';
import { createSheet, type Sheet } from './sheet.ts';
import { takeoffTable } from './takeoffTable.ts';

const valued = (value: number | Rgb): Channel => ({ value, map: null, source: { from: 'file', detail: '' } });
const glossy = [outputMap('gloss', 'gloss', [scalar('glossiness', { as: 'specular' })])];

describe('a written material', () => {
  const written = (
    maps: Parameters<typeof planOf>[0],
    more: Partial<Destination>,
    change?: (material: Material) => void,
    factor = 1,
  ) => {
    const destination = berth(more);
    const plan = planOf(maps, { 'x.png': {}, 'h.png': {} }, destination, change);
    return writtenMaterial(plan.materials[0], destination, factor);
  };

  it('reads its images from their folder, by the components that they were packed into', () => {
    const { channels } = written(
      { roughness: 'x.png', metalness: 'x.png', normal: { image: 'x.png', normalY: 'Y-' } },
      { normalY: 'Y-' },
    );
    expect(channels.roughness?.map).toMatchObject({
      image: 'maps/Hull_orm.png',
      component: 'g',
      space: 'data',
      invert: false,
    });
    expect(channels.metalness?.map).toMatchObject({ image: 'maps/Hull_orm.png', component: 'b' });
    expect(channels.normal?.map).toMatchObject({
      image: 'maps/Hull_normal.png',
      component: 'rgb',
      normalY: 'Y-',
    });
    expect(channels.occlusion).toBeUndefined();
    expect(written({ roughness: 'x.png' }, { folder: '' }).channels.roughness?.map?.image).toBe(
      'Hull_orm.png',
    );
  });

  it('keeps the factor of a colour beside its image, and none of a scalar, whose pixels have it', () => {
    const { channels } = written({ baseColor: 'x.png', roughness: 'x.png' }, {}, (material) => {
      (material.channels.baseColor as Channel).value = [0.5, 0.25, 1];
      (material.channels.roughness as Channel).value = 0.5;
    });
    expect(channels.baseColor?.value).toEqual([0.5, 0.25, 1]);
    expect(channels.roughness?.value).toBe(1);
  });

  it('keeps how it shows, and what its model is called', () => {
    const change = (material: Material) =>
      Object.assign(material, { alphaMode: 'mask', alphaCutoff: 0.3, doubleSided: true, exponent: 12 });
    expect(written({}, { writeAs: 'legacy' }, change)).toMatchObject({
      alphaMode: 'mask',
      alphaCutoff: 0.3,
      doubleSided: true,
      exponent: 12,
      workflow: 'legacy',
    });
    expect(written({}, {}).workflow).toBe('metalRough');
  });

  it('moves its surface by the same length in another unit; bumps have none', () => {
    const maps = perChannel(['height', 'bump']);
    const change = ({ channels }: Material) => {
      (channels.height as Channel).value = 2;
      (channels.bump as Channel).value = 2;
    };
    const { channels } = written(
      { height: { image: 'h.png', offset: -0.5 }, bump: 'x.png' },
      { maps, heightMid: 0.5 },
      change,
      100,
    );
    expect(channels.height).toMatchObject({ value: 200, map: { offset: -0.5 } });
    expect(channels.bump).toMatchObject({ value: 2, map: { offset: 0 } });
  });

  it('has values where there is no image, and none that say nothing', () => {
    const change = ({ channels }: Material) => {
      channels.metalness = valued(0.75);
      channels.coat = valued(0);
      channels.height = valued(3);
    };
    const { channels } = written({}, {}, change);
    expect(channels.metalness?.value).toBe(0.75);
    expect(Object.keys(channels)).not.toContain('coat');
    expect(Object.keys(channels)).not.toContain('height');
    // The value beside an image that has no place is that image's factor.
    expect(Object.keys(written({ coat: 'x.png' }, {}).channels)).not.toContain('coat');
  });

  it('says white and black of a highlight where leaving it out says something else', () => {
    const white = ({ channels }: Material) => {
      channels.specularColor = valued([1, 1, 1]);
    };
    const specGloss: Partial<Destination> = { workflow: 'specGloss', writeAs: 'specGloss' };
    expect(written({}, specGloss, white).channels.specularColor?.value).toEqual([1, 1, 1]);
    expect(written({}, {}, white).channels.specularColor).toBeUndefined();
    const classic = (material: Material) => Object.assign(material, { workflow: 'legacy' });
    expect(written({}, specGloss, classic).channels.specularColor?.value).toEqual([0, 0, 0]);
    expect(
      written({}, specGloss, (material) => [classic(material), white(material)]).channels.specularColor
        ?.value,
    ).toEqual([1, 1, 1]);
    expect(written({}, specGloss).channels.specularColor).toBeUndefined();
  });

  it('says gloss under the name that the receiver takes it for', () => {
    const rough = ({ channels }: Material) => {
      channels.roughness = valued(0.25);
    };
    expect(written({}, { maps: glossy }, rough).channels.specular?.value).toBeCloseTo(0.75, 9);
    const inverse = [outputMap('gloss', 'gloss', [scalar('glossiness', { as: 'specular', invert: true })])];
    expect(written({}, { maps: inverse }, rough).channels.specular?.value).toBeCloseTo(0.25, 9);
    // MTL has one word for the colour of a highlight and its strength.
    const obj = written(
      {},
      { maps: glossy, format: 'obj', variants: ['obj'], writeAs: 'legacy' },
      rough,
    ).channels;
    expect(obj.specular).toBeUndefined();
    expect(obj.specularColor?.value).toEqual([0.75, 0.75, 0.75].map((value) => expect.closeTo(value, 9)));
  });
});

describe('an image', () => {
  it('feeds the channels that it has, alpha among them, and none by a constant', () => {
    const maps = {
      baseColor: 'x.png',
      opacity: { image: 'x.png', component: 'a' as const },
      metalness: 'x.png',
    };
    const { images } = planOf(maps, { 'x.png': { components: 4 } }, berth(), (material) => {
      material.alphaMode = 'blend';
    });
    expect(
      images.map((image) => feedsOf(image).map(({ channel, component }) => `${channel} ${component}`)),
    ).toEqual([['baseColor rgb', 'opacity a'], ['metalness b']]);
  });
});

describe('the sheet', () => {
  const extras = { models: ['hull.fbx'], sceneMetres: 0.01, longest: 4 };
  const sheetOf = (more: Partial<Destination>, change?: (material: Material) => void) =>
    createSheet(
      planOf(
        { height: { image: 'h.png', offset: -0.5 }, roughness: 'r.png' },
        { 'h.png': {}, 'r.png': {} },
        berth(more),
        change,
      ),
      'hull',
      extras,
    );
  const tall = ({ channels }: Material) => {
    (channels.height as Channel).value = 20;
  };

  it('tells heights in what the receiver reckons in', () => {
    const maps = perChannel(['height']);
    const heightOf = (more: Partial<Destination>) => sheetOf({ maps, ...more }, tall).materials[0].height;
    // Twenty units of a centimetre are 0.2 m, a twentieth of a hull of four metres.
    expect(heightOf({ heightUnit: 'metres' })).toEqual({ amount: 0.2, unit: 'm', mid: 0.5 });
    expect(heightOf({ heightUnit: 'share' })).toEqual({
      amount: 0.05,
      unit: 'of the longest side',
      mid: 0.5,
    });
    expect(heightOf({ metresPerUnit: 0.1 })).toEqual({ amount: 2, unit: 'units of 0.1 m', mid: 0.5 });
    expect(sheetOf({}, tall).materials[0].height).toBeNull();
  });

  it('has every map with its channels, its depth and what it was made from', () => {
    const [hull] = sheetOf({}).materials;
    expect(hull.maps).toMatchObject([
      {
        file: 'maps/Hull_orm.png',
        colour: 'data, not colour',
        depth: '8 bits',
        channels: [{ channel: 'roughness', component: 'g', inverted: false }],
        from: { r: 'occlusion has no map: 1', g: 'roughness from r.png, r' },
        palette: false,
      },
    ]);
    expect(hull.mapped).toEqual(['roughness']);
    expect(Object.keys(hull.values)).not.toContain('height');
  });

  it('calls a shared image a palette where the material itself takes its texels one by one', () => {
    const [flags, hull] = ['Flags', 'Hull'].map((name) => testMaterial(name, { baseColor: 'swatches.png' }));
    (flags.channels.baseColor?.map as MapUse).filter = 'nearest';
    const palettes = (...materials: Material[]) => {
      const images = [testImage('swatches.png', {})];
      const sheet = createSheet(planHandoff(testState(materials), images, berth()), 'quay', extras);
      return sheet.materials.map(({ name, maps }) => [name, maps[0].file, maps[0].palette]);
    };
    const [first, second] = palettes(flags, hull);
    expect([first[2], second[2]]).toEqual([true, false]);
    expect(second[1]).toBe(first[1]);
    expect(palettes(hull, flags).map(([name, , palette]) => [name, palette])).toEqual([
      ['Hull', false],
      ['Flags', true],
    ]);
  });

  it('tells glass by its transmission and index, and of what is solid neither', () => {
    const glass = ({ channels }: Material) => {
      channels.transmission = { value: 0.75, map: null, source: { from: 'file', detail: '' } };
      channels.ior = { value: 1.33, map: null, source: { from: 'file', detail: '' } };
    };
    expect(sheetOf({}, glass).materials[0].values).toMatchObject({ transmission: 0.75, ior: 1.33 });
    expect(sheetOf({}).materials[0].values).not.toHaveProperty('transmission');
    // Gloss stands under its own name, but for one that is roughness too.
    const glossy = ({ channels }: Material) => {
      channels.glossiness = { value: 0.4, map: null, source: { from: 'file', detail: '' } };
    };
    expect(sheetOf({}, glossy).materials[0].values).not.toHaveProperty('glossiness');
  });

  it('tells the destination’s axes, unless the source file keeps its own', () => {
    expect(sheetOf({ upAxis: 'Z', metresPerUnit: 0.01 })).toMatchObject({
      upAxis: 'Z',
      metresPerUnit: 0.01,
      asset: 'hull',
      models: ['hull.fbx'],
    });
    const plan = planOf({}, {}, berth({ upAxis: 'Z' }));
    expect(createSheet(plan, 'hull', { ...extras, stated: { upAxis: 'Y', metresPerUnit: 1 } })).toMatchObject(
      { upAxis: 'Y', metresPerUnit: 1 },
    );
  });
});

describe('the table of areas', () => {
  it('quotes what CSV must, sums by material, and has no volume of what is open', () => {
    const rows = [
      { part: 'Lid, "top"', material: 'Oak', faces: 2, area: 1.5, volume: 0.25 },
      { part: 'Base', material: 'Oak', faces: 4, area: 2, volume: 0.5 },
      { part: 'Net', material: 'Rope', faces: 1, area: 0.1234567, volume: null },
    ];
    expect(takeoffTable(rows).split('\r\n')).toEqual([
      'part,material,faces,area m2,volume m3',
      '"Lid, ""top""",Oak,2,1.500000,0.250000000',
      'Base,Oak,4,2.000000,0.500000000',
      'Net,Rope,1,0.123457,',
      'all parts,Oak,6,3.500000,0.750000000',
      'all parts,Rope,1,0.123457,',
      '',
    ]);
    expect(
      takeoffTable([...rows, { part: 'Rim', material: 'Oak', faces: 1, area: 1, volume: null }]),
    ).toContain('all parts,Oak,7,4.500000,\r\n');
  });
});

describe('materials in MaterialX', () => {
  /** Each node by its name: kind, and what its inputs say. */
  const network = (sheet: Sheet) => {
    const nodes: Record<string, Record<string, string>> = {};
    for (const [, kind, name, body] of materialXDocument(sheet).matchAll(
      / {2}<(\w+) name="(\w+)" type="\w+">\n([\s\S]*?) {2}<\/\1>/g,
    ))
      nodes[name] = {
        kind,
        ...Object.fromEntries(
          [...body.matchAll(/name="(\w+)" type="\w+" (?:value|nodename)="([^"]*)"/g)].map(
            ([, input, said]) => [input, said],
          ),
        ),
      };
    return nodes;
  };
  const roughHull = (format: Destination['format'], name: string, maps: Destination['maps'], value = 0.5) => {
    const destination = berth({ format, variants: [name], maps });
    const plan = planOf({ roughness: 'r.png' }, { 'r.png': {} }, destination, ({ channels }) => {
      (channels.roughness as Channel).value = value;
    });
    return createSheet(plan, 'hull', { models: [], sceneMetres: 1, longest: 1 });
  };

  it('multiply where the pixels do not have the factor yet, and not where they have', () => {
    const orm = [outputMap('packed', 'orm', [scalar('occlusion'), scalar('roughness')])];
    const gltf = network(roughHull('gltf', 'glb', orm));
    expect(gltf.Hull_surface.specular_roughness).toBe('Hull_roughness_times');
    expect(gltf.Hull_roughness_times).toEqual({ kind: 'multiply', in1: 'Hull_roughness_part', in2: '0.5' });
    expect(gltf.Hull_roughness_part).toEqual({ kind: 'extract', in: 'Hull_roughness_image', index: '1' });
    const sheet = roughHull('usd', 'usdc', orm);
    expect(sheet.materials[0].values.roughness).toBe(1);
    expect(network(sheet).Hull_surface.specular_roughness).toBe('Hull_roughness_part');
  });

  it('weigh colours of which there would be nothing, where there is something', () => {
    const sheet = roughHull('usd', 'usdc', []);
    const weights = (values: Sheet['materials'][number]['values'], mapped: ChannelName[] = []) => {
      Object.assign(sheet.materials[0], { values, mapped, maps: [] });
      const { emission_luminance, fuzz_weight, subsurface_weight } = network(sheet).Hull_surface;
      return [emission_luminance, fuzz_weight, subsurface_weight];
    };
    // All three are 0 in OpenPBR where nothing is said.
    expect(weights({})).toEqual([undefined, undefined, undefined]);
    expect(weights({ sheenColor: [0.2, 0, 0], subsurface: [1, 0.5, 0.5] })).toEqual([undefined, '1', '1']);
    expect(weights({ emission: [0, 0, 2], sheenColor: [0, 0, 0] })).toEqual(['1000', undefined, undefined]);
    expect(weights({}, ['sheenColor'])).toEqual([undefined, '1', undefined]);
  });

  it('turn gloss, and stored inversions, each where it belongs', () => {
    const gloss = (invert: boolean, glossiness: number) => {
      const sheet = roughHull(
        'usd',
        'usdc',
        [outputMap('gloss', 'g', [scalar('glossiness', { invert })])],
        1,
      );
      sheet.materials[0].values = { glossiness };
      const nodes = network(sheet);
      const path: string[] = [];
      for (
        let place = nodes.Hull_surface.specular_roughness;
        place;
        place = nodes[place].in1 ?? nodes[place].in
      )
        path.unshift(place.replace('Hull_glossiness_', ''));
      return path;
    };
    // Gloss is 1 - roughness; what is stored inverted is roughness itself.
    expect(gloss(false, 1)).toEqual(['image', 'turned']);
    expect(gloss(true, 1)).toEqual(['image']);
    expect(gloss(false, 0.5)).toEqual(['image', 'times', 'rough']);
    expect(gloss(true, 0.5)).toEqual(['image', 'turned', 'times', 'rough']);
  });

  it('read colours with alpha by their colours, times their value, and turn green where it points down', () => {
    const maps = {
      baseColor: 'b.png',
      opacity: { image: 'b.png', component: 'a' as const },
      normal: { image: 'n.png', normalY: 'Y-' as const },
    };
    const plan = planOf(
      maps,
      { 'b.png': { components: 4 }, 'n.png': {} },
      berth({ normalY: 'Y-' }),
      (material) => {
        material.alphaMode = 'blend';
        (material.channels.baseColor as Channel).value = [0.5, 1, 0.25];
      },
    );
    const nodes = network(createSheet(plan, 'hull', { models: [], sceneMetres: 1, longest: 1 }));
    expect(nodes.Hull_surface).toMatchObject({
      base_color: 'Hull_baseColor_times',
      geometry_opacity: 'Hull_opacity_part',
      geometry_normal: 'Hull_normal',
    });
    expect(nodes.Hull_baseColor_times).toEqual({
      kind: 'multiply',
      in1: 'Hull_baseColor_rgb',
      in2: '0.5, 1, 0.25',
    });
    expect(nodes.Hull_opacity_part).toMatchObject({ index: '3' });
    expect(nodes.Hull_normal).toEqual({ kind: 'normalmap', in: 'Hull_normal_turned' });
    expect(nodes.Hull_normal_turned).toEqual({ kind: 'add', in1: 'Hull_normal_times', in2: '0, 1, 0' });
    expect(nodes.Hull_normal_times).toEqual({ kind: 'multiply', in1: 'Hull_normal_image', in2: '1, -1, 1' });
    expect(nodes.Hull_surface).not.toHaveProperty('emission_luminance');
  });
});

describe('what an image is made from, in words', () => {
  it('is told whole, and in brief by the file alone and without the component that stays the same', () => {
    const reported = (use: Partial<MapUse>) => {
      const [, rough] = planOf({ roughness: { image: 'maps/r.png', ...use } }, { 'maps/r.png': {} }).images[0]
        .components;
      return [componentInWords(rough), componentInBrief(rough, 'g')];
    };
    expect(reported({ component: 'g' })).toEqual(['roughness from maps/r.png, g', 'roughness from r.png']);
    expect(reported({})).toEqual(['roughness from maps/r.png, r', 'roughness from r.png, r']);
    expect(reported({ component: 'g', invert: true, gain: 0.5 })).toEqual([
      'roughness from maps/r.png, g, inverted, times 0.5 plus 0',
      'roughness from r.png, inverted, times 0.5 plus 0',
    ]);
    const [none] = planOf({ roughness: 'r.png' }, { 'r.png': {} }).images[0].components;
    expect([componentInWords(none), componentInBrief(none, 'r')]).toEqual([
      'occlusion has no map: 1',
      'occlusion has no map: 1',
    ]);
  });
});
