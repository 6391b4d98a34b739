import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import type { SceneDocument } from '../../scene/document.ts';
import { parseUsda } from './parseUsda.ts';
import { readUsd } from './readUsd.ts';
import { splitLooks } from './splitLooks.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const HEAD = '#usda 1.0\n( defaultPrim = "Quay" metersPerUnit = 1 upAxis = "Y" )\n';
const QUAD =
  'point3f[] points = [(0,0,0), (2,0,0), (2,3,0), (0,3,0)]\nint[] faceVertexCounts = [4]\nint[] faceVertexIndices = [0, 1, 2, 3]\n';
const PAIR =
  'point3f[] points = [(0,0,0), (1,0,0), (1,1,0), (0,1,0), (0,0,1)]\nint[] faceVertexCounts = [4, 3]\nint[] faceVertexIndices = [0,1,2,3, 0,1,4]\n';

function read(body: string, files: Record<string, string> = {}): Promise<SceneDocument> {
  const all = {
    'quay.usda': HEAD + body,
    ...Object.fromEntries(
      Object.entries(files).map(([path, text]) => [path, text.startsWith('#') ? text : `#usda 1.0\n${text}`]),
    ),
  };
  return readUsd(
    bytes(all['quay.usda']),
    'quay.usda',
    memorySource('test', Object.fromEntries(Object.entries(all).map(([path, text]) => [path, bytes(text)]))),
  );
}

const reported = (document: SceneDocument) =>
  document.remarks.map(({ code, message }) => `${code}: ${message}`).join('\n');

describe('which opinion is the strongest', () => {
  const number = (value: number) => `double userProperties:n = ${value}`;
  /** Every arc at once; each test takes the stronger ones away. */
  const stage = (without: number) => {
    const arcs = [
      `class "_I" { ${number(2)} }\nclass "_S" { ${number(6)} }`,
      `def Xform "Quay" (
        inherits = ${without < 2 ? '</_I>' : 'None'}
        specializes = </_S>
        variants = { string v = "a" }
        prepend variantSets = "v"
        references = ${without < 4 ? '@ref.usda@' : 'None'}
        payload = ${without < 5 ? '@pay.usda@' : 'None'}
      ) {
        ${without < 1 ? number(1) : ''}
        variantSet "v" = { "a" { ${without < 3 ? number(3) : ''} } "b" { ${number(9)} } }
      }`,
    ];
    return read(arcs.join('\n'), {
      'ref.usda': `( defaultPrim = "R" )\ndef Xform "R" { ${number(4)} }`,
      'pay.usda': `( defaultPrim = "P" )\ndef Xform "P" { ${number(5)} }`,
    });
  };

  it.each([
    [0, 1, 'its own'],
    [1, 2, 'what it inherits'],
    [2, 3, 'the chosen variant'],
    [3, 4, 'what it refers to'],
    [4, 5, 'its payload'],
    [5, 6, 'what it specializes'],
  ])('with %i stronger ones gone is %i: %s', async (without, expected) => {
    const document = await stage(without);
    expect(document.nodes[0].custom).toEqual({ n: expected });
    expect(document.remarks).toEqual([]);
  });

  it('stands in the layer before the ones below it', async () => {
    const head =
      '#usda 1.0\n( defaultPrim = "Quay" metersPerUnit = 1 upAxis = "Y" subLayers = [@a.usda@, @b.usda@] )\n';
    const files = {
      'quay.usda': `${head}over "Quay" { ${number(1)} }`,
      'a.usda': `over "Quay" { ${number(2)} double userProperties:m = 2 }`,
      'b.usda': `def Xform "Quay" { ${number(3)} double userProperties:m = 3 double userProperties:k = 3 }`,
    };
    const document = await read('', files);
    expect(document.nodes[0].custom).toEqual({ n: 1, m: 2, k: 3 });
  });
});

