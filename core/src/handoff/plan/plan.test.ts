import { describe, expect, it } from 'vitest';
import { type Destination, outputMap, SRGB, scalar, triple } from '../../destinations/profile.ts';
import { withHeight } from '../../materials/height.ts';
import { type Channel, createMapUse, type MapUse } from '../../scene/material.ts';
import { testImage, testMaterial, testState } from '../../test/assets.ts';
import { berth, planOf } from '../../test/berth.ts';
import { writtenHeight } from './heights.ts';
import { planHandoff } from './plan.ts';
import { plannedKind } from './planImage.ts';

const source = (value: number): Channel => ({ value, map: null, source: { from: 'file', detail: '' } });

describe('sizes of images', () => {
  it.each([
    [{}, [1000, 600]],
    [{ powerOfTwo: true }, [512, 512]],
    [{ maxSize: 512 }, [512, 307]],
    [{ maxSize: 1000 }, [1000, 600]],
    [{ maxSize: 500, powerOfTwo: true }, [256, 256]],
    [{ maxSize: 1 }, [1, 1]],
  ])('under %j', (rules, size) => {
    const [image] = planOf(
      { baseColor: 'b.png' },
      { 'b.png': { width: 1000, height: 600 } },
      berth(rules),
    ).images;
    expect([image.width, image.height]).toEqual(size);
  });

  it('are those of the largest that is packed, side by side', () => {
    const [image] = planOf(
      { roughness: 'r.png', metalness: 'm.png' },
      { 'r.png': { width: 64, height: 32 }, 'm.png': { width: 16, height: 128 } },
    ).images;
    expect([image.width, image.height]).toEqual([64, 128]);
  });

  it('of palettes are left alone where the destination keeps them', () => {
    const maps = { baseColor: { image: 'p.png', filter: 'nearest' as const } };
    const side = (rules: Partial<Destination>) =>
      planOf(maps, { 'p.png': { width: 6, height: 3 } }, berth(rules)).images[0].width;
    expect(side({ powerOfTwo: true, keepPalettes: true })).toBe(6);
    expect(side({ powerOfTwo: true, keepPalettes: false })).toBe(4);
  });
});

describe('depths', () => {
  const kindOf = (
    map: Partial<Destination['maps'][number]>,
    info: Parameters<typeof testImage>[1],
    further: Destination['maps'] = [],
  ) => {
    const maps = [outputMap('color', 'col', triple('baseColor'), { ...SRGB, ...map }), ...further];
    return plannedKind(
      planOf({ baseColor: { image: 'b', gain: 0.5 } }, { b: info }, berth({ maps })).images[0],
    );
  };
  const half = { format: 'exr' as const, floating: true, bitDepth: 16 as const };
  const single = { ...half, bitDepth: 32 as const };
  const height = outputMap('height', 'height', [scalar('height')], { type: 'exr', depth: 'half' });

  it('of floats stay where the destination can hold them', () => {
    expect(kindOf({}, half)).toEqual({ type: 'png', depth: 8 });
    expect(kindOf({}, half, [height])).toEqual({ type: 'exr', depth: 'half' });
    expect(kindOf({}, single, [height])).toEqual({ type: 'exr', depth: 'float' });
    expect(kindOf({ type: 'tiff', depth: 16 }, half)).toEqual({ type: 'tiff', depth: 'float' });
    expect(kindOf({ type: 'exr', depth: 'half' }, half)).toEqual({ type: 'exr', depth: 'half' });
    expect(kindOf({ type: 'exr', depth: 'half' }, single)).toEqual({ type: 'exr', depth: 'float' });
  });

  it('of integers are the destination’s', () => {
    expect(kindOf({ type: 'exr', depth: 'half' }, { bitDepth: 16 })).toEqual({ type: 'exr', depth: 'half' });
    expect(kindOf({ type: 'tga' }, { bitDepth: 16 }, [height])).toEqual({ type: 'tga', depth: 8 });
  });
});

