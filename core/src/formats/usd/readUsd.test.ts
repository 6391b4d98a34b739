import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import type { Track } from '../../scene/document.ts';
import { halfToNumber, numberToHalf } from '../../scene/half.ts';
import { worldMatrices } from '../../scene/matrix.ts';
import { measureBounds } from '../../scene/measure.ts';
import { evaluateTrack } from '../../scene/tracks.ts';
import { decodeIntegers, decodeIntegers64, encodeIntegers } from './integerCoding.ts';
import { packBlocks, unpackBlocks } from './lz4.ts';
import { parseUsda } from './parseUsda.ts';
import { readUsd } from './readUsd.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const read = (files: Record<string, string>, root = 'quay/boat.usda') =>
  readUsd(
    bytes(files[root]),
    root,
    memorySource(
      'test',
      Object.fromEntries(Object.entries(files).map(([path, text]) => [path, bytes(text)])),
    ),
  );
const HEAD = '#usda 1.0\n(\n  defaultPrim = "Boat"\n  metersPerUnit = 1\n  upAxis = "Z"\n)\n';
const QUAD =
  'point3f[] points = [(0,0,0), (2,0,0), (2,3,0), (0,3,0)]\nint[] faceVertexCounts = [4]\nint[] faceVertexIndices = [0, 1, 2, 3]\n';

describe('USD composition', () => {
  it('takes in sublayers, references, payloads, inherits and the chosen variant', async () => {
    const document = await read({
      'quay/boat.usda': `#usda 1.0
( defaultPrim = "Boat" metersPerUnit = 0.01 subLayers = [@./over.usda@] )
class "_Painted" { double userProperties:coats = 2 }
def Xform "Boat" {
  def "Hull" ( prepend references = @parts/hull.usda@ prepend inherits = </_Painted> ) { double3 xformOp:translate = (1, 0, 0)
    uniform token[] xformOpOrder = ["xformOp:translate"] }
  def "Mast" ( payload = @parts/mast.usda@</Tall> ) {}
  def Xform "Flag" ( variants = { string colour = "red" } prepend variantSets = "colour" ) {
    variantSet "colour" = { "red" { def Mesh "Cloth" { ${QUAD} } } "blue" { } }
  }
}`,
      'quay/over.usda': '#usda 1.0\nover "Boat" { over "Hull" { double userProperties:length = 7.5 } }',
      'quay/parts/hull.usda': `#usda 1.0\n( defaultPrim = "H" )\ndef Mesh "H" { ${QUAD} def Mesh "Plank" { ${QUAD} } }`,
      'quay/parts/mast.usda': `#usda 1.0\ndef Xform "Short" {}\ndef Xform "Tall" { def Mesh "Pole" { ${QUAD} } }`,
    });
    expect(document.nodes.map((node) => node.name)).toEqual([
      'Boat',
      'Hull',
      'Plank',
      'Mast',
      'Pole',
      'Flag',
      'Cloth',
    ]);
    expect(document.nodes[1].custom).toEqual({ length: 7.5, coats: 2 });
    expect(document.nodes[1].transform.translation).toEqual([1, 0, 0]);
    expect(document.remarks).toEqual([]);
  });

  it('says what it cannot follow, and goes on', async () => {
    const document = await read({
      'quay/boat.usda': `${HEAD}def Xform "Boat" { def "Lost" ( references = @gone.usda@ ) {} def Mesh "Deck" { ${QUAD} } }`,
    });
    expect(document.nodes.map((node) => node.name)).toEqual(['Boat', 'Lost', 'Deck']);
    expect(document.remarks[0]).toMatchObject({
      code: 'read.composition',
      subject: 'gone.usda',
      severity: 'error',
    });
  });

  it('does not run round in circles', async () => {
    const document = await read({
      'quay/boat.usda': `${HEAD}def Xform "Boat" ( references = @boat.usda@</Boat> ) { def Mesh "Deck" { ${QUAD} } }`,
    });
    expect(document.nodes.filter((node) => node.name === 'Deck').length).toBe(1);
  });

  it('shares the mesh between instances, and places those of an instancer', async () => {
    const document = await read({
      'quay/boat.usda': `${HEAD}def Xform "Boat" {
  def Mesh "Cleat" { ${QUAD} }
  def "Other" ( references = </Boat/Cleat> ) {}
  def PointInstancer "Rivets" { rel prototypes = </Boat/Cleat>
    int[] protoIndices = [0, 0]
    point3f[] positions = [(0, 0, 1), (0, 0, 5)] }
}`,
    });
    expect(document.meshes.length).toBe(1);
    expect(document.nodes.filter((node) => node.mesh === 0).length).toBe(4);
    expect(measureBounds(document)?.max).toEqual([2, 3, 5]);
  });
});

