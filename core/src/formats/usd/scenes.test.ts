import { describe, expect, it } from 'vitest';
import { PAIR, QUAD, readScene, reported } from '../../test/usdScenes.ts';
import { writeModel } from '../writeModel.ts';

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
    return readScene(arcs.join('\n'), {
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

  it('chooses a variant of what it takes in, nested ones as well', async () => {
    const set = (name: string, variants: string) =>
      `( variants = { string ${name} = "b" } variantSets = "${name}" ) { variantSet "${name}" = { ${variants} } }`;
    const files = {
      'ref.usda': `( defaultPrim = "R" )\ndef Xform "R" ${set('v', `"a" { ${number(1)} } "b" { ${number(2)} }`)}`,
      'nested.usda': `( defaultPrim = "R" )\ndef Xform "R" ${set(
        'v',
        `"a" ( variantSets = "w" ) { variantSet "w" = { "x" { ${number(3)} } "y" { ${number(4)} } } } "b" { ${number(2)} }`,
      )}`,
    };
    const chosen = async (arc: string, variants: string) => {
      const document = await readScene(
        `class "_C" ${set('v', `"a" { ${number(5)} } "b" { ${number(6)} }`)}
         def Xform "Quay" ( ${arc} variants = { ${variants} } ) {}`,
        files,
      );
      expect(document.remarks).toEqual([]);
      return document.nodes[0].custom.n;
    };
    expect(await chosen('references = @ref.usda@', '')).toBe(2);
    expect(await chosen('references = @ref.usda@', 'string v = "a"')).toBe(1);
    expect(await chosen('payload = @ref.usda@', 'string v = "a"')).toBe(1);
    expect(await chosen('inherits = </_C>', 'string v = "a"')).toBe(5);
    expect(await chosen('specializes = </_C>', 'string v = "a"')).toBe(5);
    expect(await chosen('references = @nested.usda@', 'string v = "a" string w = "y"')).toBe(4);
  });

  it('is what is taken in at a prim, before what comes with a prim further up', async () => {
    const files = {
      'ref.usda': `( defaultPrim = "Q" )\ndef Xform "Q" { def Xform "Boat" { ${number(2)} } }`,
      'boat.usda': `( defaultPrim = "B" )\ndef Xform "B" { ${number(7)} double userProperties:m = 7 }`,
    };
    const document = await readScene(
      'def Xform "Quay" ( references = @ref.usda@ ) { over "Boat" ( references = @boat.usda@ ) {} }',
      files,
    );
    expect(document.nodes.find(({ name }) => name === 'Boat')?.custom).toEqual({ n: 7, m: 7 });
  });

  it.each<[string, string, object]>([
    ['in place of them', 'references = @new.usda@', { k: 3 }],
    ['none of them', 'references = None', {}],
    ['but one', 'delete references = @a.usda@', { n: 2, m: 2 }],
    ['and one more before them', 'prepend references = @new.usda@', { n: 1, m: 2, k: 3 }],
    ['and one more behind them', 'append references = @c.usda@', { n: 1, m: 2 }],
    ['with the first behind the others', 'append references = @a.usda@', { n: 2, m: 2 }],
  ])('takes in what lower layers do, edited by those above: %s', async (_, arcs, expected) => {
    const file = (words: string) => `( defaultPrim = "R" )\ndef Xform "R" { ${words} }`;
    const document = await readScene('', {
      'quay.usda': `#usda 1.0\n( defaultPrim = "Quay" metersPerUnit = 1 upAxis = "Y" subLayers = [@low.usda@] )\nover "Quay" ( ${arcs} ) {}`,
      'low.usda': 'def Xform "Quay" ( references = [@a.usda@, @b.usda@] ) {}',
      'a.usda': file(number(1)),
      'b.usda': file(`${number(2)} double userProperties:m = 2`),
      'c.usda': file(number(9)),
      'new.usda': file('double userProperties:k = 3'),
    });
    expect(document.nodes[0].custom).toEqual(expected);
  });

  it('stands in the layer before the ones below it', async () => {
    const head =
      '#usda 1.0\n( defaultPrim = "Quay" metersPerUnit = 1 upAxis = "Y" subLayers = [@a.usda@, @b.usda@] )\n';
    const files = {
      'quay.usda': `${head}over "Quay" { ${number(1)} }`,
      'a.usda': `over "Quay" { ${number(2)} double userProperties:m = 2 }`,
      'b.usda': `def Xform "Quay" { ${number(3)} double userProperties:m = 3 double userProperties:k = 3 }`,
    };
    const document = await readScene('', files);
    expect(document.nodes[0].custom).toEqual({ n: 1, m: 2, k: 3 });
  });
});