describe('components', () => {
  const packed = (destination: Destination, change?: Parameters<typeof planOf>[3]) =>
    planOf({ roughness: 'r.png' }, { 'r.png': {} }, destination, change).images[0].components.map((one) =>
      one.from === 'constant' ? one.value : 'image',
    );

  it('without a map are the value, where the format has no factor for it', () => {
    const metal = (value: number) => (material: ReturnType<typeof testMaterial>) => {
      material.channels.metalness = source(value);
    };
    expect(packed(berth(), metal(0.25))).toEqual([1, 'image', 0.25]);
    expect(packed(berth(), metal(3))).toEqual([1, 'image', 1]);
    expect(packed(berth({ format: 'gltf', variants: ['glb'] }), metal(0.25))).toEqual([1, 'image', 1]);
    const inverse = [
      outputMap('packed', 'p', [
        scalar('metalness', { invert: true, empty: 0.5 }),
        scalar('roughness'),
        scalar('coat', { empty: 0.5 }),
      ]),
    ];
    expect(packed(berth({ maps: inverse }), metal(0.25))).toEqual([0.75, 'image', 0.5]);
  });

  it('of colours that are tagged as data are light, as shaders take them', () => {
    const space = (channel: 'baseColor' | 'roughness', tag: 'data' | 'srgb_rec709_scene') => {
      const [image] = planOf({ [channel]: 'x.png' }, { 'x.png': {} }, berth(), ({ channels }) => {
        Object.assign(channels[channel]?.map ?? {}, { space: tag });
      }).images;
      return image.components.flatMap((one) => (one.from === 'image' ? [one.space] : []))[0];
    };
    expect(space('baseColor', 'data')).toBe('lin_rec709_scene');
    expect(space('baseColor', 'srgb_rec709_scene')).toBe('srgb_rec709_scene');
    expect(space('roughness', 'data')).toBe('data');
  });

  it('take the factor into their pixels, where the format has none', () => {
    const maps = { roughness: { image: 'r.png', gain: 0.8, offset: 0.1 }, baseColor: 'b.png' };
    const read = (destination: Destination) => {
      const { images } = planOf(maps, { 'r.png': {}, 'b.png': {} }, destination, ({ channels }) => {
        (channels.roughness as Channel).value = 0.5;
        (channels.baseColor as Channel).value = [0.5, 0.5, 0.5];
      });
      return images.map(
        ({ components }) =>
          components.flatMap((one) => (one.from === 'image' ? [[one.gain, one.offset]] : []))[0],
      );
    };
    expect(read(berth())).toEqual([
      [1, 0],
      [0.4, 0.05],
    ]);
    expect(read(berth({ format: 'gltf', variants: ['glb'] }))).toEqual([
      [1, 0],
      [0.8, 0.1],
    ]);
  });

  it('of normals turn green alone, and only where the directions differ', () => {
    const flips = (normalY: 'Y+' | 'Y-', expected: 'Y+' | 'Y-') =>
      planOf(
        { normal: { image: 'n.png', normalY } },
        { 'n.png': {} },
        berth({ normalY: expected }),
      ).images[0].components.map((one) => one.from === 'image' && one.flip);
    expect(flips('Y-', 'Y+')).toEqual([false, true, false]);
    expect(flips('Y+', 'Y-')).toEqual([false, true, false]);
    expect(flips('Y-', 'Y-')).toEqual([false, false, false]);
  });

  it('that are wanted inverted are turned, and turned back by an inverted use', () => {
    const maps = [outputMap('gloss', 'g', [scalar('roughness', { invert: true })])];
    const [image] = planOf(
      { roughness: { image: 'r.png', invert: true } },
      { 'r.png': {} },
      berth({ maps }),
    ).images;
    expect(image.components[0]).toMatchObject({ invert: true, flip: true });
  });

  it('carry what normals and cut-outs need, and nothing where there is nothing to say', () => {
    const normal = (more: Partial<MapUse>) =>
      planOf({ normal: { image: 'n.png', ...more } }, { 'n.png': {} }).images[0].components[0];
    expect(normal({ strength: 2, repair: 'blue' })).toMatchObject({ strength: 2, repair: 'blue' });
    expect(Object.keys(normal({ strength: 1 }))).not.toContain('strength');
    const alpha = (mode: 'opaque' | 'mask' | 'blend') =>
      planOf(
        { baseColor: 'b.png', opacity: { image: 'b.png', component: 'a' } },
        { 'b.png': { components: 4 } },
        berth(),
        (material) => {
          material.alphaMode = mode;
          material.alphaCutoff = 0.3;
        },
      ).images[0].components;
    expect(alpha('opaque')).toHaveLength(3);
    expect(alpha('blend')[3]).not.toHaveProperty('cutoff');
    expect(alpha('mask')[3]).toMatchObject({ component: 'a', cutoff: 0.3 });
    expect(alpha('mask')[0]).not.toHaveProperty('cutoff');
  });

  it('that lie otherwise than the first have an image of their own', () => {
    const planned = (more: Partial<MapUse>, format: Destination['format'] = 'fbx') => {
      const { losses, images } = planOf(
        { roughness: 'r.png', metalness: { image: 'm.png', ...more } },
        { 'r.png': {}, 'm.png': {} },
        berth({ format, variants: [format] }),
      );
      return [
        losses.map(({ code, channel }) => `${code} ${channel}`),
        images.map(({ file, components, use }) => [
          file,
          use.uvSet,
          components.map((source) => (source.from === 'image' ? source.path : source.value)),
        ]),
      ];
    };
    const together = ['Hull_orm.png', null, [1, 'r.png', 'm.png']];
    const apart = (set: string | null) => [
      ['Hull_orm.png', null, [1, 'r.png', 1]],
      ['Hull_metalness.png', set, ['m.png']],
    ];
    expect(planned({})).toEqual([[], [together]]);
    expect(planned({ component: 'b' })).toEqual([[], [together]]);
    expect(planned({ uvSet: 'second' })).toEqual([['map.apart metalness'], apart('second')]);
    expect(planned({ wrap: ['clamp', 'repeat'] })).toEqual([['map.apart metalness'], apart(null)]);
    expect(planned({ filter: 'nearest' })).toEqual([['map.apart metalness'], apart(null)]);
    // glTF has one place for both.
    expect(planned({ uvSet: 'second' }, 'gltf')).toEqual([['map.ownReading metalness'], [together]]);
  });

  it('of occlusion stand apart even in glTF, and make way for what looks are made of', () => {
    const { losses, images } = planOf(
      {
        occlusion: { image: 'o.png', uvSet: 'light' },
        roughness: { image: 'r.png', uvSet: 'tiled' },
        metalness: { image: 'm.png', uvSet: 'tiled' },
      },
      { 'o.png': {}, 'r.png': {}, 'm.png': {} },
      berth({ format: 'gltf', variants: ['glb'] }),
    );
    expect(losses.map(({ code, channel }) => `${code} ${channel}`)).toEqual(['map.apart occlusion']);
    expect(images.map(({ use, map }) => [map.name, use.uvSet])).toEqual([
      ['packed', 'tiled'],
      ['occlusion', 'light'],
    ]);
  });

  it('of an opacity that lies otherwise leave the alpha of colours alone', () => {
    const { images } = planOf(
      { baseColor: 'b.png', opacity: { image: 'o.png', uvSet: 'second' } },
      { 'b.png': {}, 'o.png': {} },
      berth(),
      (material) => {
        material.alphaMode = 'blend';
      },
    );
    expect(images.map(({ map, components }) => [map.name, map.space, components.length])).toEqual([
      ['color', 'srgb_rec709_scene', 3],
      ['opacity', 'data', 1],
    ]);
  });
});