describe('USD meshes', () => {
  it('reads primvars of every interpolation, subsets and orientation', async () => {
    const document = await read({
      'quay/boat.usda': `${HEAD}def Mesh "Boat" {
  point3f[] points = [(0,0,0), (1,0,0), (1,1,0), (0,1,0), (2,0,0), (2,1,0)]
  int[] faceVertexCounts = [4, 4]
  int[] faceVertexIndices = [0, 1, 2, 3, 1, 4, 5, 2]
  uniform token orientation = "leftHanded"
  uniform token subdivisionScheme = "none"
  texCoord2f[] primvars:st = [(0, 0), (1, 0), (1, 1)] ( interpolation = "faceVarying" )
  int[] primvars:st:indices = [0, 1, 2, 0, 1, 2, 0, 1]
  float2[] primvars:map2 = [(0,0), (.1,0), (.2,0), (.3,0), (.4,0), (.5,0)] ( interpolation = "vertex" )
  color3f[] primvars:displayColor = [(1, 0, 0), (0, 1, 0)] ( interpolation = "uniform" )
  normal3f[] normals = [(0, 0, 1), (0, 0, 1), (0, 0, 1), (0, 0, 1), (0, 0, 1), (0, 0, 1)] ( interpolation = "vertex" )
  rel material:binding = </Looks/Paint>
  def GeomSubset "Rim" { uniform token elementType = "face"
    uniform token familyName = "materialBind"
    int[] indices = [1]
    rel material:binding = </Looks/Brass> }
}
def Scope "Looks" { def Material "Paint" {} def Material "Brass" {} }`,
    });
    const [mesh] = document.meshes;
    expect([...mesh.faceCorners]).toEqual([0, 3, 2, 1, 1, 2, 5, 4]);
    expect(mesh.uvSets.map((set) => [set.name, set.domain])).toEqual([
      ['st', 'corner'],
      ['map2', 'point'],
    ]);
    // The faces were turned round, so the second corner now reads what the fourth did.
    expect([...(mesh.uvSets[0].index ?? [])].slice(0, 4)).toEqual([0, 0, 2, 1]);
    expect(mesh.colours[0].domain).toBe('face');
    expect([...(mesh.faceMaterial ?? [])]).toEqual([0, 1]);
    expect(document.nodes[0].materials.map((index) => document.materials[index].name)).toEqual([
      'Paint',
      'Brass',
    ]);
    expect(document.nodes.length).toBe(1);
  });

  it('reads transform operations in any order, inverted ones too', async () => {
    const document = await read({
      'quay/boat.usda': `${HEAD}def Xform "Boat" {
  float3 xformOp:rotateXYZ = (0, 0, 90)
  double3 xformOp:translate = (10, 0, 0)
  float3 xformOp:scale = (2, 2, 2)
  double3 xformOp:translate:pivot = (1, 0, 0)
  uniform token[] xformOpOrder = ["xformOp:rotateXYZ", "xformOp:translate", "xformOp:translate:pivot", "xformOp:scale", "!invert!xformOp:translate:pivot"]
  def Mesh "Deck" { ${QUAD} }
  def Xform "Free" { double3 xformOp:translate = (0, 0, 7)
    uniform token[] xformOpOrder = ["!resetXformStack!", "xformOp:translate"] }
}`,
    });
    const worlds = worldMatrices(document.nodes);
    // Point (2, 0, 0): about the pivot it goes to 3, moved by 10 to 13, then turned onto y.
    const [x, y] = [0, 1].map((row) => worlds[1][row] * 2 + worlds[1][12 + row]);
    expect([x, y].map((value) => Number(value.toFixed(9)))).toEqual([0, 13]);
    expect([...worlds[2].slice(12, 15)].map((value) => Number(value.toFixed(9)))).toEqual([0, 0, 7]);
  });

  it('grows as two steps that both grow have it, between their samples too', async () => {
    const document = await read({
      'quay/boat.usda': `#usda 1.0
( metersPerUnit = 1 timeCodesPerSecond = 24 )
def Mesh "Deck" { ${QUAD}
  float3 xformOp:scale.timeSamples = { 0: (1, 1, 1), 24: (4, 1, 1) }
  float3 xformOp:scale:more.timeSamples = { 0: (1, 1, 1), 24: (5, 1, 1) }
  uniform token[] xformOpOrder = ["xformOp:scale", "xformOp:scale:more"] }`,
    });
    const track = document.clips[0].tracks.find(({ path }) => path === 'scale') as Track;
    for (const time of [0.01, 0.23, 0.55, 0.985]) {
      const wide = (1 + 3 * time) * (1 + 4 * time);
      expect(Math.abs(evaluateTrack(track, time)[0] / wide - 1)).toBeLessThan(2e-4);
    }
  });

  it('hangs what resets its place on nothing: neither shear nor motion above comes down', async () => {
    const document = await read({
      'quay/boat.usda': `${HEAD}def Xform "Boat" {
  float3 xformOp:rotateXYZ.timeSamples = { 0: (0, 0, 30), 24: (0, 0, 90) }
  float3 xformOp:scale = (1, 3, 1)
  uniform token[] xformOpOrder = ["xformOp:rotateXYZ", "xformOp:scale"]
  def Xform "Free" { float3 xformOp:rotateXYZ = (0, 0, 45)
    uniform token[] xformOpOrder = ["!resetXformStack!", "xformOp:rotateXYZ"]
    def Mesh "Deck" { ${QUAD} } }
}`,
    });
    expect(document.nodes.map(({ name, parent }) => [name, parent])).toEqual([
      ['Boat', -1],
      ['Free', -1],
      ['Deck', 1],
    ]);
    expect(document.nodes[1].transform).toMatchObject({
      rotation: [0, 0, 45],
      scale: [1, 1, 1],
      matrix: null,
    });
  });
});

