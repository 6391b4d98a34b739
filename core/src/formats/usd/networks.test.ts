import { describe, expect, it } from 'vitest';
import { QUAD, readScene } from '../../test/usdScenes.ts';

describe('networks of shaders', () => {
  /** A material whose surface has what a test writes, and nodes beside it. */
  const material = async (id: string, inputs: string, nodes = '') => {
    const document = await readScene(
      `def Xform "Quay" { def Mesh "M" { ${QUAD} rel material:binding = </Quay/Look> }
       def Material "Look" { token outputs:surface.connect = </Quay/Look/S.outputs:surface>
         def Shader "S" { uniform token info:id = "${id}" ${inputs} token outputs:surface }
         ${nodes} } }`,
    );
    return { ...document.materials[0], remarks: document.remarks };
  };
  const image = (name: string, id: string, more = '') =>
    `def Shader "${name}" { uniform token info:id = "${id}" asset inputs:file = @${name}.png@ ${more} }`;
  const from = (name: string, output = 'out') => `.connect = </Quay/Look/${name}.outputs:${output}>`;

  it('of MaterialX pass through converters, extractors, inverters and products', async () => {
    const { channels } = await material(
      'ND_standard_surface_surfaceshader',
      `color3f inputs:base_color${from('mul')}\nfloat inputs:specular_roughness${from('inv')}\nfloat inputs:metalness${from('ext')}\nvector3f inputs:normal${from('nm')}`,
      `${image('base', 'ND_image_color3')} ${image('rough', 'ND_image_float')} ${image('orm', 'ND_tiledimage_color3', 'float2 inputs:uvtiling = (2, 3) float2 inputs:uvoffset = (0.5, 0.25) string inputs:uaddressmode = "mirror" string inputs:vaddressmode = "clamp"')} ${image('n', 'ND_image_vector3')}
       def Shader "mul" { uniform token info:id = "ND_multiply_color3" color3f inputs:in1${from('base')} color3f inputs:in2 = (0.5, 0.25, 1) }
       def Shader "inv" { uniform token info:id = "ND_invert_float" float inputs:in${from('rough')} }
       def Shader "ext" { uniform token info:id = "ND_extract_color3" color3f inputs:in${from('orm')} int inputs:index = 2 }
       def Shader "nm" { uniform token info:id = "ND_normalmap" vector3f inputs:in${from('n')} }`,
    );
    expect(channels.baseColor).toMatchObject({
      value: [0.5, 0.25, 1],
      map: { image: 'base.png', component: 'rgb' },
    });
    expect(channels.roughness?.map).toMatchObject({ image: 'rough.png', component: 'r', invert: true });
    expect(channels.metalness?.map).toMatchObject({
      image: 'orm.png',
      component: 'b',
      invert: false,
      wrap: ['mirror', 'clamp'],
      // The standard takes the offset away.
      transform: { scale: [2, 3], offset: [-0.5, -0.25], rotation: 0 },
    });
    expect(channels.normal?.map).toMatchObject({ image: 'n.png' });
  });

  it('weigh colours, and drop those of which there is nothing', async () => {
    const inputs = (more: string) =>
      `color3f inputs:base_color = (0.5, 1, 1)\ncolor3f inputs:sheen_color = (1, 0.5, 0)\ncolor3f inputs:emission_color = (1, 1, 0.5)\n${more}`;
    const weighed = async (id: string, more: string) => {
      const { channels, extras, remarks } = await material(id, inputs(more), image('m', 'ND_image_float'));
      const values = [channels.baseColor, channels.sheenColor, channels.emission].map(
        (channel) => channel?.value,
      );
      return { values, extras, told: remarks.map(({ subject }) => subject) };
    };
    const STANDARD = 'ND_standard_surface_surfaceshader';
    expect(await weighed(STANDARD, '')).toEqual({
      values: [[0.5, 1, 1], undefined, undefined],
      extras: {},
      told: [],
    });
    expect(
      await weighed(
        STANDARD,
        'float inputs:base = 0.5\nfloat inputs:sheen = 0.25\nfloat inputs:emission = 4',
      ),
    ).toEqual({
      values: [
        [0.25, 0.5, 0.5],
        [0.25, 0.125, 0],
        [4, 4, 2],
      ],
      extras: { sheenRoughness: '0.3' },
      told: [],
    });
    // Nothing of a base colour is black.
    expect((await weighed(STANDARD, 'float inputs:base = 0')).values[0]).toEqual([0, 0, 0]);
    expect((await weighed(STANDARD, `float inputs:base${from('m')}`)).told).toEqual(['maps of input base']);
    expect((await weighed('ND_gltf_pbr_surfaceshader', '')).values).toEqual([
      [0.5, 1, 1],
      [1, 0.5, 0],
      undefined,
    ]);
  });

  it('of glTF in MaterialX are seen through by their mode, and multiplied by their factors', async () => {
    const glass = async (more: string) => {
      const { alphaMode, alphaCutoff, channels } = await material(
        'ND_gltf_pbr_surfaceshader',
        `color3f inputs:base_color${from('i', 'outcolor')}\nfloat inputs:alpha${from('i', 'outa')}\n${more}`,
        image('i', 'ND_gltf_colorimage', 'color4f inputs:factor = (0.5, 0.25, 1, 0.75)'),
      );
      return [
        alphaMode,
        alphaCutoff,
        channels.baseColor?.value,
        channels.opacity?.value,
        channels.opacity?.map?.component,
      ];
    };
    expect(await glass('int inputs:alpha_mode = 2\nfloat inputs:alpha_cutoff = 0.5')).toEqual([
      'blend',
      0.5,
      [0.5, 0.25, 1],
      0.75,
      'a',
    ]);
    expect((await glass('int inputs:alpha_mode = 1')).slice(0, 2)).toEqual(['mask', 0.5]);
    expect((await glass('int inputs:alpha_mode = 1\nfloat inputs:alpha_cutoff = 0.25')).slice(0, 2)).toEqual([
      'mask',
      0.25,
    ]);
    // A threshold of nothing is one all the same.
    expect((await glass('int inputs:alpha_mode = 1\nfloat inputs:alpha_cutoff = 0')).slice(0, 2)).toEqual([
      'mask',
      1e-6,
    ]);
    expect(await glass('')).toEqual(['opaque', 0.5, [0.5, 0.25, 1], undefined, undefined]);
  });

  it('multiply colours of points with a value or an image, from either side', async () => {
    const product = async (one: string, two: string) => {
      const { channels, remarks } = await material(
        'ND_standard_surface_surfaceshader',
        `color3f inputs:base_color${from('mul')}`,
        `${image('a', 'ND_image_color3')}
         def Shader "paint" { uniform token info:id = "ND_geompropvalue_color3" string inputs:geomprop = "displayColor" }
         def Shader "mul" { uniform token info:id = "ND_multiply_color3" color3f inputs:in1${one} color3f inputs:in2${two} }`,
      );
      const { value, map } = channels.baseColor ?? {};
      return [value, map?.image ?? null, remarks.map(({ subject }) => subject)];
    };
    const tint = ' = (0.5, 0.25, 1)';
    expect(await product(from('paint'), tint)).toEqual([[0.5, 0.25, 1], null, []]);
    expect(await product(tint, from('paint'))).toEqual([[0.5, 0.25, 1], null, []]);
    expect(await product(from('paint'), from('a'))).toEqual([[1, 1, 1], 'a.png', []]);
    expect(await product(from('a'), from('paint'))).toEqual([[1, 1, 1], 'a.png', []]);
  });

  it('tell what they do to numbers that cannot be said', async () => {
    const told = async (nodes: string, more = '') =>
      (
        await material(
          'ND_standard_surface_surfaceshader',
          `color3f inputs:base_color${from('last')}`,
          `${image('a', 'ND_image_color3', more)} ${image('b', 'ND_image_color3')} ${nodes}`,
        )
      ).remarks.map(({ subject }) => subject);
    const node = (name: string, id: string, inputs: string) =>
      `def Shader "${name}" { uniform token info:id = "${id}" ${inputs} }`;
    const product = (second: string) =>
      node('mul', 'ND_multiply_color3', `color3f inputs:in1${from('a')} color3f inputs:in2${second}`);
    const last = (id: string, of: string) => node('last', id, `color3f inputs:in${from(of)}`);
    expect(await told(`${product(from('b'))} ${last('ND_convert_color3', 'mul')}`)).toEqual([
      'images that are multiplied with another',
    ]);
    expect(await told(`${product(' = (0.5, 0.5, 0.5)')} ${last('ND_invert_color3', 'mul')}`)).toEqual([
      'colours that are multiplied and inverted',
    ]);
    expect(await told(`${product(' = (0.5, 0.5, 0.5)')} ${last('ND_convert_color3', 'mul')}`)).toEqual([]);
    const placed = `float2 inputs:texcoord${from('p')}`;
    const place = (more: string) =>
      node('p', 'ND_place_vector2', `float2 inputs:scale = (2, 4) float inputs:rotate = 30 ${more}`);
    expect(
      await told(`${place('int inputs:operationorder = 1')} ${last('ND_convert_color3', 'a')}`, placed),
    ).toEqual(['uneven scales of turned UVs']);
    expect(await told(`${place('')} ${last('ND_convert_color3', 'a')}`, placed)).toEqual([]);
  });

  it('end at a node that does something else with their numbers', async () => {
    const { channels } = await material(
      'ND_standard_surface_surfaceshader',
      `float inputs:specular_roughness${from('odd')}`,
      `${image('r', 'ND_image_float')}
       def Shader "odd" { uniform token info:id = "ND_modulo_float" float inputs:in1${from('r')} float inputs:in2 = 0.5 }`,
    );
    expect(channels.roughness?.map ?? null).toBeNull();
  });

  it('swizzle and separate by name, multiply by a number from either side', async () => {
    const { channels } = await material(
      'ND_standard_surface_surfaceshader',
      `float inputs:metalness${from('sep', 'outg')}\nfloat inputs:specular_roughness${from('swz')}\nfloat inputs:opacity${from('mul')}`,
      `${image('orm', 'ND_image_color4')} ${image('o', 'ND_image_float')}
       def Shader "sep" { uniform token info:id = "ND_separate3_color3" color3f inputs:in${from('orm')} }
       def Shader "swz" { uniform token info:id = "ND_swizzle_color4_float" color4f inputs:in${from('orm')} string inputs:channels = "a" }
       def Shader "mul" { uniform token info:id = "ND_multiply_float" float inputs:in1 = 0.5 float inputs:in2${from('o')} }`,
    );
    expect(channels.metalness?.map?.component).toBe('g');
    expect(channels.roughness?.map?.component).toBe('a');
    expect(channels.opacity).toMatchObject({ value: 0.5, map: { image: 'o.png' } });
  });

  it('place UVs by either node, through readers of a named set', async () => {
    const reader =
      'def Shader "st" { uniform token info:id = "UsdPrimvarReader_float2" string inputs:varname = "map2" }';
    const { channels } = await material(
      'UsdPreviewSurface',
      `color3f inputs:diffuseColor${from('a', 'rgb')}\nfloat inputs:roughness${from('b', 'g')}`,
      `${reader} ${image('a', 'UsdUVTexture', `float2 inputs:st${from('t', 'result')} token inputs:wrapS = "mirror" token inputs:wrapT = "black"`)} ${image('b', 'ND_image_float', '')}
       def Shader "t" { uniform token info:id = "UsdTransform2d" float2 inputs:in${from('st', 'result')} float2 inputs:scale = (2, 4) float2 inputs:translation = (0.1, 0.2) float inputs:rotation = 90 }`,
    );
    expect(channels.baseColor?.map).toMatchObject({
      uvSet: 'map2',
      wrap: ['mirror', 'clamp'],
      transform: {
        scale: [2, 4],
        offset: [expect.closeTo(0.1, 6), expect.closeTo(0.2, 6)],
        rotation: Math.PI / 2,
      },
    });
    const placed = await material(
      'ND_standard_surface_surfaceshader',
      `color3f inputs:base_color${from('a')}`,
      `${image('a', 'ND_image_color3', `float2 inputs:texcoord${from('p')}`)}
       def Shader "p" { uniform token info:id = "ND_place_vector2" float2 inputs:texcoord${from('st')} float2 inputs:scale = (0.5, 0.25) float2 inputs:offset = (0.5, 0) float inputs:rotate = 180 }
       def Shader "st" { uniform token info:id = "ND_geompropvalue_vector2" string inputs:geomprop = "uv1" }`,
    );
    expect(placed.channels.baseColor?.map).toMatchObject({
      uvSet: 'uv1',
      transform: { scale: [2, 4], offset: [-0.5, 0], rotation: Math.PI },
    });
  });

  it('tile what is placed before', async () => {
    const { channels } = await material(
      'ND_standard_surface_surfaceshader',
      `color3f inputs:base_color${from('a')}`,
      `${image('a', 'ND_tiledimage_color3', `float2 inputs:texcoord${from('p', 'result')} float2 inputs:uvtiling = (2, 3) float2 inputs:uvoffset = (0.25, 0.5)`)}
       def Shader "p" { uniform token info:id = "UsdTransform2d" float2 inputs:scale = (4, 5) float2 inputs:translation = (0.5, 2) }`,
    );
    // (uv * (4, 5) + (0.5, 2)) * (2, 3) - (0.25, 0.5).
    expect(channels.baseColor?.map?.transform).toEqual({ scale: [8, 15], offset: [0.75, 5.5], rotation: 0 });
  });

  it('say it where nothing places an image; in MaterialX it lies on the first set then', async () => {
    const lone = await material(
      'UsdPreviewSurface',
      `color3f inputs:diffuseColor${from('a', 'rgb')}`,
      image('a', 'UsdUVTexture', 'float2 inputs:st = (0.5, 0.5)'),
    );
    expect(lone.channels.baseColor?.map).toMatchObject({ uvSet: null, unplaced: true });
    expect(lone.remarks).toMatchObject([{ severity: 'warning', subject: 'images without UVs', count: 1 }]);
    const standing = await material(
      'ND_standard_surface_surfaceshader',
      `color3f inputs:base_color${from('a')}`,
      image('a', 'ND_image_color3'),
    );
    expect(standing.channels.baseColor?.map?.unplaced).toBeUndefined();
    expect(standing.remarks).toEqual([]);
  });

  it('take values through interfaces, from node graphs too', async () => {
    const { channels } = await material(
      'UsdPreviewSurface',
      `float inputs:roughness.connect = </Quay/Look.inputs:rough>\ncolor3f inputs:diffuseColor${from('g', 'base')}`,
      `float inputs:rough = 0.35
       def NodeGraph "g" { color3f outputs:base.connect = </Quay/Look/g/tex.outputs:rgb> def Shader "tex" { uniform token info:id = "UsdUVTexture" asset inputs:file = @in.png@ } }`,
    );
    expect(channels.roughness?.value).toBeCloseTo(0.35, 7);
    expect(channels.baseColor?.map?.image).toBe('in.png');
  });

  it('turn roughness into gloss in the specular workflow, and keep a tint in the other', async () => {
    const gloss = await material(
      'UsdPreviewSurface',
      'int inputs:useSpecularWorkflow = 1 color3f inputs:specularColor = (0.2, 0.3, 0.4) float inputs:roughness = 0.25 float inputs:metallic = 1',
    );
    expect(gloss).toMatchObject({ workflow: 'specGloss', channels: { glossiness: { value: 0.75 } } });
    expect(gloss.channels.metalness ?? gloss.channels.roughness).toBeUndefined();
    // Nothing reflects there where nothing is said of it.
    const dull = await material('UsdPreviewSurface', 'int inputs:useSpecularWorkflow = 1');
    expect(dull.channels.specularColor?.value).toEqual([0, 0, 0]);
    const tinted = await material(
      'ND_standard_surface_surfaceshader',
      'color3f inputs:specular_color = (1, 0.5, 0.5)',
    );
    expect(tinted.channels.specularColor?.value).toEqual([1, 0.5, 0.5]);
    expect(tinted.remarks).toEqual([]);
  });

  it.each([
    ['ND_standard_surface_surfaceshader', 'sheen', 'sheen', '0.3'],
    ['ND_open_pbr_surface_surfaceshader', 'fuzz', 'fuzz_weight', '0.5'],
    ['ND_gltf_pbr_surfaceshader', 'sheen', 'sheen_weight', '0'],
  ])('say how rough cloth is: %s', async (id, word, weight, unsaid) => {
    const roughness = `${word}_roughness`;
    const colour = `color3f inputs:${word}_color = (1, 0.5, 0.5) float inputs:${weight} = 1`;
    expect((await material(id, colour)).extras.sheenRoughness).toBe(unsaid);
    const said = await material(id, `${colour} float inputs:${roughness} = 0.75`);
    expect(said.extras).toMatchObject({ sheenRoughness: '0.75' });
    // Handed on by the material.
    const handed = await material(
      id,
      `${colour} float inputs:${roughness}.connect = </Quay/Look.inputs:rough>`,
      'float inputs:rough = 0.25',
    );
    expect([handed.extras.sheenRoughness, handed.remarks]).toEqual(['0.25', []]);
    expect((await material(id, `float inputs:${roughness} = 0.75`)).extras.sheenRoughness).toBeUndefined();
  });

  it.each([
    ['ND_standard_surface_surfaceshader', 'float inputs:specular_anisotropy = 0.5', /anisotropy/],
    ['ND_standard_surface_surfaceshader', 'float inputs:thin_film_thickness = 400', /iridescence/],
    [
      'ND_standard_surface_surfaceshader',
      'float inputs:coat = 1 color3f inputs:coat_color = (1, 0, 0)',
      /coats/,
    ],
    ['ND_standard_surface_surfaceshader', 'color3f inputs:coat_color = (1, 0, 0)', null],
    ['ND_open_pbr_surface_surfaceshader', 'float inputs:thin_film_weight = 1', /iridescence/],
    ['ND_open_pbr_surface_surfaceshader', 'float inputs:thin_film_thickness = 0.7', null],
    [
      'ND_open_pbr_surface_surfaceshader',
      'float inputs:transmission_weight = 1 color3f inputs:transmission_color = (0, 1, 1)',
      /inside of glass/,
    ],
    ['ND_open_pbr_surface_surfaceshader', 'color3f inputs:transmission_color = (0, 1, 1)', null],
    ['ND_gltf_pbr_surfaceshader', 'float inputs:transmission = 1 float inputs:dispersion = 5', /dispersion/],
    ['ND_gltf_pbr_surfaceshader', 'float inputs:iridescence = 0 float inputs:anisotropy_strength = 0', null],
  ])('tell what has no channel, where it changes the look: %s, %s', async (id, inputs, told) => {
    const { remarks, name } = await material(id, inputs);
    const warnings = remarks.filter(({ severity }) => severity === 'warning');
    expect(warnings).toHaveLength(told ? 1 : 0);
    if (told) {
      expect(warnings[0].subject).toMatch(told);
      expect(warnings[0].message).toBe(`there is no channel for them: ${name}`);
    }
  });

  it('keep the strength of emission apart, and nothing where it is 0', async () => {
    const lit = (weight: string) =>
      material('ND_standard_surface_surfaceshader', `color3f inputs:emission_color = (1, 0.5, 0) ${weight}`);
    expect((await lit('float inputs:emission = 4')).channels.emission?.value).toEqual([4, 2, 0]);
    expect((await lit('')).channels.emission).toBeUndefined();
    expect(
      (await material('UsdPreviewSurface', 'color3f inputs:emissiveColor = (1, 0.5, 0)')).channels.emission
        ?.value,
    ).toEqual([1, 0.5, 0]);
  });

  it('read normals by their scale and bias', async () => {
    const reading = async (range: string) => {
      const { channels } = await material(
        'UsdPreviewSurface',
        `normal3f inputs:normal${from('n', 'rgb')}`,
        image('n', 'UsdUVTexture', range),
      );
      const { normalY, strength = 1, range: own = null } = channels.normal?.map ?? {};
      return [normalY, strength, own];
    };
    const words = (scale: string, bias: string) =>
      `float4 inputs:scale = (${scale}, 1) float4 inputs:bias = (${bias}, 0)`;
    const usual = ['Y+', 1, null];
    expect(await reading('')).toEqual(usual);
    // Too few numbers say nothing.
    expect(await reading('float2 inputs:scale = (2, 3)')).toEqual(usual);
    expect(await reading(words('2, 2, 2', '-1, -1, -1'))).toEqual(usual);
    expect(await reading(words('2, -2, 2', '-1, 1, -1'))).toEqual(['Y-', 1, null]);
    expect(await reading(words('1, 1, 2', '-0.5, -0.5, -1'))).toEqual(['Y+', 0.5, null]);
    for (const [scale, bias] of [
      [
        [2, 1.5, 2],
        [-1, -0.75, -1],
      ],
      [
        [2, 2, 2],
        [-1, -0.5, -1],
      ],
      [
        [2, 2, 2],
        [0, 0, 0],
      ],
      [
        [2, 2, 1],
        [-1, -1, 0],
      ],
      [
        [-2, 2, 2],
        [1, -1, -1],
      ],
    ])
      expect(await reading(words(scale.join(), bias.join()))).toEqual(['Y+', 1, { scale, bias }]);
  });

  it('take what their specifications say where an input says nothing', async () => {
    const plain = async (id: string, inputs = '') => {
      const { baseColor, metalness, roughness } = (await material(id, inputs)).channels;
      return [baseColor?.value, metalness?.value, roughness?.value];
    };
    expect(await plain('UsdPreviewSurface')).toEqual([[0.18, 0.18, 0.18], undefined, 0.5]);
    expect(await plain('ND_standard_surface_surfaceshader')).toEqual([[0.8, 0.8, 0.8], undefined, 0.2]);
    expect(await plain('ND_open_pbr_surface_surfaceshader')).toEqual([[0.8, 0.8, 0.8], undefined, 0.3]);
    expect(await plain('ND_gltf_pbr_surfaceshader')).toEqual([undefined, 1, 1]);
    expect(
      await plain(
        'UsdPreviewSurface',
        'color3f inputs:diffuseColor = (1, 0, 0) float inputs:roughness = 0.75',
      ),
    ).toEqual([[1, 0, 0], undefined, 0.75]);
  });

  it('are opaque at 1, cut out above a threshold, else blended', async () => {
    const alpha = async (inputs: string) => {
      const { alphaMode, alphaCutoff, channels } = await material('UsdPreviewSurface', inputs);
      return [alphaMode, alphaMode === 'mask' ? alphaCutoff : null, channels.opacity?.value ?? null];
    };
    expect(await alpha('float inputs:opacity = 1')).toEqual(['opaque', null, null]);
    expect(await alpha('float inputs:opacity = 0.5')).toEqual(['blend', null, 0.5]);
    expect(await alpha('float inputs:opacity = 0.5 float inputs:opacityThreshold = 0.25')).toEqual([
      'mask',
      0.25,
      0.5,
    ]);
    const same = await material(
      'UsdPreviewSurface',
      `color3f inputs:diffuseColor${from('a', 'rgb')}\nfloat inputs:opacity${from('a', 'rgb')}`,
      image('a', 'UsdUVTexture'),
    );
    expect(same.channels.opacity?.map?.component).toMatch(/^[ar]$/);
    const named = await material(
      'UsdPreviewSurface',
      `color3f inputs:diffuseColor${from('a', 'rgb')}\nfloat inputs:opacity${from('a', 'a')}`,
      image('a', 'UsdUVTexture'),
    );
    expect(named.channels.opacity?.map?.component).toBe('a');
  });

  it('read scale and bias as gain, offset, inversion and factor', async () => {
    const use = async (input: string, output: string, more: string) =>
      (await material('UsdPreviewSurface', `${input}${from('a', output)}`, image('a', 'UsdUVTexture', more)))
        .channels;
    expect(
      (
        await use(
          'float inputs:roughness',
          'g',
          'float4 inputs:scale = (1, 0.5, 1, 1) float4 inputs:bias = (0, 0.25, 0, 0)',
        )
      ).roughness?.map,
    ).toMatchObject({ gain: 0.5, offset: 0.25, component: 'g', invert: false });
    expect(
      (
        await use(
          'float inputs:roughness',
          'r',
          'float4 inputs:scale = (-1, 1, 1, 1) float4 inputs:bias = (1, 0, 0, 0)',
        )
      ).roughness?.map,
    ).toMatchObject({
      invert: true,
      gain: 1,
      offset: 0,
    });
    expect(
      (await use('color3f inputs:diffuseColor', 'rgb', 'float4 inputs:scale = (0.5, 0.25, 1, 1)')).baseColor,
    ).toMatchObject({
      value: [0.5, 0.25, 1],
      map: { gain: 1 },
    });
  });

  it('that nobody understands are told, and their value stands', async () => {
    const odd = await material(
      'UsdPreviewSurface',
      `float inputs:roughness${from('x', 'r')}\nfloat inputs:displacement = 0.1\nfloat inputs:occlusion = 0.5\nfloat inputs:glow = 3`,
      'def Shader "x" { uniform token info:id = "Noise" }',
    );
    expect(odd.remarks.map(({ subject }) => subject).join()).toMatch(/shader nodes of kind Noise/);
    expect(odd.extras.glow).toBe('3');
  });
});