describe('images that go out as they are', () => {
  const copied = (use: Partial<MapUse>, info: Parameters<typeof testImage>[1], destination = berth()) => {
    const [image] = planOf({ baseColor: { image: 'b.png', ...use } }, { 'b.png': info }, destination).images;
    return image.copyOf === null ? null : image.file;
  };

  it('are those in the right components and the right curve', () => {
    expect(copied({}, {})).toBe('Hull_col.png');
    expect(copied({}, { format: 'jpeg' })).toBe('Hull_col.jpg');
    expect(copied({}, { components: 4 })).toBe('Hull_col.png');
    for (const use of [
      { gain: 0.5 },
      { offset: 0.1 },
      { invert: true },
      { exponent: 2.2 },
      { space: 'lin_rec709_scene' },
      { component: 'r' },
    ] as const)
      expect(copied(use, {}), JSON.stringify(use)).toBeNull();
    expect(copied({}, { components: 1 })).toBeNull();
    expect(copied({}, { format: 'tga' })).toBeNull();
    expect(copied({}, { format: 'jpeg', inks: true })).toBeNull();
  });

  it('are of the size that is wanted, and of the depth where it is no PNG', () => {
    expect(copied({}, { width: 64 }, berth({ maxSize: 32 }))).toBeNull();
    expect(copied({}, { bitDepth: 16 })).toBe('Hull_col.png');
    const tiff = berth({
      maps: [outputMap('color', 'col', triple('baseColor'), { ...SRGB, type: 'tiff', depth: 16 })],
    });
    expect(copied({}, { format: 'tiff', bitDepth: 16 }, tiff)).toBe('Hull_col.tif');
    expect(copied({}, { format: 'tiff', bitDepth: 8 }, tiff)).toBeNull();
  });

  it('say of themselves what they are', () => {
    const [image] = planOf({ baseColor: 'b.png' }, { 'b.png': { format: 'jpeg' } }).images;
    expect(plannedKind(image)).toEqual({ type: 'jpeg', depth: 8 });
  });
});

