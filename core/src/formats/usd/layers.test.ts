import { describe, expect, it } from 'vitest';
import {
  AssetPath,
  createPrim,
  createProperty,
  isListOp,
  type PrimSpec,
  type UsdLayer,
  UsdPath,
  type UsdValue,
} from './layer.ts';
import { parseUsda } from './parseUsda.ts';
import { parseUsdc } from './parseUsdc.ts';
import { writeUsda } from './writeUsda.ts';
import { writeUsdc } from './writeUsdc.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const parse = (body: string, head = '') => parseUsda(bytes(`#usda 1.0\n${head}${body}`), 'a.usda');
const root = (layer: UsdLayer): PrimSpec => layer.prims[0];

const withoutVariants = (layer: UsdLayer): UsdLayer => ({
  ...layer,
  prims: layer.prims.map((prim) => ({ ...prim, variantSets: new Map() })),
});

/** Values as plain numbers, whatever array holds them. */
function plain(value: UsdValue | undefined): unknown {
  if (value instanceof AssetPath) return `@${value.path}@`;
  if (value instanceof UsdPath) return `<${value.path}>`;
  if (ArrayBuffer.isView(value)) return Array.from(value as Float64Array, Number);
  if (typeof value === 'bigint') return Number(value);
  if (Array.isArray(value)) return value.map((item) => plain(item as UsdValue));
  if (value && typeof value === 'object' && !isListOp(value))
    return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, plain(one as UsdValue)]));
  return value;
}