describe('USD materials', () => {
  it('reads a preview surface: maps, components, range, spaces, transform, alpha', async () => {
    const document = await read({
      'quay/boat.usda': `${HEAD}def Material "Net" {
  token outputs:surface.connect = </Net/S.outputs:surface>
  asset inputs:album = @./maps/net.png@
  def Shader "S" { uniform token info:id = "UsdPreviewSurface"
    color3f inputs:diffuseColor.connect = </Net/C.outputs:rgb>
    float inputs:opacity.connect = </Net/C.outputs:a>
    float inputs:opacityThreshold = 0.35
    float inputs:roughness.connect = </Net/R.outputs:g>
    normal3f inputs:normal.connect = </Net/N.outputs:rgb>
    float inputs:metallic = 0.25 }
  def Shader "C" { uniform token info:id = "UsdUVTexture"
    asset inputs:file.connect = </Net.inputs:album>
    token inputs:sourceColorSpace = "sRGB"
    token inputs:wrapS = "clamp"
    float4 inputs:scale = (0.5, 0.5, 0.5, 1)
    float2 inputs:st.connect = </Net/T.outputs:result> }
  def Shader "T" { uniform token info:id = "UsdTransform2d"
    float2 inputs:in.connect = </Net/P.outputs:result>
    float2 inputs:scale = (2, 3)
    float inputs:rotation = 90
    float2 inputs:translation = (0.5, 0) }
  def Shader "P" { uniform token info:id = "UsdPrimvarReader_float2"
    string inputs:varname = "map2" }
  def Shader "R" { uniform token info:id = "UsdUVTexture"
    asset inputs:file = @maps/orm.png@
    token inputs:sourceColorSpace = "raw"
    float4 inputs:scale = (1, -1, 1, 1)
    float4 inputs:bias = (0, 1, 0, 0) }
  def Shader "N" { uniform token info:id = "UsdUVTexture"
    asset inputs:file = @maps/n.png@
    float4 inputs:scale = (2, -2, 2, 1)
    float4 inputs:bias = (-1, 1, -1, 0) }
}`,
    });
    const [{ channels, alphaMode, alphaCutoff }] = document.materials;
    expect([alphaMode, alphaCutoff]).toEqual(['mask', 0.35]);
    expect(channels.baseColor).toMatchObject({
      value: [0.5, 0.5, 0.5],
      map: {
        image: './maps/net.png',
        component: 'rgb',
        space: 'srgb_rec709_scene',
        uvSet: 'map2',
        wrap: ['clamp', 'repeat'],
        transform: { scale: [2, 3], offset: [0.5, 0], rotation: Math.PI / 2 },
      },
    });
    expect(channels.opacity?.map).toMatchObject({ component: 'a', image: './maps/net.png' });
    expect(channels.roughness?.map).toMatchObject({ component: 'g', invert: true, space: 'data' });
    expect(channels.normal?.map?.normalY).toBe('Y-');
    expect(channels.metalness?.value).toBe(0.25);
  });

  it('reads standard and open surfaces as far as channels go', async () => {
    const document = await read({
      'quay/boat.usda': `${HEAD}
def Material "A" { token outputs:mtlx:surface.connect = </A/S.outputs:out>
  def Shader "S" { uniform token info:id = "ND_standard_surface_surfaceshader"
    color3f inputs:base_color.connect = </A/I.outputs:out>
    float inputs:metalness = 1
    float inputs:specular_roughness.connect = </A/X.outputs:out>
    float inputs:emission = 3
    color3f inputs:emission_color = (1, 0.5, 0) }
  def Shader "I" { uniform token info:id = "ND_image_color3"
    asset inputs:file = @a.exr@ ( colorSpace = "acescg" ) }
  def Shader "X" { uniform token info:id = "ND_extract_color3"
    int inputs:index = 1
    color3f inputs:in.connect = </A/J.outputs:out> }
  def Shader "J" { uniform token info:id = "ND_tiledimage_color3"
    asset inputs:file = @orm.png@
    float2 inputs:uvtiling = (4, 4) } }
def Material "B" { token outputs:mtlx:surface.connect = </B/S.outputs:out>
  def Shader "S" { uniform token info:id = "ND_open_pbr_surface_surfaceshader"
    color3f inputs:base_color = (0.125, 0.25, 0.5)
    float inputs:base_metalness = 0.5
    float inputs:geometry_opacity = 0.4 } }`,
    });
    const [a, b] = document.materials;
    expect(a.channels.baseColor?.map).toMatchObject({ image: 'a.exr', space: 'lin_ap1_scene' });
    expect(a.channels.roughness?.map).toMatchObject({
      image: 'orm.png',
      component: 'g',
      transform: { scale: [4, 4] },
    });
    expect(a.channels.emission?.value).toEqual([3, 1.5, 0]);
    expect(b.channels).toMatchObject({
      baseColor: { value: [0.125, 0.25, 0.5] },
      metalness: { value: 0.5 },
      opacity: { value: 0.4 },
    });
    expect(b.alphaMode).toBe('blend');
  });
});