describe('heights', () => {
  const written = (
    amount: number,
    mid: number,
    heightMid: 0 | 0.5 | null,
    format: 'fbx' | 'gltf' = 'fbx',
  ) => {
    const { map, value } = withHeight(createMapUse('h.png', 'height'), { amount, mid });
    return writtenHeight({ value, map }, { heightMid, format });
  };

  // amount x (stored - mid) stays: wanted + k (stored - mid), with the largest k that keeps it in 0..1.
  it.each([
    [2, 0, 0.5, { amount: 4, mid: 0.5, gain: 0.5, offset: 0.5, cut: false }],
    [2, 0.25, 0.5, { amount: 3, mid: 0.5, gain: 2 / 3, offset: 1 / 3, cut: false }],
    [2, 0.75, 0.5, { amount: 3, mid: 0.5, gain: 2 / 3, offset: 0, cut: false }],
    [2, 0.5, 0, { amount: 1, mid: 0, gain: 2, offset: -1, cut: true }],
    [2, 0.5, 0.5, { amount: 2, mid: 0.5, gain: 1, offset: 0, cut: false }],
    [2, 0.5, null, { amount: 2, mid: 0.5, gain: 1, offset: 0, cut: false }],
  ] as const)('of %d about %d go to %s', (amount, mid, required, expected) => {
    const found = written(amount, mid, required);
    for (const key of ['amount', 'mid', 'gain', 'offset'] as const)
      expect(found[key], key).toBeCloseTo(expected[key], 9);
    expect(found.cut).toBe(expected.cut);
    expect(written(amount, mid, required, 'gltf')).toMatchObject({
      amount,
      mid,
      gain: 1,
      offset: 0,
      cut: false,
    });
  });

  it('that are cut are told', () => {
    const maps = [outputMap('height', 'h', [scalar('height')])];
    const losses = (heightMid: 0 | 0.5) =>
      planOf(
        { height: { image: 'h.png', offset: -0.5 } },
        { 'h.png': {} },
        berth({ maps, heightMid }),
      ).losses.map(({ code }) => code);
    expect(losses(0)).toEqual(['height.cut']);
    expect(losses(0.5)).toEqual([]);
  });
});