const f = Math.fround;
/** Each type with a value as text and what it is; half precision has eleven bits, single 24. */
const TYPES: [string, string, unknown][] = [
  ['bool', 'true', true],
  ['bool', 'false', false],
  ['uchar', '200', 200],
  ['int', '-7', -7],
  ['int', '2147483647', 2147483647],
  ['int', '-2147483648', -2147483648],
  ['uint', '4294967295', 4294967295],
  ['int64', '-9007199254740991', -9007199254740991],
  ['uint64', '9007199254740991', 9007199254740991],
  ['half', '0.5', 0.5],
  ['half', '-2048', -2048],
  ['float', '0.1', f(0.1)],
  ['float', '-1e-8', f(-1e-8)],
  ['double', '0.1', 0.1],
  ['double', '1e300', 1e300],
  ['double', '2147483647', 2147483647],
  ['double', '2147483648', 2147483648],
  ['double', '-2147483648', -2147483648],
  ['double', '-2147483649', -2147483649],
  ['double', '16777217', 16777217],
  ['float', '16777216', 16777216],
  ['double', '.5', 0.5],
  ['double', '-inf', Number.NEGATIVE_INFINITY],
  ['timecode', '24', 24],
  ['string', '"a \\"word\\" and\\n\\ttwo \\\\ lines"', 'a "word" and\n\ttwo \\ lines'],
  ['string', "'single'", 'single'],
  ['string', '"""three\nlines "here"\nof it"""', 'three\nlines "here"\nof it'],
  ['string', '"\\x41"', 'A'],
  ['string', '""', ''],
  ['token', '"rightHanded"', 'rightHanded'],
  ['asset', '@./tex/hull.png@', '@./tex/hull.png@'],
  ['asset', '@@@a@b.png@@@', '@a@b.png@'],
  ['int2', '(1, -2)', [1, -2]],
  ['int3', '(1, 200, -300)', [1, 200, -300]],
  ['int4', '(0, 0, 0, 127)', [0, 0, 0, 127]],
  ['half2', '(0.25, -4)', [0.25, -4]],
  ['half3', '(0.25, -4, 8)', [0.25, -4, 8]],
  ['half4', '(1, 2, 3, 4)', [1, 2, 3, 4]],
  ['float2', '(1, -128)', [1, -128]],
  ['float3', '(0.25, 1.5, -2.125)', [0.25, 1.5, -2.125]],
  ['float4', '(127, -128, 0, 1)', [127, -128, 0, 1]],
  ['float3', '(128, 0, 0)', [128, 0, 0]],
  ['double2', '(0.1, 0.2)', [0.1, 0.2]],
  ['double3', '(1, 2, 3)', [1, 2, 3]],
  ['double4', '(0.1, 1, 2, 3)', [0.1, 1, 2, 3]],
  ['color3f', '(0.5, 0.25, 1)', [0.5, 0.25, 1]],
  ['texCoord2f', '(0.5, 2)', [0.5, 2]],
  // The real part comes first in text.
  ['quatf', '(0.5, 1, 2, 3)', [0.5, 1, 2, 3]],
  ['quatd', '(0.1, 1, 2, 3)', [0.1, 1, 2, 3]],
  ['quath', '(1, 0, 0.5, 0)', [1, 0, 0.5, 0]],
  ['matrix2d', '((1, 2), (3, 4))', [1, 2, 3, 4]],
  ['matrix3d', '((1, 0, 0), (0, 2, 0), (0, 0, 3))', [1, 0, 0, 0, 2, 0, 0, 0, 3]],
  [
    'matrix4d',
    '((1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (4.5, 5, 6, 1))',
    [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 4.5, 5, 6, 1],
  ],
  ['bool[]', '[true, false, 1]', [1, 0, 1]],
  ['uchar[]', '[0, 255]', [0, 255]],
  ['int[]', '[3, -1, 4]', [3, -1, 4]],
  ['uint[]', '[0, 4294967295]', [0, 4294967295]],
  ['int64[]', '[-5, 9007199254740991]', [-5, 9007199254740991]],
  ['half[]', '[0.5, 1]', [0.5, 1]],
  ['float[]', '[0.1, 1e10, -0.5]', [f(0.1), f(1e10), -0.5]],
  ['double[]', '[0.1, 1e-300]', [0.1, 1e-300]],
  ['string[]', '["a", "b \\"c\\""]', ['a', 'b "c"']],
  ['token[]', '["x", "y", "x"]', ['x', 'y', 'x']],
  ['asset[]', '[@a.png@, @b/c.png@]', ['@a.png@', '@b/c.png@']],
  ['float2[]', '[(1, 2), (3, 4.5)]', [1, 2, 3, 4.5]],
  ['point3f[]', '[(0, 0, 0), (1, 2.5, -3)]', [0, 0, 0, 1, 2.5, -3]],
  ['double3[]', '[(0.1, 0, 0)]', [0.1, 0, 0]],
  ['quatf[]', '[(1, 0, 0, 0), (0.5, 0.5, 0.5, 0.5)]', [1, 0, 0, 0, 0.5, 0.5, 0.5, 0.5]],
  [
    'matrix4d[]',
    '[((1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 0, 0, 1))]',
    [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
  ],
  ['int[]', '[]', []],
  ['token[]', '[]', []],
  ['float3', 'None', null],
];

describe('a value of each type', () => {
  const body = `def "Quay"\n{\n${TYPES.map(([type, text], i) => `    ${type} value${i} = ${text}`).join('\n')}\n}\n`;
  const { layer, fault } = parse(body);

  it.each(
    TYPES.map(([type, text, expected], i) => [`${type} ${text.replaceAll('\n', ' ')}`, i, expected] as const),
  )('%s', (_name, i, expected) => {
    const [type] = TYPES[i];
    const one = parse(`def "Quay" { ${type} value${i} = ${TYPES[i][1]} }`);
    expect(one.fault).toBeNull();
    // Single precision is a matter of whoever holds the number: text says 0.1.
    const near = (found: unknown, required: unknown): void => {
      if (Array.isArray(required)) {
        expect(found).toHaveLength(required.length);
        required.forEach((part, k) => near((found as unknown[])[k], part));
      } else if (typeof required === 'number' && Number.isFinite(required))
        expect(Math.abs((found as number) - required)).toBeLessThanOrEqual(Math.abs(required) * 1e-7);
      else expect(found).toEqual(required);
    };
    const property = root(one.layer).properties.get(`value${i}`);
    expect(property?.typeName).toBe(type);
    near(plain(property?.value), expected);
    const crate = parseUsdc(writeUsdc(one.layer), 'a.usdc');
    expect(crate.fault).toBeNull();
    expect(root(crate.layer).properties.get(`value${i}`)?.typeName).toBe(type);
    near(plain(root(crate.layer).properties.get(`value${i}`)?.value), expected);
    const again = parseUsda(writeUsda(crate.layer), 'b.usda');
    expect(again.fault).toBeNull();
    near(plain(root(again.layer).properties.get(`value${i}`)?.value), expected);
  });

  it('stands beside all the others in one file', () => {
    expect(fault).toBeNull();
    const crate = root(parseUsdc(writeUsdc(layer), 'a.usdc').layer);
    expect([...crate.properties.keys()]).toEqual(TYPES.map((_, i) => `value${i}`));
    const text = root(parseUsda(writeUsda(layer), 'b.usda').layer);
    for (const [name, { typeName, value }] of root(layer).properties) {
      expect([name, text.properties.get(name)?.typeName, plain(text.properties.get(name)?.value)]).toEqual([
        name,
        typeName,
        plain(value),
      ]);
    }
  });

  it('is whole at the ends of what an integer holds, and beyond', () => {
    const { layer: wide } = parse('def "Quay" { int a = -2147483648 int b = 2147483647 }');
    wide.metadata.customLayerData = { least: -(2 ** 31) + 1, most: 2 ** 31 - 1, over: 2 ** 31, far: 2 ** 40 };
    const { layer: found } = parseUsdc(writeUsdc(wide));
    expect(plain(found.metadata.customLayerData)).toEqual({
      least: -2147483647,
      most: 2147483647,
      over: 2147483648,
      far: 1099511627776,
    });
    expect(['a', 'b'].map((name) => root(found).properties.get(name)?.value)).toEqual([
      -2147483648, 2147483647,
    ]);
  });

  it('that is not a number is none after a journey either', () => {
    const { layer: odd } = parse('def "Quay" { double a = nan float b = inf double[] c = [nan, -inf, 1] }');
    for (const found of [root(parseUsdc(writeUsdc(odd)).layer), root(parseUsda(writeUsda(odd)).layer)])
      expect(['a', 'b', 'c'].map((name) => plain(found.properties.get(name)?.value))).toEqual([
        Number.NaN,
        Infinity,
        [Number.NaN, -Infinity, 1],
      ]);
  });
});

describe('what a layer says of prims and properties', () => {
  const TEXT = `(
    "A harbour"
    customLayerData = {
        string author = "M. Fender"
        int count = 3
        double[] box = [0, 1.5]
        dictionary inner = {
            bool wet = true
            asset map = @m.png@
            string[] names = ["a", "b"]
            string "odd key" = "v"
        }
    }
    defaultPrim = "Quay"
    metersPerUnit = 0.01
    subLayers = [@./a.usda@, @b/c.usda@ (offset = 2)]
    upAxis = "Z"
)

class "_Base"
{
}

over "Beside"
{
}

def Xform "Quay" (
    active = false
    prepend apiSchemas = ["MaterialBindingAPI", "SkelBindingAPI"]
    customData = {
        double depth = 2.5
    }
    delete inherits = </_Old>
    inherits = </_Base>
    instanceable = true
    kind = "assembly"
    payload = @far.usda@
    append references = [@hull.usda@</Hull>, </Beside>]
    variants = {
        string paint = "red"
    }
    prepend variantSets = ["paint", "size"]
)
{
    custom string note = "kept" (
        doc = "what it is"
    )
    uniform token purpose = "render"
    float moving = 1.5
    float moving.timeSamples = {
        0: 1,
        12.5: 2.25,
        24: None,
    }
    color3f inputs:colour.connect = </Quay/Look.outputs:rgb>
    rel material:binding = </Quay/Look>
    rel many = [</Quay/A>, </Quay/B>]
    rel none
    token declared

    def Scope "Look"
    {
    }

    variantSet "paint" = {
        "red" {
            color3f tint = (1, 0, 0)

            def Xform "Flag"
            {
            }
        }
        "blue" {
        }
    }
}
`;
  const { layer, fault } = parse(TEXT);

  const check = (found: UsdLayer) => {
    expect(found.metadata).toMatchObject({
      comment: 'A harbour',
      defaultPrim: 'Quay',
      metersPerUnit: 0.01,
      upAxis: 'Z',
    });
    expect(plain(found.metadata.subLayers)).toEqual(['./a.usda', 'b/c.usda']);
    expect(plain(found.metadata.customLayerData)).toEqual({
      author: 'M. Fender',
      count: 3,
      box: [0, 1.5],
      inner: { wet: true, map: '@m.png@', names: ['a', 'b'], 'odd key': 'v' },
    });
    expect(found.prims.map(({ name, specifier, typeName }) => [name, specifier, typeName])).toEqual([
      ['_Base', 'class', ''],
      ['Beside', 'over', ''],
      ['Quay', 'def', 'Xform'],
    ]);
    const quay = found.prims[2];
    expect(quay.metadata).toMatchObject({ active: false, instanceable: true, kind: 'assembly' });
    expect(plain(quay.metadata.customData)).toEqual({ depth: 2.5 });
    expect(plain(quay.metadata.variants)).toEqual({ paint: 'red' });
    expect(quay.metadata.apiSchemas).toMatchObject({
      prepended: ['MaterialBindingAPI', 'SkelBindingAPI'],
      appended: [],
      deleted: [],
    });
    expect(quay.metadata.references).toMatchObject({
      appended: [
        { asset: 'hull.usda', prim: '/Hull' },
        { asset: '', prim: '/Beside' },
      ],
    });
    const property = (name: string) => quay.properties.get(name);
    expect(property('note')).toMatchObject({
      custom: true,
      uniform: false,
      value: 'kept',
      typeName: 'string',
    });
    expect(property('purpose')).toMatchObject({ custom: false, uniform: true, value: 'render' });
    expect(property('moving')?.value).toBe(1.5);
    expect([...(property('moving')?.timeSamples ?? [])]).toEqual([
      [0, 1],
      [12.5, 2.25],
      [24, null],
    ]);
    expect(property('inputs:colour')).toMatchObject({
      targets: ['/Quay/Look.outputs:rgb'],
      typeName: 'color3f',
      value: undefined,
    });
    expect(property('material:binding')).toMatchObject({ kind: 'relationship', targets: ['/Quay/Look'] });
    expect(property('many')?.targets).toEqual(['/Quay/A', '/Quay/B']);
    expect(property('none')).toMatchObject({ kind: 'relationship', targets: [] });
    expect(property('declared')).toMatchObject({ typeName: 'token', value: undefined, timeSamples: null });
    expect(quay.children.map(({ name, typeName }) => [name, typeName])).toEqual([['Look', 'Scope']]);
    expect([...quay.variantSets.keys()]).toEqual(['paint']);
    const red = quay.variantSets.get('paint')?.get('red');
    expect([...(quay.variantSets.get('paint')?.keys() ?? [])].sort()).toEqual(['blue', 'red']);
    expect(plain(red?.properties.get('tint')?.value)).toEqual([1, 0, 0]);
    expect(red?.children.map(({ name }) => name)).toEqual(['Flag']);
  };

  it('is read from text', () => {
    expect(fault).toBeNull();
    check(layer);
  });

  it('is the same after text', () => check(parseUsda(writeUsda(layer)).layer));
  it('is the same after the binary form, which has no variant sets of ours', () => {
    expect(() => writeUsdc(layer)).toThrow(expect.objectContaining({ code: 'usd.write' }));
    const { layer: found, fault: none } = parseUsdc(writeUsdc(withoutVariants(layer)));
    expect(none).toBeNull();
    const { variantSets } = layer.prims[2];
    check({
      ...found,
      prims: found.prims.map((prim) => (prim.name === 'Quay' ? { ...prim, variantSets } : prim)),
    });
  });

  it('gives the same bytes again', () => {
    expect(writeUsda(parseUsda(writeUsda(layer)).layer)).toEqual(writeUsda(layer));
    const bare = withoutVariants(layer);
    expect(writeUsdc(parseUsda(writeUsda(bare)).layer)).toEqual(writeUsdc(bare));
  });
});

describe('lists that are edited', () => {
  it('put before, after, take out and give whole', () => {
    const { layer } = parse(
      'def "A" ( delete apiSchemas = ["X"] prepend apiSchemas = ["P"] append apiSchemas = ["Q", "R"] add variantSets = "s" payload = None inherits = [</a>, </b>] ) {}',
    );
    expect(root(layer).metadata.apiSchemas).toMatchObject({
      explicit: null,
      prepended: ['P'],
      appended: ['Q', 'R'],
      deleted: ['X'],
    });
    expect(root(layer).metadata.variantSets).toMatchObject({ appended: ['s'] });
    expect(root(layer).metadata.payload).toEqual([]);
    expect(root(layer).metadata.inherits).toEqual(['/a', '/b']);
    const back = root(parseUsdc(writeUsdc(layer)).layer).metadata;
    expect(back.apiSchemas).toMatchObject({ prepended: ['P'], appended: ['Q', 'R'], deleted: ['X'] });
    const text = new TextDecoder().decode(writeUsda(layer));
    expect(text).toContain(
      'delete apiSchemas = ["X"]\n    prepend apiSchemas = ["P"]\n    append apiSchemas = ["Q", "R"]',
    );
    expect(text).toContain('inherits = [</a>, </b>]');
  });

  it('of relationships follow each other', () => {
    const { layer } = parse(
      'def "A" { rel r = [</b>, </c>] prepend rel r = </a> append rel r = </d> delete rel r = </c> }',
    );
    expect(root(layer).properties.get('r')?.targets).toEqual(['/a', '/b', '/d']);
  });
});

describe('text that is passed over', () => {
  it('is comments, semicolons, reorderings, splines and what nobody knows', () => {
    const { layer, fault } = parse(`
# a line
def "A" ( # behind it
    doc = "x"; kind = "group", hidden = true
) {
    reorder nameChildren = ["b", "a"]
    reorder properties = ["q"]
    int a = 1; int b = 2
    double c.spline = {
        bezier,
        1: 2; post curve ( 2.5, "}" ),
        loop: { 3 }
    }
    opaque d
    varying int e = 3
    config int g = 4
}
reorder rootPrims = ["A"]
def "B" {}
`);
    expect(fault).toBeNull();
    expect(layer.prims.map(({ name }) => name)).toEqual(['A', 'B']);
    expect(root(layer).metadata).toMatchObject({ doc: 'x', kind: 'group', hidden: true });
    expect(['a', 'b', 'e', 'g'].map((name) => root(layer).properties.get(name)?.value)).toEqual([1, 2, 3, 4]);
  });

  it.each<[string, string, RegExp, number]>([
    ['a value that is none', 'def "A" {\n  int a = x\n}', /"x" is not a number/, 3],
    ['a text that is not closed', 'def "A" {\n\n  string a = "b', /not closed/, 4],
    ['a list that is not closed', 'def "A" {\n  int[] a = [1, 2', /not a number|ends inside a list/, 3],
    ['an asset that is not closed', 'def "A" {\n  asset a = @b', /asset path is not closed/, 3],
    ['a path that is not closed', 'def "A" {\n  rel a = </b', /path between/, 3],
    ['a prim without a name', 'def Xform {}', /between quotes/, 2],
    ['a prim that ends early', 'def "A" {\n  int a = 1', /ends inside a prim/, 3],
    ['metadata that end early', 'def "A" (\n  kind = "b"', /ends inside metadata/, 3],
    ['metadata without a sign', 'def "A" ( kind "b" ) {}', /"=" is expected/, 2],
    ['what is no definition', 'deaf "A" {}', /"deaf" is no definition/, 2],
    ['a property without a name', 'def "A" {\n  int = 3\n}', /property name/, 3],
  ])('%s', (_what, body, message, line) => {
    const { fault } = parse(body);
    expect(fault).toMatchObject({ code: 'usd.broken', place: { line } });
    expect(fault?.message).toMatch(message);
  });

  it('keeps what stood before the fault, and says when prims nest too deep', () => {
    const { layer, fault } = parse('def "A" { int a = 1 }\ndef "B" { int b = ?? }');
    expect(fault).not.toBeNull();
    expect(root(layer).properties.get('a')?.value).toBe(1);
    const deep = (depth: number) => parse(`${'def "A" {'.repeat(depth)}${'}'.repeat(depth)}`).fault?.message;
    expect(deep(500)).toBeUndefined();
    expect(deep(520)).toMatch(/deeper than 512/);
  });
});

describe('binary layers', () => {
  const layer: UsdLayer = { metadata: {}, prims: [createPrim('A')] };
  const long = Int32Array.from({ length: 100 }, (_, i) => i * i - 40);
  root(layer).properties.set('long', createProperty('long', 'int[]', { value: long }));
  root(layer).properties.set('same', createProperty('same', 'int[]', { value: long }));
  root(layer).properties.set('cut', createProperty('cut', 'float2[]', { value: Float32Array.of(1, 2, 3) }));

  it('pack long arrays, write shared ones once, and leave out what is no whole element', () => {
    const found = root(parseUsdc(writeUsdc(layer)).layer).properties;
    expect(plain(found.get('long')?.value)).toEqual(Array.from(long));
    expect(found.get('same')?.value).toBe(found.get('long')?.value);
    expect(plain(found.get('cut')?.value)).toEqual([1, 2]);
  });

  it('that are cut anywhere are read as far as they go, or refused in words', () => {
    const whole = writeUsdc(layer);
    for (let length = 0; length < whole.length; length += 7) {
      try {
        const { fault } = parseUsdc(whole.slice(0, length), 'cut.usdc');
        if (fault) expect(fault.code).toMatch(/^usd\./);
      } catch (error) {
        expect((error as { code?: string }).code).toMatch(/^usd\./);
      }
    }
  });
});
