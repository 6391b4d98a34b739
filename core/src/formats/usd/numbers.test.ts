import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import type { SceneDocument } from '../../scene/document.ts';
import { worldMatrices } from '../../scene/matrix.ts';
import { createListOp, createPrim, createProperty } from './layer.ts';
import { parseUsdc } from './parseUsdc.ts';
import { readUsd } from './readUsd.ts';
import { writeUsdc } from './writeUsdc.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const TRIANGLE =
  'point3f[] points = [(0,0,0), (1,0,0), (0,1,0)]\nint[] faceVertexCounts = [3]\nint[] faceVertexIndices = [0, 1, 2]';

function read(
  body: string,
  { head = '', path = 'quay.usda', files = {} as Record<string, string> } = {},
): Promise<SceneDocument> {
  const text = `#usda 1.0\n( metersPerUnit = 1 upAxis = "Y" ${head} )\n${body}`;
  return readUsd(
    bytes(text),
    path,
    memorySource('test', {
      [path]: bytes(text),
      ...Object.fromEntries(Object.entries(files).map(([name, one]) => [name, bytes(one)])),
    }),
  );
}

const place = async (ops: string, order: string) => {
  const { nodes } = await read(`def Xform "A" { ${ops}\nuniform token[] xformOpOrder = [${order}] }`);
  return [...worldMatrices(nodes)[0].slice(12, 15)].map((value) => Math.round(value * 1e6) / 1e6);
};

describe('operations of transforms', () => {
  it('that are blocked, not there or unknown do nothing; others go on', async () => {
    expect(
      await place(
        'double3 xformOp:translate = None\ndouble3 xformOp:translate:b = (1, 2, 3)',
        '"xformOp:translate", "xformOp:translate:b"',
      ),
    ).toEqual([1, 2, 3]);
    expect(
      await place('double3 xformOp:translate:b = (1, 2, 3)', '"xformOp:translate:a", "xformOp:translate:b"'),
    ).toEqual([1, 2, 3]);
  });

  it('turn about one axis, about three, and by quaternion', async () => {
    const moved = 'double3 xformOp:translate = (1, 0, 0)';
    const about = (op: string, name: string) =>
      place(`${op}\n${moved}`, `"xformOp:${name}", "xformOp:translate"`);
    expect(await about('double xformOp:rotateZ = 90', 'rotateZ')).toEqual([0, 1, 0]);
    expect(await about('double xformOp:rotateY = 90', 'rotateY')).toEqual([0, 0, -1]);
    expect(await about('double xformOp:rotateX = 90', 'rotateX')).toEqual([1, 0, 0]);
    // A half turn about z, real part first.
    expect(await about('quatd xformOp:orient = (0, 0, 0, 1)', 'orient')).toEqual([-1, 0, 0]);
    expect(await about('double3 xformOp:scale = (3, 1, 1)', 'scale')).toEqual([3, 0, 0]);
    expect(
      await about('matrix4d xformOp:transform = ((0,1,0,0),(-1,0,0,0),(0,0,1,0),(0,0,5,1))', 'transform'),
    ).toEqual([0, 1, 5]);
  });

  it('are taken back by their inverse', async () => {
    expect(
      await place(
        'double3 xformOp:translate = (1, 0, 0)\ndouble3 xformOp:scale = (2, 2, 2)',
        '"xformOp:scale", "xformOp:translate", "!invert!xformOp:scale"',
      ),
    ).toEqual([2, 0, 0]);
  });
});

describe('attributes that people added', () => {
  it('are text, numbers, truth and short lists, under their own names', async () => {
    const { nodes } = await read(`def Xform "A" {
      custom string note = "by the crane"
      custom int berth = 7
      custom bool leased = true
      custom double3 spot = (1, 2, 3)
      string userProperties:owner = "Harrow"
      custom token kept = None
      float plain = 4
      custom rel other = </A>
      custom double[] many = [${new Array(65).fill(1).join(', ')}]
      custom double[] enough = [${new Array(64).fill(1).join(', ')}]
    }`);
    const { enough, ...rest } = nodes[0].custom;
    expect(rest).toEqual({ note: 'by the crane', berth: 7, leased: true, spot: [1, 2, 3], owner: 'Harrow' });
    expect(enough).toHaveLength(64);
  });
});

describe('colours with opacity', () => {
  const colours = async (colour: string, opacity: string) => {
    const { meshes } = await read(
      `def Mesh "A" { ${TRIANGLE}\ncolor3f[] primvars:displayColor = ${colour}\nfloat[] primvars:displayOpacity = ${opacity} }`,
    );
    const [layer] = meshes[0].colours;
    return [layer.size, ...layer.values];
  };

  it('have four numbers where both are spread alike and are as many', async () => {
    const spread = '( interpolation = "vertex" )';
    expect(await colours(`[(1,0,0), (0,1,0), (0,0,1)] ${spread}`, `[1, 0.5, 0.25] ${spread}`)).toEqual([
      4, 1, 0, 0, 1, 0, 1, 0, 0.5, 0, 0, 1, 0.25,
    ]);
    expect(
      (await colours(`[(1,0,0), (0,1,0), (0,0,1)] ${spread}`, '[0.5] ( interpolation = "constant" )'))[0],
    ).toBe(3);
    expect((await colours(`[(1,0,0), (0,1,0), (0,0,1)] ${spread}`, `[1, 0.5] ${spread}`))[0]).toBe(3);
  });
});

