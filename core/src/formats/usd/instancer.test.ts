import { expect, it } from 'vitest';
import { memorySource } from '../../parcel/fileSource.ts';
import { transformPoint, worldMatrices } from '../../scene/matrix.ts';
import { readUsd } from './readUsd.ts';

const MESH =
  'point3f[] points = [(0,0,0), (1,0,0), (0,1,0)]\nint[] faceVertexCounts = [3]\nint[] faceVertexIndices = [0, 1, 2]';
async function instances(properties: string) {
  const text = `#usda 1.0
( defaultPrim = "Quay" metersPerUnit = 1 upAxis = "Y" )
def Xform "Quay" {
  def PointInstancer "Rivets" {
    rel prototypes = [</Quay/Rivets/Round>, </Quay/Rivets/Square>]
    ${properties}
    def Mesh "Round" { ${MESH} }
    def Mesh "Square" { ${MESH} }
  }
}`;
  const bytes = new TextEncoder().encode(text);
  const document = await readUsd(bytes, 'quay.usda', memorySource('test', { 'quay.usda': bytes }));
  const worlds = worldMatrices(document.nodes);
  const placed = document.nodes.flatMap(({ name, mesh, parent }, i) => {
    if (mesh < 0 || !document.nodes[parent].name.startsWith('Rivets_')) return [];
    const points = [
      [0, 0, 0],
      [1, 0, 0],
    ].map(([x, y, z]) =>
      transformPoint(worlds[i], x, y, z).map((value) => Math.round(value * 1e4) / 1e4 + 0),
    );
    return [{ place: document.nodes[parent].name, name, points }];
  });
  return { placed, remarks: document.remarks.map(({ code }) => code) };
}

it('an instance stands at its place, turned and scaled, the turn with its real part first', async () => {
  // A quarter turn about Z for the first, half the size for the second.
  const { placed } = await instances(`int[] protoIndices = [0, 1]
    point3f[] positions = [(10, 0, 0), (0, 20, 0)]
    quath[] orientations = [(0.70710678, 0, 0, 0.70710678), (1, 0, 0, 0)]
    float3[] scales = [(1, 1, 1), (0.5, 0.5, 0.5)]`);
  expect(placed).toEqual([
    {
      place: 'Rivets_1',
      name: 'Round',
      points: [
        [10, 0, 0],
        [10, expect.closeTo(1, 3), 0],
      ],
    },
    {
      place: 'Rivets_2',
      name: 'Square',
      points: [
        [0, 20, 0],
        [0.5, 20, 0],
      ],
    },
  ]);
});

it('turns of single precision count too, about each axis', async () => {
  const about = async (quaternion: string) => {
    const { placed } = await instances(
      `int[] protoIndices = [0]\npoint3f[] positions = [(0, 0, 0)]\nquatf[] orientationsf = [${quaternion}]`,
    );
    return placed[0].points[1].map(Math.round).map((value) => value + 0);
  };
  expect(await about('(0.70710678, 0, 0.70710678, 0)')).toEqual([0, 0, -1]);
  expect(await about('(0.70710678, 0.70710678, 0, 0)')).toEqual([1, 0, 0]);
  expect(await about('(0, 0, 0, 1)')).toEqual([-1, 0, 0]);
});

it('what has no turn, no size or no place of its own has the usual one', async () => {
  const { placed } = await instances(`int[] protoIndices = [1, 1]
    point3f[] positions = [(1, 2, 3)]
    quath[] orientations = [(0.70710678, 0, 0, 0.70710678)]`);
  expect(placed.map(({ points }) => points[0])).toEqual([
    [1, 2, 3],
    [0, 0, 0],
  ]);
  expect(placed[1].points[1]).toEqual([1, 0, 0]);
});

it('hidden ones are left out, by their numbers or by their place', async () => {
  const three = 'int[] protoIndices = [0, 0, 0]\npoint3f[] positions = [(1, 0, 0), (2, 0, 0), (3, 0, 0)]';
  const left = async (more: string) =>
    (await instances(`${three}\n${more}`)).placed.map(({ place }) => place);
  expect(await left('int64[] invisibleIds = [1]')).toEqual(['Rivets_1', 'Rivets_3']);
  expect(await left('int64[] ids = [7, 8, 9]\nint64[] invisibleIds = [7, 9]')).toEqual(['Rivets_2']);
  expect(await left('int64[] ids = [7, 8, 9]\nint64[] invisibleIds = [0]')).toEqual([
    'Rivets_1',
    'Rivets_2',
    'Rivets_3',
  ]);
});