describe('USD motion', () => {
  it('carries a skeleton, its binding and its motion', async () => {
    const document = await read({
      'quay/boat.usda': `#usda 1.0
( metersPerUnit = 1 timeCodesPerSecond = 10 startTimeCode = 0 endTimeCode = 20 )
def SkelRoot "Rig" {
  def Skeleton "Skel" { uniform token[] joints = ["root", "root/tip"]
    uniform matrix4d[] bindTransforms = [((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1)), ((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,2,0,1))]
    uniform matrix4d[] restTransforms = [((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1)), ((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,2,0,1))]
    rel skel:animationSource = </Rig/Motion> }
  def SkelAnimation "Motion" { uniform token[] joints = ["root/tip"]
    quatf[] rotations.timeSamples = { 0: [(1, 0, 0, 0)], 20: [(0, 1, 0, 0)] } }
  def Mesh "Skin" { ${QUAD}
    rel skel:skeleton = </Rig/Skel>
    int[] primvars:skel:jointIndices = [0, 0, 1, 1] ( elementSize = 1 interpolation = "vertex" )
    float[] primvars:skel:jointWeights = [1, 1, 1, 1] ( elementSize = 1 interpolation = "vertex" )
    double3 xformOp:translate.timeSamples = { 0: (0, 0, 0), 10: (1, 0, 0) }
    uniform token[] xformOpOrder = ["xformOp:translate"] }
}`,
    });
    expect(document.nodes.map((node) => [node.name, node.kind])).toEqual([
      ['Rig', 'group'],
      ['Skel', 'group'],
      ['root', 'bone'],
      ['tip', 'bone'],
      ['Skin', 'mesh'],
    ]);
    expect(document.skins[0].inverseBind[16 + 13]).toBe(-2);
    expect([...(document.meshes[0].influences?.joints ?? [])]).toEqual([0, 0, 1, 1]);
    const [clip] = document.clips;
    expect([clip.start, clip.end]).toEqual([0, 2]);
    const turn = clip.tracks.find((track) => track.path === 'quaternion');
    // A half turn about x: x, y, z, w.
    expect([...(turn?.values ?? [])]).toEqual([0, 0, 0, 1, 1, 0, 0, 0]);
    expect(clip.tracks.find((track) => track.path === 'translation')).toMatchObject({
      node: 4,
      times: Float64Array.of(0, 1),
    });
  });
});