describe('what is taken in', () => {
  it('has its paths changed to where it stands, two levels deep', async () => {
    const document = await read('def Xform "Quay" { def "Lamp" ( references = @lamp.usda@ ) {} }', {
      'lamp.usda':
        '( defaultPrim = "L" )\ndef Xform "L" { def "Body" ( references = @parts/body.usda@</B> ) {} }',
      'parts/body.usda': `def Xform "B" { def Mesh "Shade" { ${QUAD} rel material:binding = </B/Looks/Brass> }
        def Scope "Looks" { def Material "Brass" { token outputs:surface.connect = </B/Looks/Brass/S.outputs:surface>
          def Shader "S" { uniform token info:id = "UsdPreviewSurface" float inputs:metallic = 1 token outputs:surface } } } }`,
    });
    expect(document.nodes.map(({ name }) => name)).toEqual(['Quay', 'Lamp', 'Body', 'Shade']);
    expect(document.materials.map(({ name, channels }) => [name, channels.metalness?.value])).toEqual([
      ['Brass', 1],
    ]);
    expect(document.nodes[3].materials).toEqual([0]);
  });

  it('is the only root where no default is named, and an error where several are', async () => {
    const one = await read('def Xform "Quay" { def "A" ( references = @one.usda@ ) {} }', {
      'one.usda': `def Mesh "M" { ${QUAD} }`,
    });
    expect(one.meshes).toHaveLength(1);
    const two = await read('def Xform "Quay" { def "A" ( references = @two.usda@ ) {} }', {
      'two.usda': `def Mesh "M" { ${QUAD} }\ndef Mesh "N" { ${QUAD} }`,
    });
    expect(reported(two)).toMatch(/two.usda names no default prim/);
  });

  it('is nothing where it is not active, only an over, or a variant that is not there', async () => {
    const document = await read(`def Xform "Quay" {
      def Mesh "Off" ( active = false ) { ${QUAD} }
      over "Ghost" { def Mesh "Inside" { ${QUAD} } }
      def Xform "Flag" ( variants = { string v = "gone" } prepend variantSets = "v" ) { variantSet "v" = { "a" { def Mesh "M" { ${QUAD} } } } }
    }`);
    expect(document.nodes.map(({ name }) => name)).toEqual(['Quay', 'Flag']);
    expect(document.remarks.find(({ code }) => code === 'read.notCarried')?.subject).toContain(
      'variants chosen but not there',
    );
  });

  it('with relative paths is seen from where they stand', async () => {
    const document = await read(`def Xform "Quay" {
      def Mesh "M" { ${QUAD} rel material:binding = <../Looks/Brass> }
      def Scope "Looks" { def Material "Brass" { token outputs:surface.connect = <./S.outputs:surface> def Shader "S" { uniform token info:id = "UsdPreviewSurface" float inputs:roughness = 0.25 } } }
    }`);
    expect(document.materials[0].channels.roughness?.value).toBe(0.25);
  });
});

