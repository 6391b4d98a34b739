import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument, Y_UP, Z_UP } from './document.ts';
import { removeNodes } from './nodeNumbers.ts';
import { reorient } from './reorient.ts';

/** A triangle on a node that is moved, beside a camera and a light from a face, Y up and in metres. */
function quay(): SceneDocument {
  const document = createDocument('fbx', 'binary');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 1, unitStated: false });
  document.meshes = [
    createMesh('Hull', {
      points: Float64Array.of(1, 2, 3, 4, 5, 6, 7, 8, 10),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
      normals: {
        name: 'n',
        size: 3,
        domain: 'corner',
        values: Float64Array.of(0, 1, 0, 1, 0, 0, 0, 0, 1),
        index: null,
      },
      shapes: [
        {
          name: 'Dent',
          points: Uint32Array.of(1),
          offsets: Float64Array.of(0, 0.5, 0),
          normalOffsets: null,
        } as never,
      ],
    }),
  ];
  document.cameras = [
    {
      name: 'Watch',
      projection: 'perspective',
      focalLength: 35,
      aperture: [36, 24],
      width: 4,
      near: 0.1,
      far: 50,
    },
  ];
  document.lights = [
    {
      name: 'Pane',
      kind: 'area',
      colour: [1, 1, 1],
      intensity: 3,
      innerAngle: 0,
      outerAngle: 0,
      size: [2, 1],
      castsShadow: true,
    },
  ];
  const hull = createNode('Hull', 'mesh', -1, { mesh: 0 });
  hull.transform.translation = [10, 20, 30];
  document.nodes = [hull];
  return document;
}

const numbers = (values: ArrayLike<number>) => Array.from(values, (value) => Number(value.toFixed(6)) + 0);

describe('a document in other axes and another unit', () => {
  it('is told so and left alone where both are its own', () => {
    const before = quay();
    const same = reorient(before, Y_UP, 1);
    expect([same.axes, same.metresPerUnit, same.unitStated]).toEqual([Y_UP, 1, true]);
    expect([same.meshes, same.nodes]).toEqual([before.meshes, before.nodes]);
    expect(before.unitStated).toBe(false);
  });

  it('counts in centimetres what it counted in metres', () => {
    const small = reorient(quay(), Y_UP, 0.01);
    const [mesh] = small.meshes;
    expect(numbers(mesh.points)).toEqual([100, 200, 300, 400, 500, 600, 700, 800, 1000]);
    expect(numbers(mesh.normals?.values ?? [])).toEqual([0, 1, 0, 1, 0, 0, 0, 0, 1]);
    expect(numbers(mesh.shapes[0].offsets)).toEqual([0, 50, 0]);
    expect(small.nodes[0].transform.translation).toEqual([1000, 2000, 3000]);
    expect(small.lights[0].size).toEqual([200, 100]);
    const { near, far, width, focalLength, aperture } = small.cameras[0];
    expect(numbers([near, far, width])).toEqual([10, 5000, 400]);
    // Of the camera's own plate, which no unit of the model changes.
    expect([focalLength, aperture]).toEqual([35, [36, 24]]);
  });

  it('has its height along z, and the front along -y', () => {
    const turned = reorient(quay(), Z_UP, 1);
    // (x, y, z) becomes (x, -z, y).
    expect(numbers(turned.meshes[0].points)).toEqual([1, -3, 2, 4, -6, 5, 7, -10, 8]);
    expect(numbers(turned.meshes[0].normals?.values ?? [])).toEqual([0, 0, 1, 1, 0, 0, 0, -1, 0]);
    expect(numbers(turned.nodes[0].transform.translation)).toEqual([10, -30, 20]);
    expect([...turned.meshes[0].faceCorners]).toEqual([0, 1, 2]);
    expect(turned.lights[0].size).toEqual([2, 1]);
  });

  it('turns its faces round where left and right change places', () => {
    const mirrored = reorient(quay(), { ...Y_UP, right: { axis: 0, sign: -1 } }, 1);
    expect(numbers(mirrored.meshes[0].points)).toEqual([-1, 2, 3, -4, 5, 6, -7, 8, 10]);
    expect([...mirrored.meshes[0].faceCorners]).toEqual([0, 2, 1]);
  });
});

describe('parts that are taken out', () => {
  it('leave the joints that move what stays, with nothing on them, and what those hang on', () => {
    const document = quay();
    const joint = (name: string, parent: number, kind: 'bone' | 'group' | 'mesh') =>
      createNode(name, kind, parent, kind === 'mesh' ? { mesh: 0, materials: [0] } : {});
    document.nodes = [
      joint('Rig', -1, 'group'),
      joint('Root', 0, 'mesh'),
      joint('Arm', 1, 'bone'),
      joint('Prop', 1, 'mesh'),
      joint('Skinned', -1, 'mesh'),
    ];
    document.nodes[4].skin = 0;
    document.skins = [{ name: 'Skin', joints: [2], inverseBind: new Float64Array(16) }];
    const { document: rest, kept } = removeNodes(document, new Set([0]));
    expect(kept).toEqual([0, 1, 2, 4]);
    expect(rest.nodes.map(({ name, kind, mesh, parent, skin }) => [name, kind, mesh, parent, skin])).toEqual([
      ['Rig', 'group', -1, -1, -1],
      ['Root', 'group', -1, 0, -1],
      ['Arm', 'bone', -1, 1, -1],
      ['Skinned', 'mesh', 0, -1, 0],
    ]);
    expect(rest.nodes[1].materials).toEqual([]);
    // Without what it moves the skin goes, and its joints with it.
    const none = removeNodes(document, new Set([0, 4])).document;
    expect([none.nodes, none.meshes, none.skins]).toEqual([[], [], []]);
  });
});
