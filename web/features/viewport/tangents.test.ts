import { previewGlb } from '@kinkajou/core/preview/previewGlb';
import {
  createDocument,
  createMesh,
  createNode,
  identityTransform,
  type Layer,
  type Vec3,
} from '@kinkajou/core/scene/document';
import { Mesh, Vector3 } from 'three';
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js';
import { expect, it } from 'vitest';
import { turnTangentSigns } from './tangents.ts';

const layer = (name: string, size: Layer['size'], domain: Layer['domain'], values: number[]): Layer => ({
  name,
  size,
  domain,
  values: Float64Array.from(values),
  index: null,
});

/** A sign on a wall that faces +Z: u to +X, the image upright, shown by as many parts as there are scales. */
async function shown(...scales: Vec3[]): Promise<Mesh[]> {
  const document = createDocument('gltf', 'glb');
  document.meshes.push(
    createMesh('sign', {
      points: Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
      normals: layer('normals', 3, 'corner', [0, 0, 1, 0, 0, 1, 0, 0, 1]),
      uvSets: [layer('uv', 2, 'corner', [0, 0, 1, 0, 0, 1])],
      tangents: layer('tangents', 4, 'corner', [1, 0, 0, 1, 1, 0, 0, 1, 1, 0, 0, 1]),
    }),
  );
  scales.forEach((scale, i) =>
    document.nodes.push(
      createNode(`sign ${i}`, 'mesh', -1, { mesh: 0, transform: { ...identityTransform(), scale } }),
    ),
  );
  const glb = await previewGlb(document);
  const { scene } = await new GLTFLoader().parseAsync(glb.buffer.slice(glb.byteOffset) as ArrayBuffer, '');
  turnTangentSigns(scene);
  const meshes: Mesh[] = [];
  scene.traverse((object) => {
    if (object instanceof Mesh) meshes.push(object);
  });
  return meshes;
}

/** The way of the second tangent as shaders make it, and the way in which v grows, at the first corner. */
function ways({ geometry }: Mesh): { second: number[]; down: number[] } {
  const [places, uvs, normals, tangents] = ['position', 'uv', 'normal', 'tangent'].map((name) =>
    geometry.getAttribute(name),
  );
  const at = (i: number) => new Vector3().fromBufferAttribute(places, i);
  const low = [0, 1, 2].find((i) => uvs.getX(i) === 0 && uvs.getY(i) === 1) ?? -1;
  const high = [0, 1, 2].find((i) => uvs.getX(i) === 0 && uvs.getY(i) === 0) ?? -1;
  const second = new Vector3()
    .fromBufferAttribute(normals, 0)
    .cross(new Vector3().fromBufferAttribute(tangents, 0))
    .multiplyScalar(tangents.getW(0));
  return { second: second.toArray(), down: at(low).sub(at(high)).toArray() };
}

it('tangents of a model go the way in which v grows, once, whichever parts show it', async () => {
  const meshes = await shown([1, 1, 1], [2, 2, 2]);
  expect(meshes.map(({ geometry }) => geometry)).toHaveLength(2);
  for (const mesh of meshes) {
    const { second, down } = ways(mesh);
    expect(down).toEqual([0, -1, 0]);
    second.forEach((value, k) => expect(value).toBeCloseTo(down[k], 6));
  }
});

it('a mirrored part has none of its own, since shaders take them for turned', async () => {
  const meshes = await shown([1, 1, 1], [-1, 1, 1]);
  expect(meshes.map(({ geometry }) => geometry.hasAttribute('tangent'))).toEqual([false, false]);
  expect((await shown([-1, -1, 1])).map(({ geometry }) => geometry.hasAttribute('tangent'))).toEqual([true]);
});