describe('values over a mesh', () => {
  const mesh = async (body: string) => {
    const document = await read(`def Xform "Quay" { def Mesh "M" { ${PAIR} ${body} } }`);
    return { mesh: document.meshes[0], document };
  };
  const uv = (interpolation: string, values: string, more = '') =>
    `texCoord2f[] primvars:st = [${values}] ( interpolation = "${interpolation}" )${more === '' ? '' : `\nint[] primvars:st:indices = [${more}]`}`;

  it.each<[string, string, string, string, number[] | null]>([
    ['vertex', '(0,0),(1,0),(1,1),(0,1),(9,9)', '', 'point', null],
    ['varying', '(0,0),(1,0),(1,1),(0,1),(9,9)', '', 'point', null],
    ['faceVarying', '(0,0),(1,0),(1,1),(0,1),(2,2),(3,3),(4,4)', '', 'corner', null],
    ['faceVarying', '(0,0),(1,0)', '0,1,0,1,1,1,0', 'corner', [0, 1, 0, 1, 1, 1, 0]],
    ['uniform', '(5,5),(6,6)', '', 'face', null],
    ['vertex', '(0,0),(1,0)', '0,1,1,0,1', 'point', [0, 1, 1, 0, 1]],
  ])('%s of %s by [%s]', async (interpolation, values, indices, domain, index) => {
    const [layer] = (await mesh(uv(interpolation, values, indices))).mesh.uvSets;
    expect(layer).toMatchObject({ name: 'st', size: 2, domain });
    expect(layer.index && [...layer.index]).toEqual(index);
  });

  it.each<[string, string, RegExp]>([
    ['one value for the whole', uv('constant', '(0,0)'), /one value for the whole mesh is no UV set/],
    ['too few', uv('faceVarying', '(0,0),(1,1)'), /it has 2 values, and 7 are needed/],
    ['indices that point at nothing', uv('vertex', '(0,0)', '0,0,0,0,7'), /its indices point at nothing/],
  ])('%s are left out, and that is said', async (_what, body, message) => {
    const { mesh: found, document } = await mesh(body);
    expect(found.uvSets).toEqual([]);
    expect(reported(document)).toMatch(message);
  });

  it('are colours with their opacity where both are spread alike', async () => {
    const colour = 'color3f[] primvars:displayColor = [(1,0,0),(0,1,0)] ( interpolation = "uniform" )';
    const opacity = (interpolation: string) =>
      `float[] primvars:displayOpacity = [0.25, 1] ( interpolation = "${interpolation}" )`;
    expect((await mesh(`${colour}\n${opacity('uniform')}`)).mesh.colours[0]).toMatchObject({
      size: 4,
      domain: 'face',
      values: Float64Array.of(1, 0, 0, 0.25, 0, 1, 0, 1),
    });
    expect((await mesh(`${colour}\n${opacity('constant')}`)).mesh.colours[0].size).toBe(3);
    const [constant] = (await mesh('color3f[] primvars:displayColor = [(0.5,0.25,1)]')).mesh.colours;
    expect([constant.domain, [...(constant.index ?? [])], [...constant.values]]).toEqual([
      'face',
      [0, 0],
      [0.5, 0.25, 1],
    ]);
  });

  it('are normals, tangents, and others that are told', async () => {
    const { mesh: found, document } = await mesh(`
      normal3f[] normals = [(0,0,1),(0,0,1),(0,0,1),(0,0,1),(0,1,0)]
      normal3f[] primvars:normals = [(1,0,0),(0,1,0)] ( interpolation = "uniform" )
      vector3f[] primvars:tangents = [(1,0,0),(0,1,0)] ( interpolation = "uniform" )
      float[] primvars:wear = [1, 2] ( interpolation = "uniform" )
      int[] creaseIndices = [0, 1]`);
    // Those that are primvars win.
    expect(found.normals).toMatchObject({ domain: 'face', values: Float64Array.of(1, 0, 0, 0, 1, 0) });
    expect(found.tangents).toMatchObject({ domain: 'face', size: 3 });
    expect(document.remarks.map(({ subject }) => subject).join()).toMatch(/primvars of type float\[\]/);
    expect(document.remarks.map(({ subject }) => subject).join()).toMatch(/edge creases/);
  });

  it('follow the faces that are left', async () => {
    const document = await read(`def Xform "Quay" { def Mesh "M" {
      point3f[] points = [(0,0,0), (1,0,0), (1,1,0), (0,1,0)]
      int[] faceVertexCounts = [3, 3, 2, 3]
      int[] faceVertexIndices = [0,1,2, 0,9,2, 0,1, 1,2,3]
      ${uv('faceVarying', Array.from({ length: 11 }, (_, i) => `(${i},0)`).join())}
      color3f[] primvars:displayColor = [(1,0,0),(0,1,0),(0,0,1),(1,1,1)] ( interpolation = "uniform" )
    } }`);
    const [found] = document.meshes;
    expect([[...found.faceCounts], [...found.faceCorners]]).toEqual([
      [3, 3],
      [0, 1, 2, 1, 2, 3],
    ]);
    expect([...(found.uvSets[0].index ?? [])]).toEqual([0, 1, 2, 8, 9, 10]);
    expect([...(found.colours[0].index ?? [])]).toEqual([0, 3]);
    expect(document.remarks.find(({ code }) => code === 'read.indexRange')).toMatchObject({
      severity: 'error',
      subject: '/Quay/M',
    });
  });

  it('turn with faces that are left-handed; subdivision is kept', async () => {
    const { mesh: left } = await mesh(
      'uniform token orientation = "leftHanded"\nuniform token subdivisionScheme = "none"',
    );
    const turned = [...left.faceCorners];
    // The same points, the other way round.
    expect([turned.slice(0, 4).sort(), turned.slice(4).sort()]).toEqual([
      [0, 1, 2, 3],
      [0, 1, 4],
    ]);
    const order = (list: number[], a: number, b: number) =>
      (list.indexOf(b) - list.indexOf(a) + list.length) % list.length;
    expect(order(turned.slice(0, 4), 1, 0)).toBe(1);
    expect(left.subdivision).toBe('none');
    expect((await mesh('')).mesh.subdivision).toBe('catmullClark');
  });
});

