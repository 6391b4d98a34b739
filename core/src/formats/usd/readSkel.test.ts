import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { readUsd } from './readUsd.ts';

const QUAD =
  'point3f[] points = [(0,0,0), (2,0,0), (2,3,0), (0,3,0)]\nint[] faceVertexCounts = [4]\nint[] faceVertexIndices = [0, 1, 2, 3]\n';
const read = (body: string) => {
  const bytes = new TextEncoder().encode(
    `#usda 1.0\n( defaultPrim = "Jib" metersPerUnit = 1 upAxis = "Y" )\ndef SkelRoot "Jib" {\n${body}\n}`,
  );
  return readUsd(bytes, 'jib.usda', memorySource('test', { 'jib.usda': bytes }));
};
const shape = async (content: string) =>
  (
    await read(`def Mesh "Arm" { ${QUAD}
      uniform token[] skel:blendShapes = ["bulge", "lost"]
      rel skel:blendShapeTargets = [</Jib/Arm/Bulge>, </Jib/Arm/Nowhere>]
      def BlendShape "Bulge" { ${content} } }`)
  ).meshes[0].shapes;

describe('shapes of USD', () => {
  it('move the points that they name, or all in order, and never one that is not there', async () => {
    expect(
      await shape(
        'uniform vector3f[] offsets = [(1,0,0), (0,2,0), (0,0,3)]\nuniform int[] pointIndices = [3, 4, 0]',
      ),
    ).toEqual([
      {
        name: 'bulge',
        weight: 0,
        points: Uint32Array.of(3, 0),
        offsets: Float64Array.of(1, 0, 0, 0, 0, 3),
        normalOffsets: null,
      },
    ]);
    expect(await shape('uniform vector3f[] offsets = [(1,0,0), (0,2,0), (0,0,3), (4,0,0), (5,0,0)]')).toEqual(
      [
        {
          name: 'bulge',
          weight: 0,
          points: Uint32Array.of(0, 1, 2, 3),
          offsets: Float64Array.of(1, 0, 0, 0, 2, 0, 0, 0, 3, 4, 0, 0),
          normalOffsets: null,
        },
      ],
    );
    expect((await shape(''))[0]).toMatchObject({ points: new Uint32Array(0) });
  });

  it('turn normals along where there is one for each point', async () => {
    const [turning] = await shape(
      'uniform vector3f[] offsets = [(1,0,0), (0,2,0)]\nuniform vector3f[] normalOffsets = [(0,0,1), (0,1,0)]\nuniform int[] pointIndices = [9, 1]',
    );
    expect(turning).toMatchObject({
      points: Uint32Array.of(1),
      offsets: Float64Array.of(0, 2, 0),
      normalOffsets: Float64Array.of(0, 1, 0),
    });
    const [short] = await shape(
      'uniform vector3f[] offsets = [(1,0,0), (0,2,0)]\nuniform vector3f[] normalOffsets = [(0,0,1)]',
    );
    expect(short.normalOffsets).toBeNull();
  });
});

describe('joints of USD', () => {
  const UNIT = '((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1))';
  const raised = (height: number) => `((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,${height},0,1))`;
  const rig = (mesh: string) =>
    read(`def Skeleton "Bones" {
      uniform token[] joints = ["Foot", "Foot/Head"]
      uniform matrix4d[] bindTransforms = [${UNIT}, ${raised(2)}]
      uniform matrix4d[] restTransforms = [${UNIT}, ${raised(2)}]
    }
    def Mesh "Arm" ( prepend apiSchemas = ["SkelBindingAPI"] ) { ${QUAD}
      rel skel:skeleton = </Jib/Bones>
      ${mesh} }`);

  it('pull points by what is more than nothing, each point as many as the width says', async () => {
    const { meshes, skins, nodes } = await rig(`
      int[] primvars:skel:jointIndices = [0, 1, 1, 0, 1, 0, 0, 0] ( elementSize = 2 interpolation = "vertex" )
      float[] primvars:skel:jointWeights = [0.5, 0.5, 1, 0, 0.25, 0.75, 1, 0] ( elementSize = 2 interpolation = "vertex" )`);
    const { starts, joints, weights } = meshes[0].influences ?? { starts: [], joints: [], weights: [] };
    expect([[...starts], [...joints], [...weights]]).toEqual([
      [0, 2, 3, 5, 6],
      [0, 1, 1, 1, 0, 0],
      [0.5, 0.5, 1, 0.25, 0.75, 1],
    ]);
    expect(skins[0].joints.map((joint) => nodes[joint].name)).toEqual(['Foot', 'Head']);
    // Head is bound two metres up, so its inverse goes two down.
    expect([...skins[0].inverseBind.slice(28, 32)]).toEqual([0, -2, 0, 1]);
  });

  it('pull a whole mesh where one entry holds for all', async () => {
    const { meshes } = await rig(`
      int[] primvars:skel:jointIndices = [1] ( elementSize = 1 interpolation = "constant" )
      float[] primvars:skel:jointWeights = [1] ( elementSize = 1 interpolation = "constant" )`);
    expect([...(meshes[0].influences?.joints ?? [])]).toEqual([1, 1, 1, 1]);
  });

  it('are those of the mesh itself where it has an order of its own, and told where the skeleton has none', async () => {
    const { skins, nodes, remarks } = await rig(`
      uniform token[] skel:joints = ["Foot/Head", "Foot/Tail"]
      int[] primvars:skel:jointIndices = [0, 0, 1, 1] ( elementSize = 1 interpolation = "vertex" )
      float[] primvars:skel:jointWeights = [1, 1, 1, 1] ( elementSize = 1 interpolation = "vertex" )`);
    expect(skins[0].joints.map((joint) => nodes[joint].name)).toEqual(['Head', 'Foot']);
    expect(remarks.map(({ code, severity, subject, message }) => [code, severity, subject, message])).toEqual(
      [
        [
          'read.notCarried',
          'warning',
          'joints that the skeleton does not have',
          'they move nothing: Foot/Tail',
        ],
      ],
    );
  });

  it('that the skeleton does not have any of move nothing', async () => {
    const { meshes, skins } = await read(`def Skeleton "Bones" { }
    def Mesh "Arm" { ${QUAD} rel skel:skeleton = </Jib/Bones>
      int[] primvars:skel:jointIndices = [0] ( elementSize = 1 interpolation = "constant" )
      float[] primvars:skel:jointWeights = [1] ( elementSize = 1 interpolation = "constant" ) }`);
    expect([meshes[0].influences, skins]).toEqual([null, []]);
  });
});