describe('USD coding', () => {
  it('names the line of a fault and keeps what stands before it', () => {
    const { layer, fault } = parseUsda(
      bytes('#usda 1.0\ndef Mesh "A" {\n  int[] faceVertexCounts = [3, x]\n}\n'),
      'a.usda',
    );
    expect(layer.prims[0].name).toBe('A');
    expect(fault).toMatchObject({ code: 'usd.broken', place: { file: 'a.usda', line: 3 } });
  });

  it('is none without its first word, and a word that defines nothing ends it', () => {
    const fault = (text: string) => {
      const { layer, fault: found } = parseUsda(bytes(text), 'a.usda');
      return [layer.prims.length, found?.message, found?.place];
    };
    expect(fault('def Mesh "A" {\n}\n')).toEqual([
      0,
      'this file does not begin with #usda',
      { file: 'a.usda', line: 1 },
    ]);
    expect(fault('\uFEFF#usda 1.0\ndef Mesh "A" {\n}\n')).toEqual([1, undefined, undefined]);
    expect(fault('#usda 1.0\ndef Mesh "A" {\n}\nderf "B" {}\n')).toEqual([
      1,
      '"derf" is no definition',
      { file: 'a.usda', line: 4 },
    ]);
  });

  it('tells of prims that it does not carry, and of none without a type', async () => {
    const text = `#usda 1.0
def "Plain" {
    def Xform "Group" {
        def PhysicsScene "Fog" {
        }
        def BasisCurves "Rope" {
        }
        def Scope "Looks" {
        }
    }
}
`;
    const { remarks } = await read({ 'a.usda': text }, 'a.usda');
    expect(remarks.map(({ code, subject, message, severity }) => [code, subject, message, severity])).toEqual(
      [
        ['read.notCarried', 'prims of type PhysicsScene', 'not carried: /Plain/Group/Fog', 'note'],
        [
          'read.notCarried',
          'prims of type BasisCurves',
          'only polygon meshes are carried: /Plain/Group/Rope',
          'warning',
        ],
      ],
    );
  });

  it('packs and unpacks bytes and whole numbers without loss', () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(fc.nat(3), fc.nat(255)), { maxLength: 4000 }), (list) => {
        const source = Uint8Array.from([...list, ...list]);
        expect(unpackBlocks(packBlocks(source), source.length)).toEqual(source);
      }),
      { numRuns: 60 },
    );
    fc.assert(
      fc.property(fc.array(fc.oneof(fc.integer(), fc.integer({ min: -3, max: 3 }))), (list) => {
        expect([...decodeIntegers(encodeIntegers(list), list.length)]).toEqual(list);
      }),
    );
  });

  it('unpacks what the format describes: a run by a match that overlaps itself', () => {
    // One literal "a", then a match of 4 + 5 bytes at distance 1, then the five closing literals.
    const block = Uint8Array.of(0, 0x15, 97, 1, 0, 0x50, 98, 98, 98, 98, 98);
    expect(new TextDecoder().decode(unpackBlocks(block, 15))).toBe('aaaaaaaaaabbbbb');
  });

  it('reads 64-bit differences', () => {
    // Commonest difference 1; codes: 0 (common), 3 (64-bit), 1 (16-bit).
    const plain = new DataView(new ArrayBuffer(8 + 1 + 8 + 2));
    plain.setBigInt64(0, 1n, true);
    plain.setUint8(8, 0 | (3 << 2) | (1 << 4));
    plain.setBigInt64(9, 5_000_000_000n, true);
    plain.setInt16(17, -2, true);
    expect([...decodeIntegers64(packBlocks(new Uint8Array(plain.buffer)), 3)]).toEqual([
      1n,
      5_000_000_001n,
      4_999_999_999n,
    ]);
  });

  it('rounds halves to the nearest, ties to even', () => {
    for (const [value, bits] of [
      [1, 0x3c00],
      [-2, 0xc000],
      [65504, 0x7bff],
      [65520, 0x7c00],
      [2 ** -24, 1],
      [1 + 2 ** -11, 0x3c00],
      [1 + 3 * 2 ** -11, 0x3c02],
    ]) {
      expect(numberToHalf(value)).toBe(bits);
    }
    for (let bits = 0; bits < 0x7c00; bits += 7) expect(numberToHalf(halfToNumber(bits))).toBe(bits);
  });
});
