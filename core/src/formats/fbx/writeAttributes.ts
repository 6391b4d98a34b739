import type { Camera, Light, LightKind, SceneNode, TransformParts } from '../../scene/document.ts';
import { decompose, localMatrix } from '../../scene/matrix.ts';
import {
  boolEntry,
  colourEntry,
  customEntry,
  D,
  doubleEntry,
  entry,
  enumEntry,
  I,
  numberEntry,
  object,
  properties70,
  record,
  S,
  vectorEntry,
} from './records.ts';
import type { FbxNode } from './tree.ts';

const MILLIMETRES_PER_INCH = 25.4;
const ORDERS = ['XYZ', 'XZY', 'YZX', 'YXZ', 'ZXY', 'ZYX'];
const INHERIT = ['RrSs', 'RSrs', 'Rrs'];
/** Light fades by the square of the distance where nothing else is said. */
const DECAY_TYPES = { none: 0, linear: 1, square: 2, cubic: 3 };
const LIGHT_TYPES: Partial<Record<LightKind, number>> = { point: 0, directional: 1, spot: 2, area: 3 };
const FAR_LIMIT = 1e7;

/** The Model record of a node. */
export function modelRecord(node: SceneNode, id: number): FbxNode {
  const subclass = subclassOf(node);
  return object('Model', id, { name: node.name, subclass }, [
    record('Version', [I(232)]),
    properties70([
      ...transformEntries(node.transform),
      entry('DefaultAttributeIndex', ['int', 'Integer', ''], I(0)),
      entry('Visibility', ['Visibility', '', 'A'], D(node.visible ? 1 : 0)),
      ...Object.entries(node.custom).map(([name, value]) => customEntry(name, value)),
    ]),
    record('Shading', [{ type: 'C', value: 1 }]),
    record('Culling', [S('CullingOff')]),
  ]);
}

function subclassOf(node: SceneNode) {
  if (node.camera >= 0) return 'Camera';
  if (node.light >= 0) return 'Light';
  if (node.mesh >= 0) return 'Mesh';
  return node.kind === 'bone' ? 'LimbNode' : 'Null';
}

/** A row of a property table for a transform; one that may be left out says what it would without it. */
interface TransformRow {
  row: FbxNode;
  idle: boolean;
}

/** Rows of a property table for a transform; those that say nothing are left out. */
function transformEntries(parts: TransformParts): FbxNode[] {
  return transformRows(parts).flatMap(({ row, idle }) => (idle ? [] : [row]));
}

/** All rows of a property table that a transform may have. */
export function transformRows(parts: TransformParts): TransformRow[] {
  const t = parts.matrix ? { ...parts, ...decomposedParts(parts) } : parts;
  const always = (row: FbxNode) => ({ row, idle: false });
  const lcl = (name: string, value: readonly number[]) =>
    always(entry(name, [name, '', 'A'], D(value[0]), D(value[1]), D(value[2])));
  const optional = (name: string, value: readonly number[], neutral = 0) => ({
    row: vectorEntry(name, value),
    idle: value.every((component) => component === neutral),
  });
  return [
    always(enumEntry('RotationOrder', ORDERS.indexOf(t.rotationOrder))),
    always(boolEntry('RotationActive', true)),
    always(enumEntry('InheritType', INHERIT.indexOf(t.inherit))),
    optional('RotationOffset', t.rotationOffset),
    optional('RotationPivot', t.rotationPivot),
    optional('ScalingOffset', t.scalingOffset),
    optional('ScalingPivot', t.scalingPivot),
    optional('PreRotation', t.preRotation),
    optional('PostRotation', t.postRotation),
    optional('GeometricTranslation', t.geometricTranslation),
    optional('GeometricRotation', t.geometricRotation),
    optional('GeometricScaling', t.geometricScale, 1),
    lcl('Lcl Translation', t.translation),
    lcl('Lcl Rotation', t.rotation),
    lcl('Lcl Scaling', t.scale),
  ];
}

/** What translation, rotation and scale can say of a matrix; shear is lost. */
function decomposedParts(parts: TransformParts): Partial<TransformParts> {
  const { translation, rotation, scale } = decompose(localMatrix(parts));
  const none: [number, number, number] = [0, 0, 0];
  return {
    translation,
    rotation,
    scale,
    rotationOrder: 'XYZ',
    preRotation: none,
    postRotation: none,
    rotationPivot: none,
    rotationOffset: none,
    scalingPivot: none,
    scalingOffset: none,
  };
}

/** The NodeAttribute record that tells what a node is, or null where the mesh itself does. */
export function attributeRecord(
  node: SceneNode,
  cameras: Camera[],
  lights: Light[],
  id: number,
): FbxNode | null {
  if (node.camera >= 0) return cameraRecord(cameras[node.camera], id);
  if (node.light >= 0) return lightRecord(lights[node.light], id);
  if (node.mesh >= 0) return null;
  const flags = node.kind === 'bone' ? 'Skeleton' : 'Null';
  const subclass = node.kind === 'bone' ? 'LimbNode' : 'Null';
  return object('NodeAttribute', id, { name: node.name, subclass }, [record('TypeFlags', [S(flags)])]);
}

function cameraRecord(camera: Camera, id: number): FbxNode {
  const [width, height] = camera.aperture;
  const angle = (2 * Math.atan(width / 2 / camera.focalLength) * 180) / Math.PI;
  return object('NodeAttribute', id, { name: camera.name, subclass: 'Camera' }, [
    record('TypeFlags', [S('Camera')]),
    record('GeometryVersion', [I(124)]),
    properties70([
      enumEntry('CameraProjectionType', camera.projection === 'orthographic' ? 1 : 0),
      enumEntry('ApertureMode', 3),
      doubleEntry('FilmWidth', width / MILLIMETRES_PER_INCH),
      doubleEntry('FilmHeight', height / MILLIMETRES_PER_INCH),
      doubleEntry('FilmAspectRatio', width / height),
      entry('FieldOfView', ['FieldOfView', '', 'A'], D(angle)),
      numberEntry('FocalLength', camera.focalLength),
      doubleEntry('NearPlane', camera.near),
      doubleEntry('FarPlane', Number.isFinite(camera.far) ? camera.far : FAR_LIMIT),
      doubleEntry('OrthoZoom', camera.width),
    ]),
  ]);
}

function lightRecord(light: Light, id: number): FbxNode {
  return object('NodeAttribute', id, { name: light.name, subclass: 'Light' }, [
    record('TypeFlags', [S('Light')]),
    record('GeometryVersion', [I(124)]),
    properties70([
      enumEntry('LightType', LIGHT_TYPES[light.kind] ?? 0),
      boolEntry('CastLight', true),
      boolEntry('CastShadows', light.castsShadow),
      colourEntry('Color', light.colour),
      numberEntry('Intensity', light.intensity * 100),
      ...(light.kind === 'directional'
        ? []
        : [enumEntry('DecayType', DECAY_TYPES[light.fading ?? 'square'])]),
      numberEntry('InnerAngle', light.innerAngle),
      numberEntry('OuterAngle', light.outerAngle),
    ]),
  ]);
}
