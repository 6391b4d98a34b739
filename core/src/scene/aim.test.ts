import { Document, NodeIO } from '@gltf-transform/core';
import { KHRLightsPunctual } from '@gltf-transform/extensions';
import { Matrix4 as ThreeMatrix, Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { poseOf } from '../compare/posed.ts';
import { addGeometry } from '../formats/gltf/writeScene.ts';
import { writeModel } from '../formats/writeModel.ts';
import { memorySource } from '../parcel/fileSource.ts';
import { readModel } from '../readModel.ts';
import { lamp } from '../test/lamp.ts';
import { lens } from '../test/lens.ts';
import {
  createDocument,
  createMesh,
  createNode,
  type SceneDocument,
  type Track,
  type TransformParts,
  Y_UP,
  Z_UP,
} from './document.ts';
import {
  geometricMatrix,
  multiply,
  partsOfMatrix,
  rotation,
  scaling,
  toYUpMetres,
  transformPoint,
  worldMatrices,
} from './matrix.ts';
import { reorient } from './reorient.ts';

const half = Math.SQRT1_2;

/**
 * A camera that pans a quarter by whole turns, a lamp that nods by angles, and a sign that slides on the
 * lamp; Y up, metres.
 */
function quay(): SceneDocument {
  const document = createDocument('gltf', 'made');
  Object.assign(document, { axes: Y_UP, metresPerUnit: 1, unitStated: true });
  document.cameras.push(lens({ name: 'view' }));
  document.lights.push(lamp());
  document.meshes.push(
    createMesh('sign', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  document.nodes.push(
    createNode('view', 'camera', -1, { camera: 0 }),
    createNode('lamp', 'light', -1, { light: 0 }),
    createNode('sign', 'mesh', 1, { mesh: 0 }),
  );
  document.nodes[0].transform.translation = [0, 2, 5];
  document.nodes[1].transform.translation = [3, 4, 0];
  document.nodes[1].transform.rotation = [-30, 20, 0];
  document.nodes[2].transform.translation = [0, 1, 0];
  const track = (node: number, path: Track['path'], values: number[]): Track => ({
    node,
    path,
    times: Float64Array.of(0, 1),
    values: Float64Array.from(values),
    interpolation: 'linear',
  });
  const tracks = [
    track(0, 'quaternion', [0, 0, 0, 1, 0, half, 0, half]),
    track(1, 'rotation', [-30, 20, 0, 10, 20, 0]),
    track(2, 'translation', [0, 1, 0, 2, 1, 0]),
  ];
  document.clips.push({ name: 'tour', start: 0, end: 1, tracks });
  return document;
}

/**
 * Where each node stands, what lies ahead of it and what above it, in Y-up metres, at some moments of the
 * clip.
 */
function seen(document: SceneDocument) {
  return [0, 0.5, 1].map((time) => {
    const { worlds } = poseOf(document, document.clips[0], time);
    return ['view', 'lamp', 'sign'].map((name) => {
      const world = worlds[document.nodes.findIndex((node) => node.name === name)];
      const [x, y, z] = transformPoint(world, 0, 0, 0);
      const scale = document.metresPerUnit;
      // A sign has points, which every system names otherwise.
      const ahead =
        name === 'sign'
          ? []
          : [transformPoint(world, 0, 0, -1 / scale), transformPoint(world, 0, 1 / scale, 0)];
      return [[x, y, z], ...ahead].flat().map((value) => Number(value.toFixed(3)) + 0);
    });
  });
}

async function written(document: SceneDocument, extension: string): Promise<SceneDocument> {
  const { files } = writeModel(document, `quay.${extension}`);
  return readModel(`quay.${extension}`, memorySource('quay', Object.fromEntries(files)));
}

async function inGltf(document: SceneDocument): Promise<SceneDocument> {
  const gltf = new Document();
  addGeometry(
    gltf,
    document,
    () => null,
    (name) => name,
  );
  const bytes = await new NodeIO().registerExtensions([KHRLightsPunctual]).writeBinary(gltf);
  return readModel('quay.glb', memorySource('quay', { 'quay.glb': bytes }));
}

describe('cameras and lights, and what hangs on them', () => {
  it('are where they should be to begin with', () => {
    const [start, , end] = seen(quay());
    // The camera looks along -Z, and along -X a quarter later.
    expect([start[0].slice(0, 6), end[0].slice(0, 6)]).toEqual([
      [0, 2, 5, 0, 2, 4],
      [0, 2, 5, -1, 2, 5],
    ]);
  });

  it.each([
    ['Z up in centimetres', Z_UP, 0.01],
    ['left-handed', { ...Y_UP, right: { axis: 0, sign: -1 } } as const, 1],
  ] as const)('look and move as they did in other axes, %s', (_, axes, metresPerUnit) => {
    expect(seen(reorient(quay(), axes, metresPerUnit))).toEqual(seen(quay()));
    expect(seen(reorient(reorient(quay(), axes, metresPerUnit), Y_UP, 1))).toEqual(seen(quay()));
  });

  it.each<[string, Partial<TransformParts>]>([
    ['an uneven scale', { scale: [1, 2, 3] }],
    ['an uneven scale in depth', { scale: [2, 2, 3] }],
    ['a pivot of its scale', { scale: [2, 2, 2], scalingPivot: [0, 1, 0] }],
    ['a turn of its own behind the animated one', { postRotation: [0, 30, 0] }],
    ['a matrix', { matrix: Float64Array.of(half, 0, -half, 0, 0, 1, 0, 0, half, 0, half, 0, 0, 2, 5, 1) }],
  ])('look as they did with %s', (_, parts) => {
    const document = quay();
    document.clips[0].tracks = [];
    Object.assign(document.nodes[0].transform, { rotation: [20, 40, 0], ...parts });
    const turned = reorient(document, Z_UP, 0.01);
    // What lies ahead and above, in metres; as far off as the scale says.
    seen(document)[0].forEach((places, i) =>
      places.forEach((value, k) => expect(seen(turned)[0][i][k]).toBeCloseTo(value, 2)),
    );
  });

  it('leave a mesh of their own where it is', () => {
    const document = quay();
    Object.assign(document.nodes[0], { kind: 'mesh', mesh: 0 });
    Object.assign(document.nodes[0].transform, {
      geometricTranslation: [0, 3, 0],
      geometricScale: [1, 2, 1],
    });
    const corners = (of: SceneDocument) => {
      const [node] = of.nodes;
      const world = multiply(
        toYUpMetres(of.axes, of.metresPerUnit),
        multiply(worldMatrices(of.nodes)[0], geometricMatrix(node.transform)),
      );
      const { points } = of.meshes[node.mesh];
      return [0, 3, 6].map((index) =>
        transformPoint(world, points[index], points[index + 1], points[index + 2]).map(
          (value) => Number(value.toFixed(4)) + 0,
        ),
      );
    };
    // The view stands at (0, 2, 5), the mesh three above it, twice as high.
    expect(corners(document)).toEqual([
      [0, 5, 5],
      [1, 5, 5],
      [0, 7, 5],
    ]);
    expect(corners(reorient(document, Z_UP, 0.01))).toEqual(corners(document));
  });

  it.each(['fbx', 'usda'])('look and move as they did in %s, whatever is up', async (extension) => {
    expect(seen(await written(quay(), extension))).toEqual(seen(quay()));
    expect(seen(await written(reorient(quay(), Z_UP, 0.01), extension))).toEqual(seen(quay()));
  });

  it('look and move as they did in glTF from what is Z up', async () => {
    expect(seen(await inGltf(reorient(quay(), Z_UP, 0.01)))).toEqual(seen(quay()));
  });
});

describe('cameras and lights that are sheared', () => {
  it.each(['fbx', 'usda', 'glb'])('look as they did in %s', async (extension) => {
    const document = quay();
    document.clips = [];
    document.nodes.pop();
    const shear = multiply(multiply(rotation([30, 40, 50]), scaling([1, 2, 0.5])), rotation([20, 70, 10]));
    for (const node of document.nodes) node.transform = partsOfMatrix(shear);
    const read = extension === 'glb' ? await inGltf(document) : await written(document, extension);
    const back = reorient(read, Y_UP, 1);
    const worlds = worldMatrices(back.nodes);
    const of = new ThreeMatrix().fromArray(shear);
    for (const name of ['view', 'lamp']) {
      const found = new ThreeMatrix().fromArray(worlds[back.nodes.findIndex((node) => node.name === name)]);
      const [z, other] = [of, found].map((matrix) => new Vector3(0, 0, 1).transformDirection(matrix));
      expect(z.distanceTo(other)).toBeLessThan(1e-6);
      const [up, otherUp] = [of, found].map((matrix) => {
        const y = new Vector3(0, 1, 0).transformDirection(matrix);
        return y.addScaledVector(z, -y.dot(z)).normalize();
      });
      expect(up.distanceTo(otherUp)).toBeLessThan(1e-6);
    }
  });
});
