import { describe, expect, it } from 'vitest';
import {
  AssetPath,
  createListOp,
  createPrim,
  createProperty,
  type PropertySpec,
  type UsdLayer,
  UsdPath,
  type UsdValue,
} from './layer.ts';
import { writeUsda } from './writeUsda.ts';

function text(layer: UsdLayer): string {
  return new TextDecoder().decode(writeUsda(layer));
}

/** The lines of one property of a prim, without the prim's own. */
function property(name: string, typeName: string, rest: Partial<PropertySpec>): string[] {
  const prim = createPrim('Hull', 'Mesh');
  prim.properties.set(name, createProperty(name, typeName, rest));
  return text({ metadata: {}, prims: [prim] })
    .split('\n')
    .filter((line) => line.startsWith('    '));
}

describe('USD as text, property by property', () => {
  it.each<[string, UsdValue, string]>([
    ['bool', true, 'true'],
    ['int', -7, '-7'],
    ['int64', 9007199254740993n, '9007199254740993'],
    // Nine digits bring a number of single precision back.
    ['float', Math.fround(0.1), '0.100000001'],
    ['double', 0.1, '0.1'],
    ['double', 1e25, '1e25'],
    ['double', Number.NEGATIVE_INFINITY, '-inf'],
    ['double', Number.POSITIVE_INFINITY, 'inf'],
    ['double', Number.NaN, 'nan'],
    ['double', -0, '0'],
    ['string', 'a "b" \\ c\n\td\r', '"a \\"b\\" \\\\ c\\n\\td\\r"'],
    ['asset', new AssetPath('./hull.png'), '@./hull.png@'],
    ['asset', new AssetPath('a@b.png'), '@@@a@b.png@@@'],
    ['asset[]', [new AssetPath('a.png'), new AssetPath('b.png')], '[@a.png@, @b.png@]'],
    ['token[]', ['x', 'y'], '["x", "y"]'],
    ['float3', Float64Array.of(1, 0.5, 0), '(1, 0.5, 0)'],
    ['float3[]', Float32Array.of(1, 2, 3, 4, 5, 6), '[(1, 2, 3), (4, 5, 6)]'],
    ['int[]', Int32Array.of(1, 2), '[1, 2]'],
    ['int[]', Int32Array.of(), '[]'],
    [
      'matrix4d',
      Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 4, 5, 6, 1),
      '( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (4, 5, 6, 1) )',
    ],
    ['matrix3d[]', Float64Array.of(1, 0, 0, 0, 1, 0, 0, 0, 1), '[( (1, 0, 0), (0, 1, 0), (0, 0, 1) )]'],
    ['float', null, 'None'],
  ])('a %s', (type, value, written) => {
    expect(property('a', type, { value })).toEqual([`    ${type} a = ${written}`]);
  });

  it('says what is custom, uniform, without a value, and what is of its metadata', () => {
    expect(property('a', 'int', { value: 1, custom: true, uniform: true })).toEqual([
      '    custom uniform int a = 1',
    ]);
    expect(property('a', 'token', {})).toEqual(['    token a']);
    expect(
      property('a', 'float3[]', {
        value: Float64Array.of(0, 0, 0),
        metadata: { interpolation: 'vertex', elementSize: 2 },
      }),
    ).toEqual([
      '    float3[] a = [(0, 0, 0)] (',
      '        interpolation = "vertex"',
      '        elementSize = 2',
      '    )',
    ]);
  });

  it('has samples in a block, and connections; metadata stands once', () => {
    const samples = new Map<number, UsdValue>([
      [0, 1],
      [1.5, null],
    ]);
    expect(property('a', 'double', { timeSamples: samples })).toEqual([
      '    double a.timeSamples = {',
      '        0: 1,',
      '        1.5: None,',
      '    }',
    ]);
    expect(property('a', 'double', { value: 2, timeSamples: samples, metadata: { doc: 'x' } })).toEqual([
      '    double a = 2 (',
      '        doc = "x"',
      '    )',
      '    double a.timeSamples = {',
      '        0: 1,',
      '        1.5: None,',
      '    }',
    ]);
    expect(property('a', 'double', { timeSamples: samples, metadata: { doc: 'x' } }).slice(-3)).toEqual([
      '    } (',
      '        doc = "x"',
      '    )',
    ]);
    expect(property('a', 'color3f', { targets: ['/M/T.outputs:rgb'] })).toEqual([
      '    color3f a.connect = </M/T.outputs:rgb>',
    ]);
    expect(property('a', 'color3f', { targets: ['/A', '/B'], metadata: { doc: 'x' } })).toEqual([
      '    color3f a.connect = [</A>, </B>] (',
      '        doc = "x"',
      '    )',
    ]);
    expect(property('a', 'color3f', { value: Float64Array.of(1, 1, 1), targets: ['/A'] })).toEqual([
      '    color3f a = (1, 1, 1)',
      '    color3f a.connect = </A>',
    ]);
  });

  it('relates to one, to many and to none', () => {
    expect(property('m', '', { kind: 'relationship', targets: ['/Looks/Oak'] })).toEqual([
      '    rel m = </Looks/Oak>',
    ]);
    expect(property('m', '', { kind: 'relationship', targets: ['/A', '/B'] })).toEqual([
      '    rel m = [</A>, </B>]',
    ]);
    expect(property('m', '', { kind: 'relationship' })).toEqual(['    rel m']);
    expect(
      property('m', '', {
        kind: 'relationship',
        targets: ['/A'],
        metadata: { bindMaterialAs: 'strongerThanDescendants' },
      }),
    ).toEqual(['    rel m = </A> (', '        bindMaterialAs = "strongerThanDescendants"', '    )']);
  });
});