describe('images that layers name', () => {
  const texture = (name: string, file: string) =>
    `def Material "${name}" { token outputs:surface.connect = </Quay/${name}/S.outputs:surface>
      def Shader "S" { uniform token info:id = "UsdPreviewSurface" token outputs:surface
        color3f inputs:diffuseColor.connect = </Quay/${name}/T.outputs:rgb> }
      def Shader "T" { uniform token info:id = "UsdUVTexture" asset inputs:file = @${file}@ float3 outputs:rgb } }`;
  const imagesOf = async (own: string, other: string) => {
    const files = {
      'set/quay.usda': `${HEAD}def Xform "Quay" ( references = @../props/crate.usda@ ) { ${texture('Own', own)} }`,
      'props/crate.usda': `#usda 1.0\n( defaultPrim = "Quay" )\ndef Xform "Quay" { ${texture('Other', other)} }`,
      'set/maps/rust.png': 'one',
      'maps/rust.png': 'another',
    };
    const source = memorySource(
      'quay',
      Object.fromEntries(Object.entries(files).map(([path, text]) => [path, bytes(text)])),
    );
    const { images, materials } = await readUsd(bytes(files['set/quay.usda']), 'set/quay.usda', source);
    const used = materials.map(({ name, channels }) => [name, channels.baseColor?.map?.image]);
    return { images, used: Object.fromEntries(used) };
  };

  it('are one where they are one file, however it is written', async () => {
    const { images, used } = await imagesOf('maps/rust.png', '../set/maps/rust.png');
    expect(images).toMatchObject([{ written: 'maps/rust.png', relative: 'maps/rust.png' }]);
    expect(used).toEqual({ Own: 'maps/rust.png', Other: 'maps/rust.png' });
  });

  it('are two where two folders hold files of one name', async () => {
    const { images, used } = await imagesOf('maps/rust.png', '../maps/rust.png');
    expect(images.map(({ relative }) => relative).sort()).toEqual(['../maps/rust.png', 'maps/rust.png']);
    expect(used).toEqual({ Own: 'maps/rust.png', Other: '../maps/rust.png' });
  });

  it('keep their written path where nobody has them', async () => {
    const { images, used } = await imagesOf('maps/gone.png', 'textures/gone.png');
    expect(images.map(({ relative }) => relative)).toEqual([null, null]);
    expect(used).toEqual({ Own: 'maps/gone.png', Other: 'textures/gone.png' });
  });
});

describe('materials of a mesh', () => {
  const looks = 'def Scope "Looks" { def Material "A" {} def Material "B" {} def Material "C" {} }';
  const subset = (name: string, faces: string, material: string) =>
    `def GeomSubset "${name}" { uniform token elementType = "face" int[] indices = [${faces}] rel material:binding = </Quay/Looks/${material}> }`;
  const names = (document: SceneDocument) => {
    const node = document.nodes.find(({ name }) => name === 'M');
    const slots = document.meshes[0].faceMaterial ?? [0, 0];
    return [...slots].map((slot) => document.materials[node?.materials[slot] ?? -1]?.name ?? null);
  };

  it('are those of its subsets, and its own for the rest', async () => {
    const bound = 'rel material:binding = </Quay/Looks/A>';
    const one = await read(
      `def Xform "Quay" { def Mesh "M" { ${PAIR} ${bound} ${subset('s', '1', 'B')} } ${looks} }`,
    );
    expect(names(one)).toEqual(['A', 'B']);
    const all = await read(
      `def Xform "Quay" { def Mesh "M" { ${PAIR} ${bound} ${subset('s', '1', 'B')} ${subset('t', '0', 'C')} } ${looks} }`,
    );
    expect(names(all)).toEqual(['C', 'B']);
  });

  it('stay with their faces where one before them is left out', async () => {
    const broken = PAIR.replace('[4, 3]', '[3, 4, 3]').replace('[0,1,2,3', '[0,1,99, 0,1,2,3');
    const document = await read(
      `def Xform "Quay" { def Mesh "M" { ${broken} ${subset('s', '1', 'B')} ${subset('t', '0, 2', 'C')} } ${looks} }`,
    );
    expect(names(document)).toEqual(['B', 'C']);
  });

  it('stay with their faces where holes are cut', async () => {
    const cut = `${PAIR} int[] holeIndices = [0]`;
    const document = await read(
      `def Xform "Quay" { def Mesh "M" { ${cut} ${subset('s', '1', 'B')} ${subset('t', '0', 'C')} } ${looks} }`,
    );
    expect([...document.meshes[0].faceCounts]).toEqual([3]);
    expect(names(document)).toEqual(['B']);
    expect(document.remarks).toEqual([]);
  });

  it('come down from parents, unless a stronger one stands above', async () => {
    const tree = (strength: string) =>
      `def Xform "Quay" { ${looks} def Xform "P" { rel material:binding = </Quay/Looks/A> ${strength} def Mesh "M" { ${PAIR} rel material:binding = </Quay/Looks/B> } } }`;
    expect(names(await read(tree('')))).toEqual(['B', 'B']);
    expect(names(await read(tree('( bindMaterialAs = "strongerThanDescendants" )')))).toEqual(['A', 'A']);
    const inherited = `def Xform "Quay" { ${looks} rel material:binding = </Quay/Looks/C> def Mesh "M" { ${PAIR} } }`;
    expect(names(await read(inherited))).toEqual(['C', 'C']);
    const preview = `def Xform "Quay" { ${looks} def Mesh "M" { ${PAIR} rel material:binding:preview = </Quay/Looks/B> } }`;
    expect(names(await read(preview))).toEqual(['B', 'B']);
  });
});

