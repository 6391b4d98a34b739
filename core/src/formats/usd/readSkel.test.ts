import { describe, expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { worldMatrices } from '../../scene/matrix.ts';
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

describe('in-between shapes of USD', () => {
  /** A mesh on a skeleton whose animation says how much of its shape there is. */
  const sail = (between: string, weights: string) =>
    read(`def Skeleton "Mast" (prepend apiSchemas = ["SkelBindingAPI"]) {
        uniform token[] joints = ["Foot"]
        uniform matrix4d[] bindTransforms = [((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1))]
        uniform matrix4d[] restTransforms = [((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1))]
        rel skel:animationSource = </Jib/Mast/Wind>
        def SkelAnimation "Wind" { uniform token[] blendShapes = ["full", "reefed"] float[] blendShapeWeights${weights} } }
      def Mesh "Sail" (prepend apiSchemas = ["SkelBindingAPI"]) { ${QUAD}
        rel skel:skeleton = </Jib/Mast>
        uniform token[] skel:blendShapes = ["reefed", "full"]
        rel skel:blendShapeTargets = [</Jib/Sail/Reefed>, </Jib/Sail/Full>]
        def BlendShape "Reefed" { uniform vector3f[] offsets = [(0,1,0)] uniform int[] pointIndices = [3] }
        def BlendShape "Full" { uniform vector3f[] offsets = [(0,0,4)] uniform int[] pointIndices = [2] ${between} } }`);
  const breeze = `uniform vector3f[] inbetweens:breeze = [(0,0,3)] ( weight = 0.5 )
    uniform vector3f[] inbetweens:breeze:normalOffsets = [(0,1,0)]`;

  it('are shapes of their own, weighed as one weight goes through them', async () => {
    const { meshes, remarks } = await sail(breeze, ' = [0.75, 0.1]');
    expect(meshes[0].shapes.map(({ name, weight, offsets }) => [name, weight, ...offsets])).toEqual([
      ['reefed', expect.closeTo(0.1, 6), 0, 1, 0],
      ['full_breeze', 0.5, 0, 0, 3],
      ['full', 0.5, 0, 0, 4],
    ]);
    expect(meshes[0].shapes.map(({ normalOffsets }) => normalOffsets && [...normalOffsets])).toEqual([
      null,
      [0, 1, 0],
      null,
    ]);
    expect(remarks.filter(({ code }) => code === 'read.notCarried')).toMatchObject([
      { subject: 'in-between shapes', severity: 'note', message: expect.stringContaining('/Jib/Sail/Full') },
    ]);
  });

  it('go over into each other in clips, with keys where they do', async () => {
    const { clips } = await sail(breeze, '.timeSamples = { 0: [0, 1], 24: [1, 0], 48: [0.25, 0] }');
    const [track] = clips[0].tracks;
    expect([track.path, track.interpolation]).toEqual(['weights', 'linear']);
    // Half way up after half of a second, and down again two thirds of the second after.
    const keys = Array.from(track.times, (time, i) => [time, ...track.values.subarray(i * 3, i * 3 + 3)]);
    const expected = [
      [0, 1, 0, 0],
      [0.5, 0.5, 1, 0],
      [1, 0, 0, 1],
      [1 + 2 / 3, 0, 1, 0],
      [2, 0, 0.5, 0],
    ];
    expect(keys.map((key) => key.length)).toEqual(expected.map((key) => key.length));
    keys.flat().forEach((value, i) => expect(value).toBeCloseTo(expected.flat()[i], 6));
  });

  it('that stand nowhere of their own are told', async () => {
    const { meshes, remarks } = await sail(
      `${breeze}
       uniform vector3f[] inbetweens:gust = [(0,0,3)]
       uniform vector3f[] inbetweens:again = [(0,0,2)] ( weight = 0.5 )
       uniform vector3f[] inbetweens:calm = [(0,0,0)] ( weight = 0 )`,
      ' = [0, 0]',
    );
    expect(meshes[0].shapes.map(({ name }) => name)).toEqual(['reefed', 'full_breeze', 'full']);
    const told = remarks.find(({ subject }) => subject === 'in-between shapes without a weight of their own');
    expect(told).toMatchObject({ severity: 'warning', count: 3 });
    expect(told?.message).toContain('/Jib/Sail/Full.inbetweens:gust');
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

describe('poses of USD', () => {
  const UNIT = '((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,0,0,1))';
  const raised = '((1,0,0,0),(0,1,0,0),(0,0,1,0),(0,2,0,1))';
  /** A crane of two bones of 2, with something between them that is none. */
  const crane = (
    animation: string,
    name = 'Crane',
  ) => `def Skeleton "${name}" (prepend apiSchemas = ["SkelBindingAPI"]) {
      uniform token[] joints = ["Foot", "Foot/Pin/Arm"]
      uniform matrix4d[] bindTransforms = [${UNIT}, ${raised}]
      uniform matrix4d[] restTransforms = [${UNIT}, ${raised}]
      rel skel:animationSource = </Jib/${name}/Held>
      def SkelAnimation "Held" { ${animation} } }`;
  const hull = (
    name: string,
    skeleton: string,
  ) => `def Mesh "${name}" (prepend apiSchemas = ["SkelBindingAPI"]) { ${QUAD}
      rel skel:skeleton = </Jib/${skeleton}>
      int[] primvars:skel:jointIndices = [0, 0, 1, 1] ( elementSize = 1 interpolation = "vertex" )
      float[] primvars:skel:jointWeights = [1, 1, 1, 1] ( elementSize = 1 interpolation = "vertex" )
      uniform token[] skel:blendShapes = ["bulge"]
      rel skel:blendShapeTargets = [</Jib/${name}/Bulge>]
      def BlendShape "Bulge" { uniform vector3f[] offsets = [(1,0,0)] uniform int[] pointIndices = [0] } }`;
  const tops = async (animation: string) => {
    const { nodes, clips } = await read(crane(animation));
    const worlds = worldMatrices(nodes);
    const at = (name: string) => [...worlds[nodes.findIndex((node) => node.name === name)].slice(12, 15)];
    return { foot: at('Foot').map(rounded), arm: at('Arm').map(rounded), clips: clips.length };
  };
  const rounded = (value: number) => Math.round(value * 1e4) / 1e4 + 0;

  it('hang joints on the nearest joint above, whatever is between', async () => {
    expect(await tops('')).toEqual({ foot: [0, 0, 0], arm: [0, 2, 0], clips: 0 });
    // A quarter about Z: up goes to the left.
    expect(
      await tops('uniform token[] joints = ["Foot"] quatf[] rotations = [(0.70710678, 0, 0, 0.70710678)]'),
    ).toEqual({ foot: [0, 0, 0], arm: [-2, 0, 0], clips: 0 });
  });

  it('are those that an animation holds, by what it says', async () => {
    const both = 'uniform token[] joints = ["Foot/Pin/Arm", "Foot"]';
    expect(await tops(`${both} float3[] translations = [(0, 1, 0), (5, 0, 0)]`)).toMatchObject({
      foot: [5, 0, 0],
      arm: [5, 1, 0],
    });
    expect(await tops(`${both} half3[] scales = [(1, 1, 1), (3, 3, 3)]`)).toMatchObject({ arm: [0, 6, 0] });
    // What is said for too few joints, or at times, holds no pose.
    expect(await tops(`${both} float3[] translations = [(0, 1, 0)]`)).toMatchObject({
      foot: [0, 0, 0],
      arm: [0, 1, 0],
    });
    expect(
      await tops(`${both} float3[] translations.timeSamples = { 0: [(0, 1, 0), (5, 0, 0)] }`),
    ).toMatchObject({
      foot: [0, 0, 0],
      clips: 1,
    });
  });

  it('hold shapes of their own meshes and of no others', async () => {
    const held = (weight: number) =>
      `uniform token[] blendShapes = ["bulge"] float[] blendShapeWeights = [${weight}]`;
    const { meshes } = await read(
      [crane(held(0.5)), crane(held(0.25), 'Derrick'), hull('A', 'Crane'), hull('B', 'Derrick')].join('\n'),
    );
    expect(meshes.map(({ name, shapes }) => [name, shapes[0].weight])).toEqual([
      ['A', 0.5],
      ['B', 0.25],
    ]);
    const moved = (name: string) =>
      crane(
        'uniform token[] blendShapes = ["bulge"] float[] blendShapeWeights.timeSamples = { 0: [0], 24: [1] }',
        name,
      );
    const { clips, nodes } = await read([moved('Crane'), hull('A', 'Crane'), hull('B', 'Other')].join('\n'));
    expect(clips[0].tracks.map(({ node, path }) => [nodes[node].name, path])).toEqual([['A', 'weights']]);
  });
});
