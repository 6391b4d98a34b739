import { describe, expect, it } from 'vitest';
import { type Camera, createNode } from '../../scene/document.ts';
import { lamp } from '../../test/lamp.ts';
import type { FbxNode } from './tree.ts';
import { attributeRecord, modelRecord } from './writeAttributes.ts';

const plain = (record: FbxNode | null): unknown[] => (record?.properties ?? []).map(({ value }) => value);
const child = (record: FbxNode | null, name: string) =>
  record?.children.find((one) => one.name === name) ?? null;
/** Properties70 as name, type, sub-type, flags, values. */
const entries = (record: FbxNode | null) => (child(record, 'Properties70')?.children ?? []).map(plain);
const named = (record: FbxNode | null, name: string) => entries(record).find(([title]) => title === name);

const CAMERA: Camera = {
  name: 'lens',
  projection: 'perspective',
  focalLength: 12.7,
  aperture: [25.4, 12.7],
  width: 3,
  near: 0.5,
  far: 900,
};
const LIGHT = lamp({ intensity: 2, outerAngle: 45, size: [1, 1] });

describe('what a node is, in FBX', () => {
  it('is a camera with its lens in millimetres and its window in inches', () => {
    const record = attributeRecord(createNode('cam', 'camera', -1, { camera: 0 }), [CAMERA], [], 7);
    expect(record?.name).toBe('NodeAttribute');
    expect(plain(record)).toEqual([7n, 'lens\u0000\u0001NodeAttribute', 'Camera']);
    expect([child(record, 'TypeFlags'), child(record, 'GeometryVersion')].map(plain)).toEqual([
      ['Camera'],
      [124],
    ]);
    const said = Object.fromEntries(entries(record).map(([name, , , , value]) => [name, value]));
    // 2 atan(25.4 / 2 / 12.7) is a right angle.
    expect(said.FieldOfView).toBeCloseTo(90, 9);
    expect({ ...said, FieldOfView: 90 }).toEqual({
      CameraProjectionType: 0,
      ApertureMode: 3,
      FilmWidth: 1,
      FilmHeight: 0.5,
      FilmAspectRatio: 2,
      FieldOfView: 90,
      FocalLength: 12.7,
      NearPlane: 0.5,
      FarPlane: 900,
      OrthoZoom: 3,
    });
    const wide = attributeRecord(
      createNode('cam', 'camera', -1, { camera: 0 }),
      [{ ...CAMERA, projection: 'orthographic', far: Infinity }],
      [],
      7,
    );
    expect([named(wide, 'CameraProjectionType')?.[4], named(wide, 'FarPlane')?.[4]]).toEqual([1, 1e7]);
  });

  it('is a light with its strength in hundredths', () => {
    const record = attributeRecord(createNode('lamp', 'light', -1, { light: 0 }), [], [LIGHT], 8);
    expect(plain(record)).toEqual([8n, 'lamp\u0000\u0001NodeAttribute', 'Light']);
    expect([child(record, 'TypeFlags'), child(record, 'GeometryVersion')].map(plain)).toEqual([
      ['Light'],
      [124],
    ]);
    expect(Object.fromEntries(entries(record).map(([name, , , , ...values]) => [name, values]))).toEqual({
      LightType: [2],
      CastLight: [1],
      CastShadows: [1],
      Color: [1, 0.5, 0.25],
      Intensity: [200],
      DecayType: [2],
      InnerAngle: [20],
      OuterAngle: [45],
    });
    const kinds = (['point', 'directional', 'spot', 'area'] as const).map((kind) => {
      const one = attributeRecord(
        createNode('lamp', 'light', -1, { light: 0 }),
        [],
        [{ ...LIGHT, kind, castsShadow: false, fading: 'cubic' }],
        8,
      );
      return ['LightType', 'CastShadows', 'DecayType'].map((name) => named(one, name)?.[4]);
    });
    expect(kinds).toEqual([
      [0, 0, 3],
      [1, 0, undefined],
      [2, 0, 3],
      [3, 0, 3],
    ]);
  });

  it('is a bone, or nothing; of a mesh the mesh itself tells', () => {
    const bone = attributeRecord(createNode('hip', 'bone', -1), [], [], 9);
    expect([plain(bone), plain(child(bone, 'TypeFlags'))]).toEqual([
      [9n, 'hip\u0000\u0001NodeAttribute', 'LimbNode'],
      ['Skeleton'],
    ]);
    const group = attributeRecord(createNode('boat', 'group', -1), [], [], 9);
    expect([plain(group), plain(child(group, 'TypeFlags'))]).toEqual([
      [9n, 'boat\u0000\u0001NodeAttribute', 'Null'],
      ['Null'],
    ]);
    expect(attributeRecord(createNode('hull', 'mesh', -1, { mesh: 0 }), [], [], 9)).toBeNull();
  });
});