describe('USD as text, prims and layers', () => {
  it('says specifier, type, kind and lists of a prim', () => {
    const prim = createPrim('Quay', 'Xform');
    prim.metadata = {
      kind: 'component',
      hidden: true,
      apiSchemas: createListOp({ prepended: ['MaterialBindingAPI'] }),
      references: createListOp({ explicit: [{ asset: './boat.usda', prim: '/Boat' }] }),
      inherits: createListOp({ appended: ['/Base'], deleted: ['/Old'] }),
      customData: {
        year: 1897,
        depth: 2.5,
        name: 'Harrow',
        icon: new AssetPath('a.png'),
        list: ['x'],
        at: Float64Array.of(1, 2),
        'odd key': true,
        inner: { a: 1 },
      },
      comment: 'by the sea',
    };
    expect(text({ metadata: {}, prims: [prim] })).toBe(`#usda 1.0

def Xform "Quay" (
    kind = "component"
    hidden = true
    prepend apiSchemas = ["MaterialBindingAPI"]
    references = @./boat.usda@</Boat>
    delete inherits = [</Old>]
    append inherits = [</Base>]
    customData = {
        int year = 1897
        double depth = 2.5
        string name = "Harrow"
        asset icon = @a.png@
        string[] list = ["x"]
        double[] at = (1, 2)
        bool "odd key" = true
        dictionary inner = {
            int a = 1
        }
    }
    "by the sea"
)
{
}
`);
  });

  it('says what holds for the layer, with its sublayers and paths', () => {
    const head = text({
      metadata: {
        defaultPrim: 'Quay',
        metersPerUnit: 0.01,
        upAxis: 'Z',
        subLayers: ['./a.usda', './b.usda'],
        renderSettingsPrimPath: new UsdPath('/R'),
      },
      prims: [],
    });
    expect(head).toBe(`#usda 1.0
(
    defaultPrim = "Quay"
    metersPerUnit = 0.01
    upAxis = "Z"
    subLayers = [@./a.usda@, @./b.usda@]
    renderSettingsPrimPath = </R>
)
`);
  });
});