describe('networks of shaders', () => {
  /** A material whose surface has what a test writes, and nodes beside it. */
  const material = async (id: string, inputs: string, nodes = '') => {
    const document = await read(
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
      transform: { scale: [2, 3], offset: [0.5, 0.25], rotation: 0 },
    });
    expect(channels.normal?.map).toMatchObject({ image: 'n.png' });
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
      transform: { scale: [2, 4], offset: [-0.5, -0], rotation: Math.PI },
    });
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

  it('turn roughness into gloss in the specular workflow, and tell a tint in the other', async () => {
    const gloss = await material(
      'UsdPreviewSurface',
      'int inputs:useSpecularWorkflow = 1 color3f inputs:specularColor = (0.2, 0.3, 0.4) float inputs:roughness = 0.25 float inputs:metallic = 1',
    );
    expect(gloss).toMatchObject({ workflow: 'specGloss', channels: { glossiness: { value: 0.75 } } });
    expect(gloss.channels.metalness ?? gloss.channels.roughness).toBeUndefined();
    const tinted = await material(
      'ND_standard_surface_surfaceshader',
      'color3f inputs:specular_color = (1, 0.5, 0.5)',
    );
    expect(tinted.remarks.map(({ subject }) => subject).join()).toMatch(/tints of what reflects/);
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

describe('looks in a layer of their own', () => {
  it('leave the geometry without bindings, and bind it from above', () => {
    const { layer } = parseUsda(
      bytes(`#usda 1.0
( defaultPrim = "Quay" upAxis = "Z" )
def Xform "Quay" {
  def Mesh "A" { ${QUAD} rel material:binding = </Quay/Looks/M> }
  def Xform "Bare" {}
  def Scope "Looks" { def Material "M" {} }
  def Scope "Things" { def Xform "T" {} }
}`),
    );
    const { root, looks } = splitLooks(layer, 'quay.looks.usda');
    expect(root.metadata).toMatchObject({
      defaultPrim: 'Quay',
      upAxis: 'Z',
      subLayers: ['./quay.looks.usda'],
    });
    expect(looks.metadata).toEqual(layer.metadata);
    const [shape] = root.prims;
    expect(shape.children.map(({ name }) => name)).toEqual(['A', 'Bare', 'Things']);
    expect(shape.children[0].properties.has('material:binding')).toBe(false);
    expect(shape.children[0].properties.has('points')).toBe(true);
    const [look] = looks.prims;
    expect([look.specifier, look.typeName]).toEqual(['over', '']);
    expect(look.children.map(({ name, specifier }) => [name, specifier])).toEqual([
      ['A', 'over'],
      ['Looks', 'def'],
    ]);
    expect(look.children[0].properties.get('material:binding')?.targets).toEqual(['/Quay/Looks/M']);
    // What was given is as it was.
    expect(layer.prims[0].children[0].properties.has('material:binding')).toBe(true);
  });
});
