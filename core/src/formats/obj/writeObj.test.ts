import { describe, expect, it } from 'vitest';
import {
  createDocument,
  createMesh,
  createNode,
  type PolygonMesh,
  type SceneDocument,
} from '../../scene/document.ts';
import { createMaterial } from '../../scene/material.ts';
import { lens } from '../../test/lens.ts';
import { writeModel } from '../writeModel.ts';

const QUAD = {
  points: Float64Array.of(0, 0, 0, 2, 0, 0, 2, 3, 0, 0, 3, 0),
  faceCounts: Uint32Array.of(4),
  faceCorners: Uint32Array.of(0, 1, 2, 3),
};
const layer = (
  size: 2 | 3 | 4,
  domain: 'corner' | 'point' | 'face',
  values: number[],
  index: number[] | null = null,
) => ({
  name: 'layer',
  size,
  domain,
  values: Float64Array.from(values),
  index: index && Uint32Array.from(index),
});

function write(change: (document: SceneDocument) => void) {
  const document = createDocument('obj', 'OBJ');
  change(document);
  const { files, losses } = writeModel(document, 'boat.obj', {});
  const text = new TextDecoder().decode(files.get('boat.obj'));
  return {
    lines: text.trimEnd().split('\n'),
    files: [...files.keys()],
    losses: losses.map(({ code, part }) => (part ? `${code} ${part}` : code)),
  };
}
const plate = (parts: Partial<PolygonMesh> = {}, more: (document: SceneDocument) => void = () => {}) =>
  write((document) => {
    document.meshes.push(createMesh('plate', { ...QUAD, ...parts }));
    document.nodes.push(createNode('deck plate', 'mesh', -1, { mesh: 0 }));
    more(document);
  });