describe('a model record', () => {
  const model = (change: (node: ReturnType<typeof createNode>) => void) => {
    const node = createNode('hull', 'mesh', -1, { mesh: 0 });
    change(node);
    return modelRecord(node, 5);
  };

  it('says its kind by what hangs on it', () => {
    const kinds = [{ camera: 0 }, { light: 0 }, { mesh: 0 }, {}].map(
      (more) => plain(modelRecord(createNode('x', 'group', -1, more), 5))[2],
    );
    expect(kinds).toEqual(['Camera', 'Light', 'Mesh', 'Null']);
    expect(plain(modelRecord(createNode('x', 'bone', -1), 5))[2]).toBe('LimbNode');
  });

  it('has its place, its order and how scale comes down; pivots where there are any', () => {
    const bare = model(() => undefined);
    expect([
      plain(child(bare, 'Version')),
      plain(child(bare, 'Shading')),
      plain(child(bare, 'Culling')),
    ]).toEqual([[232], [1], ['CullingOff']]);
    expect(entries(bare).map(([name]) => name)).toEqual([
      'RotationOrder',
      'RotationActive',
      'InheritType',
      'Lcl Translation',
      'Lcl Rotation',
      'Lcl Scaling',
      'DefaultAttributeIndex',
      'Visibility',
    ]);
    const placed = model((node) => {
      node.visible = false;
      node.custom = { length: 7.5 };
      Object.assign(node.transform, {
        translation: [1, 2, 3],
        rotation: [4, 5, 6],
        scale: [7, 8, 9],
        rotationOrder: 'ZXY',
        inherit: 'Rrs',
        rotationOffset: [1, 0, 0],
        rotationPivot: [0, 2, 0],
        scalingOffset: [0, 0, 3],
        scalingPivot: [4, 0, 0],
        preRotation: [0, 5, 0],
        postRotation: [0, 0, 6],
        geometricTranslation: [7, 0, 0],
        geometricRotation: [0, 8, 0],
        geometricScale: [1, 1, 9],
      });
    });
    expect(Object.fromEntries(entries(placed).map(([name, , , , ...values]) => [name, values]))).toEqual({
      RotationOrder: [4],
      RotationActive: [1],
      InheritType: [2],
      RotationOffset: [1, 0, 0],
      RotationPivot: [0, 2, 0],
      ScalingOffset: [0, 0, 3],
      ScalingPivot: [4, 0, 0],
      PreRotation: [0, 5, 0],
      PostRotation: [0, 0, 6],
      GeometricTranslation: [7, 0, 0],
      GeometricRotation: [0, 8, 0],
      GeometricScaling: [1, 1, 9],
      'Lcl Translation': [1, 2, 3],
      'Lcl Rotation': [4, 5, 6],
      'Lcl Scaling': [7, 8, 9],
      DefaultAttributeIndex: [0],
      Visibility: [0],
      length: [7.5],
    });
    expect(named(placed, 'Lcl Translation')?.slice(0, 4)).toEqual([
      'Lcl Translation',
      'Lcl Translation',
      '',
      'A',
    ]);
    expect(named(placed, 'Visibility')?.slice(0, 4)).toEqual(['Visibility', 'Visibility', '', 'A']);
    expect(named(placed, 'DefaultAttributeIndex')?.slice(0, 4)).toEqual([
      'DefaultAttributeIndex',
      'int',
      'Integer',
      '',
    ]);
  });

  it('takes a matrix apart into place, turn and scale', () => {
    // A quarter turn about Z of twice the size, two to the right; rows are the images of the axes.
    const turned = model((node) => {
      node.transform.matrix = Float64Array.of(0, 2, 0, 0, -2, 0, 0, 0, 0, 0, 2, 0, 2, 0, 0, 1);
      node.transform.rotationPivot = [9, 9, 9];
    });
    const numbers = (name: string) =>
      (named(turned, name)?.slice(4) as number[] | undefined)?.map(
        (value) => Math.round(value * 1e9) / 1e9 + 0,
      );
    expect([
      numbers('Lcl Translation'),
      numbers('Lcl Rotation'),
      numbers('Lcl Scaling'),
      numbers('RotationPivot'),
    ]).toEqual([[2, 0, 0], [0, 0, 90], [2, 2, 2], undefined]);
  });
});