describe('what is taken in', () => {
  it('has its paths changed to where it stands, two levels deep', async () => {
    const document = await readScene('def Xform "Quay" { def "Lamp" ( references = @lamp.usda@ ) {} }', {
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
    const one = await readScene('def Xform "Quay" { def "A" ( references = @one.usda@ ) {} }', {
      'one.usda': `def Mesh "M" { ${QUAD} }`,
    });
    expect(one.meshes).toHaveLength(1);
    const two = await readScene('def Xform "Quay" { def "A" ( references = @two.usda@ ) {} }', {
      'two.usda': `def Mesh "M" { ${QUAD} }\ndef Mesh "N" { ${QUAD} }`,
    });
    expect(reported(two)).toMatch(/two.usda names no default prim/);
  });

  it('is nothing where it is not active, only an over, or a variant that is not there', async () => {
    const document = await readScene(`def Xform "Quay" {
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
    const document = await readScene(`def Xform "Quay" {
      def Mesh "M" { ${QUAD} rel material:binding = <../Looks/Brass> }
      def Scope "Looks" { def Material "Brass" { token outputs:surface.connect = <./S.outputs:surface> def Shader "S" { uniform token info:id = "UsdPreviewSurface" float inputs:roughness = 0.25 } } }
    }`);
    expect(document.materials[0].channels.roughness?.value).toBe(0.25);
  });
});

describe('sides', () => {
  it('are those of parts, though parts of one material differ in them', async () => {
    const plate = (name: string, more: string) => `def Mesh "${name}" { ${QUAD} ${more}
      rel material:binding = </Quay/Looks/Brass> }`;
    const text = (more: string) => `def Xform "Quay" { ${plate('One', '')} ${plate('Two', more)}
      def Scope "Looks" { def Material "Brass" { } } }`;
    const mixed = await readScene(text('uniform bool doubleSided = 1'));
    expect(mixed.materials[0].doubleSided).toBe(true);
    expect(mixed.nodes.slice(1, 3).map(({ oneSided }) => oneSided)).toEqual([true, undefined]);
    expect((await readScene(text(''))).nodes.map(({ oneSided }) => oneSided)).not.toContain(true);
    const { files } = writeModel(mixed, 'quay.usda');
    const written = new TextDecoder().decode(files.get('quay.usda'));
    expect(written.match(/def Mesh "\w+"|doubleSided/g)).toEqual([
      'def Mesh "One"',
      'def Mesh "Two"',
      'doubleSided',
    ]);
  });
});

describe('values over a mesh', () => {
  const mesh = async (body: string) => {
    const document = await readScene(`def Xform "Quay" { def Mesh "M" { ${PAIR} ${body} } }`);
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
    // One texel of a palette for the whole mesh.
    ['constant', '(0.5,0.25)', '', 'face', [0, 0]],
  ])('%s of %s by [%s]', async (interpolation, values, indices, domain, index) => {
    const [layer] = (await mesh(uv(interpolation, values, indices))).mesh.uvSets;
    expect(layer).toMatchObject({ name: 'st', size: 2, domain });
    expect(layer.index && [...layer.index]).toEqual(index);
  });

  it.each<[string, string, RegExp]>([
    ['a pair of numbers', 'float2 primvars:wear = (0,0)', /one value for the whole mesh is no UV set/],
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
    expect(found.tangents).toMatchObject({ domain: 'corner', size: 4 });
    expect(document.remarks.map(({ subject }) => subject).join()).toMatch(/primvars of type float\[\]/);
    expect(document.remarks.map(({ subject }) => subject).join()).toMatch(/edge creases/);
  });

  it('follow the faces that are left', async () => {
    const document = await readScene(`def Xform "Quay" { def Mesh "M" {
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