describe('OBJ, line by line', () => {
  it('has its points and faces, and nothing that is not there', () => {
    const { lines, files, losses } = plate();
    expect(lines).toEqual([
      '# Kinkajou',
      'o deck plate',
      'v 0 0 0',
      'v 2 0 0',
      'v 2 3 0',
      'v 0 3 0',
      'f 1 2 3 4',
    ]);
    expect([files, losses]).toEqual([['boat.obj'], []]);
    expect(plate({ subdivision: 'catmullClark' }).losses).toEqual(['parts.cages deck plate']);
    expect(plate({}, ({ nodes }) => Object.assign(nodes[0], { visible: false })).losses).toEqual([
      'parts.hidden deck plate',
    ]);
  });

  it('has UVs and normals by corner, by point, and by index', () => {
    const uv = plate({ uvSets: [layer(2, 'corner', [0, 0, 1, 0, 1, 1, 0, 1])] }).lines;
    expect(uv.slice(-5)).toEqual(['vt 0 0', 'vt 1 0', 'vt 1 1', 'vt 0 1', 'f 1/1 2/2 3/3 4/4']);
    const normal = plate({ normals: layer(3, 'face', [0, 0, 1]) }).lines;
    expect(normal.slice(-2)).toEqual(['vn 0 0 1', 'f 1//1 2//1 3//1 4//1']);
    const both = plate({
      uvSets: [layer(2, 'corner', [0, 0, 1, 1], [0, 1, 1, 0])],
      normals: layer(3, 'point', [0, 0, 1, 0, 1, 0], [0, 0, 1, 1]),
    }).lines;
    expect(both.slice(-1)).toEqual(['f 1/1/1 2/2/1 3/2/2 4/1/2']);
  });

  it('has colours at its points', () => {
    const { lines } = plate({ colours: [layer(3, 'point', [1, 0, 0, 0, 1, 0, 0, 0, 1, 1, 1, 1])] });
    expect(lines.slice(2, 6)).toEqual(['v 0 0 0 1 0 0', 'v 2 0 0 0 1 0', 'v 2 3 0 0 0 1', 'v 0 3 0 1 1 1']);
  });

  it('counts on from part to part, in the place of each', () => {
    const { lines } = plate({ uvSets: [layer(2, 'corner', [0, 0, 1, 0, 1, 1, 0, 1])] }, (document) => {
      const second = createNode('hatch', 'mesh', -1, { mesh: 0 });
      second.transform.translation = [10, 0, 0];
      document.nodes.push(second);
    });
    expect(lines.slice(-9)).toEqual([
      'v 10 0 0',
      'v 12 0 0',
      'v 12 3 0',
      'v 10 3 0',
      'vt 0 0',
      'vt 1 0',
      'vt 1 1',
      'vt 0 1',
      'f 5/5 6/6 7/7 8/8',
    ]);
  });

  it('changes material and smoothing where the faces do, and to a plain one for those without', () => {
    const parts = {
      points: new Float64Array(9),
      faceCounts: Uint32Array.of(3, 3, 3, 3),
      faceCorners: Uint32Array.of(0, 1, 2, 0, 1, 2, 0, 1, 2, 0, 1, 2),
      faceMaterial: Int32Array.of(0, 1, 1, 2),
      faceSmoothing: Int32Array.of(1, 1, 0, 2),
    };
    const { lines, files } = plate(parts, (document) => {
      document.materials.push(createMaterial('Oak', 'metalRough'), createMaterial('Brass', 'metalRough'));
      document.nodes[0].materials = [1, 0];
    });
    expect(lines.slice(1, 3)).toEqual(['mtllib boat.mtl', 'o deck plate']);
    expect(lines.slice(6)).toEqual([
      'usemtl Brass',
      's 1',
      'f 1 2 3',
      'usemtl Oak',
      'f 1 2 3',
      's off',
      'f 1 2 3',
      'usemtl no_material',
      's 2',
      'f 1 2 3',
    ]);
    expect(files).toEqual(['boat.obj', 'boat.mtl']);
  });

  it('tells what it has no place for', () => {
    const uv = layer(2, 'corner', [0, 0, 1, 0, 1, 1, 0, 1]);
    const shape = {
      name: 'open',
      weight: 0,
      points: Uint32Array.of(0),
      offsets: Float64Array.of(0, 0, 1),
      normalOffsets: null,
    };
    const colour = layer(3, 'point', new Array(12).fill(1));
    expect(plate({ uvSets: [uv, uv] }).losses).toEqual(['obj.uvSets deck plate']);
    expect(plate({ shapes: [shape] }).losses).toEqual(['obj.morphs deck plate']);
    expect(plate({ colours: [layer(4, 'point', new Array(16).fill(1))] }).losses).toEqual([]);
    expect(plate({ colours: [layer(4, 'point', new Array(16).fill(0.5))] }).losses).toEqual([
      'obj.alpha deck plate',
    ]);
    expect(plate({ colours: [colour, colour] }).losses).toEqual(['obj.colours deck plate']);
    expect(plate({ colours: [layer(3, 'corner', new Array(12).fill(1))] }).losses).toEqual([
      'obj.colours deck plate',
    ]);
    const camera = lens({ name: 'c', near: 1, far: 2 });
    const light = {
      name: 'l',
      kind: 'point' as const,
      colour: [1, 1, 1] as [number, number, number],
      intensity: 1,
      innerAngle: 0,
      outerAngle: 0,
      size: [0, 0] as [number, number],
      castsShadow: true,
    };
    const losses = plate({}, (document) => {
      document.cameras.push(camera);
      document.lights.push(light);
      document.nodes.push(
        createNode('c', 'camera', 0, { camera: 0 }),
        createNode('l', 'light', -1, { light: 0 }),
      );
      document.clips.push({ name: 'swing', start: 0, end: 1, tracks: [] });
      document.skins.push({ name: 'skin', joints: [], inverseBind: new Float64Array(0) });
    }).losses;
    expect(losses).toEqual(['obj.hierarchy', 'obj.cameras', 'obj.lights', 'obj.motion', 'obj.skins']);
  });
});

it('a model of another type is refused with what can be written', () => {
  const refused = () => writeModel(createDocument('obj', 'OBJ'), 'boat.stl', {});
  expect(refused).toThrow(
    expect.objectContaining({
      code: 'model.format',
      hint: 'Write FBX, OBJ, USD or glTF.',
      place: { file: 'boat.stl' },
    }),
  );
});
