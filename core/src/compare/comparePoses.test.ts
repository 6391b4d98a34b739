import { describe, expect, it } from 'vitest';
import { createDocument, createMesh, createNode, type SceneDocument } from '../scene/document.ts';
import { lamp } from '../test/lamp.ts';
import { compareRig } from './compareRig.ts';

const CAMERA = {
  name: 'Eye',
  projection: 'perspective' as const,
  focalLength: 50,
  aperture: [36, 24] as [number, number],
  width: 1,
  near: 0.1,
  far: 100,
};

/** A cleat of a centimetre, and what looks at it from so many metres, which turns about Y and Z in two seconds. */
function watched(what: 'camera' | 'spot' | 'point', far: number, ends: [number, number] = [40, 0]) {
  const document: SceneDocument = createDocument('gltf', 'made');
  document.meshes.push(
    createMesh('Cleat', {
      points: Float64Array.of(0, 0, 0, 0.01, 0, 0, 0, 0.01, 0),
      faceCounts: Uint32Array.of(3),
      faceCorners: Uint32Array.of(0, 1, 2),
    }),
  );
  document.nodes.push(createNode('Cleat', 'mesh', -1, { mesh: 0, materials: [-1] }));
  const node = createNode('Watch', 'group', -1, what === 'camera' ? { camera: 0 } : { light: 0 });
  document.nodes.push(node);
  if (what === 'camera') document.cameras.push(CAMERA);
  else document.lights.push({ ...lamp(), kind: what });
  const track = { node: 1, times: Float64Array.of(0, 2), interpolation: 'linear' as const };
  document.clips.push({
    name: 'round',
    tracks: [
      { ...track, path: 'translation', values: Float64Array.of(far, 0, 0, far, 0, 1) },
      { ...track, path: 'rotation', values: Float64Array.of(0, 0, 0, 0, ends[0], ends[1]) },
    ],
  } as SceneDocument['clips'][number]);
  return document;
}

const told = (a: SceneDocument, b: SceneDocument) => compareRig(a, b).map(({ message }) => message);

describe('what looks and moves', () => {
  it('looks where it did, of cameras and of lamps that look somewhere', () => {
    for (const what of ['camera', 'spot'] as const) {
      expect(told(watched(what, 1), watched(what, 1))).toEqual([]);
      // 5 degrees at the end of it, 50 at most.
      expect(told(watched(what, 1), watched(what, 1, [45, 0]))).toEqual([
        'round: at 2.00 s Watch looks elsewhere, by 5.00 degrees',
      ]);
    }
    expect(told(watched('point', 1), watched('point', 1, [45, 0]))).toEqual([]);
  });

  it('has up where it was, of cameras alone', () => {
    const [still, rolled] = [watched('camera', 1, [0, 0]), watched('camera', 1, [0, 30])];
    expect(told(still, rolled)).toEqual(['round: at 2.00 s Watch looks elsewhere, by 30.0 degrees']);
    expect(told(watched('spot', 1, [0, 0]), watched('spot', 1, [0, 30]))).toEqual([]);
  });

  it('stands where it did by how far out that is, however small the thing that it looks at', () => {
    const moved = (by: number) => told(watched('camera', 5), watched('camera', 5 + by));
    // Two thousandths of five metres.
    expect(moved(0.009)).toEqual([]);
    expect(moved(0.02)).toEqual(['round: at 0.00 s Watch is 0.0200 m elsewhere']);
  });
});