describe('a plan', () => {
  it('has each image once, whoever shares it, and keeps names apart', () => {
    const materials = ['Hull', 'Hull', 'Mast'].map((name, i) => ({
      ...testMaterial(name, { baseColor: 'b.png' }),
      key: `${name} ${i}`,
    }));
    const plan = planHandoff(testState(materials), [testImage('b.png')], berth());
    expect(plan.images.map(({ file }) => file)).toEqual(['Hull_col.png']);
    expect(new Set(plan.materials.map(({ name }) => name)).size).toBe(3);
    expect(plan.materials.map(({ images }) => images.color?.file)).toEqual([
      'Hull_col.png',
      'Hull_col.png',
      'Hull_col.png',
    ]);
  });

  it('puts maps into a folder of their material where it is wanted so', () => {
    const folderOf = (more: Partial<Destination>) =>
      planOf({ baseColor: 'b.png' }, { 'b.png': {} }, berth(more)).images[0].folder;
    expect(folderOf({})).toBe('maps');
    expect(folderOf({ folderPerMaterial: true })).toBe('maps/Hull');
    expect(folderOf({ folderPerMaterial: true, folder: '' })).toBe('Hull');
  });

  it('keeps tiles where the destination does, one image each under one pattern', () => {
    const state = testState([testMaterial('Hull', { baseColor: 'b.<UDIM>.png' })]);
    const tiles = [1002, 1001].map((number) => ({ number, path: `b.${number}.png` }));
    state.images[0] = { ...state.images[0], resolved: 'b.1001.png', tiles };
    const images = tiles.map(({ path }) => testImage(path));
    const plan = planHandoff(state, images, berth({ tiles: true }));
    expect(plan.images.map(({ file, tile, copyOf }) => [file, tile, copyOf])).toEqual([
      ['Hull_col.1001.png', 1001, 'b.1001.png'],
      ['Hull_col.1002.png', 1002, 'b.1002.png'],
    ]);
    expect(new Set(plan.images.map(({ pattern }) => pattern))).toEqual(new Set(['Hull_col.<UDIM>.png']));
    expect(planHandoff(state, images, berth()).images.map(({ file }) => file)).toEqual(['Hull_col.png']);
  });

  it('lets values stand alone where images are missing or broken, and says so', () => {
    const material = testMaterial('Hull', { baseColor: 'b.png', normal: 'n.png', roughness: 'r.png' });
    const broken = { ...testImage('n.png'), info: null, fault: { code: 'image.cut', message: 'cut off' } };
    const plan = planHandoff(testState([material], ['b.png']), [testImage('r.png'), broken], berth());
    expect(plan.losses.map(({ code, material: key, channel }) => `${code} ${key} ${channel}`).sort()).toEqual(
      ['map.missing Hull baseColor', 'map.missing Hull normal'],
    );
    expect(plan.images.map(({ file }) => file)).toEqual(['Hull_orm.png']);
    expect(plan.materials[0].shading.baseColor.map).toBeNull();
  });

  it('tells maps and values that have no place', () => {
    const reported = (
      maps: Parameters<typeof testMaterial>[1],
      more: Partial<Destination>,
      change?: Parameters<typeof planOf>[3],
    ) =>
      planOf(maps, { 'x.png': {} }, berth(more), change).losses.map(
        ({ code, channel }) => `${code} ${channel}`,
      );
    expect(reported({ coat: 'x.png' }, {})).toEqual(['map.noPlace coat']);
    expect(reported({ roughness: 'x.png' }, {})).toEqual([]);
    // Roughness and glossiness say the same: what stands in for the other is no loss.
    expect(
      reported({ roughness: 'x.png' }, { maps: [outputMap('gloss', 'g', [scalar('glossiness')])] }),
    ).toEqual([]);
    const valued = (channel: 'metalness' | 'coat' | 'coatRoughness', value: number) =>
      reported({}, { writeAs: 'legacy' }, ({ channels }) => {
        channels[channel] = source(value);
      });
    expect(valued('metalness', 1)).toEqual(['value.noPlace metalness']);
    expect(valued('metalness', 0)).toEqual([]);
    expect(valued('coat', 0.5)).toEqual(['value.noPlace coat']);
    expect(valued('coatRoughness', 0.03)).toEqual(['value.noPlace coatRoughness']);
    expect(
      reported({}, {}, ({ channels }) => {
        channels.metalness = source(1);
      }),
    ).toEqual([]);
    // MTL has a word for the index; classic FBX has none.
    const index = (format: 'fbx' | 'obj', value: number) =>
      reported({}, { writeAs: 'legacy', format }, ({ channels }) => {
        channels.ior = source(value);
      });
    expect([index('fbx', 1.33), index('fbx', 1.5), index('obj', 1.33)]).toEqual([
      ['value.noPlace ior'],
      [],
      [],
    ]);
    expect(reported({ specular: 'x.png' }, { workflow: 'specGloss' })).toContain('map.noPlace specular');
    // A classic highlight has no input where reflections come from metalness.
    const classic = reported({ specular: 'x.png' }, { writeAs: 'legacy' }, (material) => {
      material.workflow = 'legacy';
    });
    expect(classic).toContain('map.noPlace specular');
  });

  it('takes no materials where none are taken in', () => {
    const state = testState([testMaterial('Hull', { baseColor: 'b.png' })]);
    const bare = { ...state, intake: { ...state.intake, parts: [] } };
    expect(planHandoff(bare, [testImage('b.png')], berth())).toMatchObject({
      materials: [],
      images: [],
      losses: [],
    });
  });
});