describe('motion of skeletons', () => {
  const RIG = (samples: string) => `def SkelRoot "Rig" {
    def Skeleton "Skel" { uniform token[] joints = ["root"]
      uniform matrix4d[] bindTransforms = [((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1))]
      uniform matrix4d[] restTransforms = [((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1))]
      rel skel:animationSource = </Rig/Motion> }
    def SkelAnimation "Motion" { uniform token[] joints = ["root"]\n uniform token[] blendShapes = ["open", "bent"]\n ${samples} }
    def Mesh "Hatch" { ${TRIANGLE}
      rel skel:skeleton = </Rig/Skel>
      uniform token[] skel:blendShapes = ["bent"]
      rel skel:blendShapeTargets = </Rig/Hatch/bent>
      def BlendShape "bent" { uniform vector3f[] offsets = [(0,0,1)]\n uniform int[] pointIndices = [1] } }
  }`;

  it('comes in order of time, in seconds, whatever the order of its samples', async () => {
    const { clips } = await read(
      RIG('float3[] translations.timeSamples = { 20: [(2,0,0)], 0: [(0,0,0)], 10: [(1,0,0)] }'),
      {
        head: 'timeCodesPerSecond = 10',
      },
    );
    const track = clips[0].tracks.find(({ path }) => path === 'translation');
    expect([...(track?.times ?? [])]).toEqual([0, 1, 2]);
    expect([...(track?.values ?? [])]).toEqual([0, 0, 0, 1, 0, 0, 2, 0, 0]);
  });

  it('moves the shapes that a mesh has, by their names', async () => {
    const { clips, nodes } = await read(
      RIG('float[] blendShapeWeights.timeSamples = { 10: [0.25, 1], 0: [0.5, 0.75] }'),
      { head: 'timeCodesPerSecond = 10' },
    );
    const track = clips[0].tracks.find(({ path }) => path === 'weights');
    expect(nodes[track?.node ?? -1].name).toBe('Hatch');
    expect([...(track?.times ?? [])]).toEqual([0, 1]);
    // The second of the animation's shapes is the mesh's only one.
    expect([...(track?.values ?? [])]).toEqual([0.75, 1]);
  });
});

describe('images', () => {
  const paths = async (path: string, asset: string, file: string) => {
    const shader = `def Material "M" { token outputs:surface.connect = </M/S.outputs:surface>
      def Shader "S" { uniform token info:id = "UsdPreviewSurface"\n color3f inputs:diffuseColor.connect = </M/T.outputs:rgb>\n token outputs:surface }
      def Shader "T" { uniform token info:id = "UsdUVTexture"\n asset inputs:file = @${asset}@\n float3 outputs:rgb } }`;
    const { images } = await read(shader, { path, files: { [file]: 'x' } });
    return images.map(({ written, relative }) => [written, relative]);
  };

  it('are told by the way from the model', async () => {
    expect(await paths('quay.usda', './tex/a.png', 'tex/a.png')).toEqual([['./tex/a.png', 'tex/a.png']]);
    expect(await paths('boats/quay.usda', './tex/a.png', 'boats/tex/a.png')).toEqual([
      ['./tex/a.png', 'tex/a.png'],
    ]);
    expect(await paths('boats/old/quay.usda', '../../tex/a.png', 'tex/a.png')).toEqual([
      ['../../tex/a.png', '../../tex/a.png'],
    ]);
    expect(await paths('boats/old/quay.usda', '../tex/a.png', 'boats/tex/a.png')).toEqual([
      ['../tex/a.png', '../tex/a.png'],
    ]);
    expect(await paths('quay.usda', './tex/b.png', 'tex/a.png')).toEqual([['./tex/b.png', null]]);
  });
});

describe('targets in the binary form', () => {
  it('come back as they were: one, several, none, and as edits of a list', () => {
    const prim = createPrim('A', 'Mesh');
    prim.properties.set('one', createProperty('one', '', { kind: 'relationship', targets: ['/B'] }));
    prim.properties.set('two', createProperty('two', '', { kind: 'relationship', targets: ['/B', '/C'] }));
    prim.properties.set('none', createProperty('none', '', { kind: 'relationship' }));
    prim.properties.set('in', createProperty('in', 'float', { targets: ['/B.out'] }));
    prim.metadata.inherits = createListOp({ prepended: ['/B'], appended: ['/C'], deleted: ['/D'] });
    const { prims } = parseUsdc(writeUsdc({ metadata: {}, prims: [prim] }), 'a.usdc').layer;
    expect([...prims[0].properties.values()].map(({ name, targets }) => [name, targets])).toEqual([
      ['one', ['/B']],
      ['two', ['/B', '/C']],
      ['none', []],
      ['in', ['/B.out']],
    ]);
    expect(prims[0].metadata.inherits).toMatchObject({
      prepended: ['/B'],
      appended: ['/C'],
      deleted: ['/D'],
    });
  });
});
