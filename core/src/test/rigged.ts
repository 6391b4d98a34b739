import {
  createDocument,
  createMesh,
  createNode,
  type SceneDocument,
  type Track,
  Y_UP,
} from '../scene/document.ts';
import { createMaterial } from '../scene/material.ts';
import { invertAffine, multiply, worldMatrices } from '../scene/matrix.ts';

/**
 * A jib of eight points on three bones under a turned crane, with two shapes, two clips and a pivot. Metres,
 * Y up.
 */
export function riggedCrane(): SceneDocument {
  const document = createDocument('fbx', 'made');
  const points = new Float64Array([
    0, 0, 0, 0.4, 0, 0, 0, 1, 0, 0.4, 1, 0, 0, 2, 0.1, 0.4, 2, 0.1, 0, 3, 0, 0.4, 3, 0,
  ]);
  const corners = new Uint32Array([0, 1, 3, 2, 2, 3, 5, 4, 4, 5, 7, 6]);
  const mesh = createMesh('jib', {
    points,
    faceCounts: new Uint32Array([4, 4, 4]),
    faceCorners: corners,
    uvSets: [
      {
        name: 'map1',
        size: 2,
        domain: 'corner',
        values: Float64Array.from({ length: 24 }, (_, i) => ((i * 7) % 24) / 24),
        index: null,
      },
    ],
    influences: {
      starts: new Uint32Array([0, 1, 2, 4, 6, 8, 10, 11, 12]),
      joints: new Uint32Array([0, 0, 0, 1, 0, 1, 1, 2, 1, 2, 2, 2]),
      weights: new Float32Array([1, 1, 0.5, 0.5, 0.25, 0.75, 0.75, 0.25, 0.5, 0.5, 1, 1]),
    },
    shapes: [
      {
        name: 'bulge',
        points: new Uint32Array([2, 3]),
        offsets: new Float64Array([-0.2, 0, 0.05, 0.2, 0, 0.05]),
        normalOffsets: new Float64Array([-0.5, 0, 0, 0.5, 0, 0]),
        weight: 0,
      },
      {
        name: 'sag',
        points: new Uint32Array([6, 7]),
        offsets: new Float64Array([0, -0.3, 0, 0, -0.3, 0.1]),
        normalOffsets: null,
        weight: 0,
      },
    ],
  });
  const material = createMaterial('Steel', 'metalRough');
  material.channels.baseColor = {
    value: [0.5, 0.5, 0.6],
    map: null,
    source: { from: 'file', detail: 'made' },
  };
  const crane = createNode('Crane', 'group', -1);
  crane.transform.translation = [1, 0, 2];
  crane.transform.rotation = [0, 30, 0];
  const bones = ['Root', 'Mid', 'Tip'].map((name, i) => {
    const bone = createNode(name, 'bone', i === 0 ? 0 : i);
    bone.transform.translation = [0, i === 0 ? 0 : 1, 0];
    return bone;
  });
  const jib = createNode('Jib', 'mesh', 0, { mesh: 0, materials: [0], skin: 0 });
  const hook = createNode('Hook', 'group', 0);
  hook.transform.translation = [0.5, 2, 0];
  hook.transform.rotationPivot = [0, 0.5, 0];
  hook.transform.rotationOffset = [0.1, 0, -0.2];
  hook.transform.scalingPivot = [0.3, 0, 0];
  hook.transform.scalingOffset = [0, 0.2, 0];
  hook.transform.scale = [1, 2, 0.5];
  hook.transform.preRotation = [0, 40, 0];
  hook.transform.postRotation = [5, 0, 0];
  hook.transform.rotation = [10, 0, 20];
  const nodes = [crane, ...bones, jib, hook];
  document.nodes.push(...nodes);
  document.meshes.push(mesh);
  document.materials.push(material);
  Object.assign(document, { axes: Y_UP, metresPerUnit: 1, unitStated: true });
  const worlds = worldMatrices(nodes);
  const inverseBind = new Float64Array(48);
  [1, 2, 3].forEach((joint, j) => inverseBind.set(multiply(invertAffine(worlds[joint]), worlds[4]), j * 16));
  document.skins.push({ name: 'jib', joints: [1, 2, 3], inverseBind });
  const track = (node: number, path: Track['path'], times: number[], values: number[]): Track => ({
    node,
    path,
    times: Float64Array.from(times),
    values: Float64Array.from(values),
    interpolation: 'linear',
  });
  document.clips.push(
    {
      name: 'swing',
      start: 0,
      end: 2,
      tracks: [
        track(2, 'rotation', [0, 1, 2], [0, 0, 0, 0, 0, 40, 0, 25, 0]),
        track(5, 'translation', [0, 2], [0.5, 2, 0, 0.5, 1, 0.3]),
      ],
    },
    {
      name: 'lift',
      start: 0,
      end: 1,
      tracks: [
        track(0, 'translation', [0, 1], [1, 0, 2, 1, 0.8, 2]),
        track(5, 'rotation', [0, 1], [10, 0, 20, 50, 0, 20]),
      ],
    },
  );
  return document;
}
