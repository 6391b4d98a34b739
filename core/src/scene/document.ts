import type { ImageEntry, Material } from './material.ts';

export type Vec3 = [number, number, number];
export type FloatArray = Float32Array | Float64Array;
export type IndexArray = Int32Array | Uint32Array;

/** What one entry of a layer belongs to. */
export type Domain = 'point' | 'corner' | 'face';

/** Values spread over a mesh. With `index`, entry i reads `values[index[i] * size ...]`, else `values[i * size ...]`. */
export interface Layer {
  name: string;
  size: 2 | 3 | 4;
  domain: Domain;
  values: FloatArray;
  index: IndexArray | null;
}

/** A polygon mesh with n-gons. Face f owns `faceCounts[f]` consecutive entries of `faceCorners`. */
export interface PolygonMesh {
  name: string;
  /** x, y, z per point, in the document's units and axes. */
  points: FloatArray;
  faceCounts: Uint32Array;
  /** Point index per corner. */
  faceCorners: Uint32Array;
  /** Per face the slot in the node's material list; null when every face uses slot 0. */
  faceMaterial: Int32Array | null;
  /** Per face a smoothing group or flag; null when the file says nothing. */
  faceSmoothing: Int32Array | null;
  normals: Layer | null;
  uvSets: Layer[];
  colours: Layer[];
  tangents: Layer | null;
}

export type RotationOrder = 'XYZ' | 'XZY' | 'YZX' | 'YXZ' | 'ZXY' | 'ZYX';

/** Transform as the formats write it. Angles in degrees; pivots and offsets in document units. */
export interface TransformParts {
  translation: Vec3;
  rotation: Vec3;
  rotationOrder: RotationOrder;
  scale: Vec3;
  preRotation: Vec3;
  postRotation: Vec3;
  rotationPivot: Vec3;
  rotationOffset: Vec3;
  scalingPivot: Vec3;
  scalingOffset: Vec3;
  geometricTranslation: Vec3;
  geometricRotation: Vec3;
  geometricScale: Vec3;
}

export type NodeKind = 'group' | 'mesh' | 'camera' | 'light' | 'bone';

export interface SceneNode {
  name: string;
  kind: NodeKind;
  /** Index of the parent node, or -1 at the root. Parents come before their children. */
  parent: number;
  transform: TransformParts;
  /** Index into `meshes`, or -1. */
  mesh: number;
  /** Per material slot the index into the document's materials, or -1. */
  materials: number[];
}

/** Axis letter and sign: `{ axis: 2, sign: -1 }` is -Z. */
export interface SignedAxis {
  axis: 0 | 1 | 2;
  sign: 1 | -1;
}

/** `right x up = front` holds for a right-handed system. */
export interface AxisSystem {
  up: SignedAxis;
  front: SignedAxis;
  right: SignedAxis;
}

/** Something a reader met and could not take as it stood. Equal remarks are counted, not repeated. */
export interface Remark {
  code: string;
  severity: 'error' | 'warning' | 'note';
  message: string;
  subject: string;
  count: number;
}

export interface SceneDocument {
  format: 'fbx' | 'obj' | 'usd' | 'gltf';
  /** For instance `binary 7400`. */
  variant: string;
  /** The program named in the file's header, or ''. */
  generator: string;
  metresPerUnit: number;
  /** False when the file does not state its unit and a default was taken. */
  unitStated: boolean;
  axes: AxisSystem;
  nodes: SceneNode[];
  meshes: PolygonMesh[];
  materials: Material[];
  images: ImageEntry[];
  clips: string[];
  skins: number;
  remarks: Remark[];
}

export const Y_UP: AxisSystem = {
  up: { axis: 1, sign: 1 },
  front: { axis: 2, sign: 1 },
  right: { axis: 0, sign: 1 },
};
export const Z_UP: AxisSystem = {
  up: { axis: 2, sign: 1 },
  front: { axis: 1, sign: -1 },
  right: { axis: 0, sign: 1 },
};

export function createDocument(format: SceneDocument['format'], variant: string): SceneDocument {
  return {
    format,
    variant,
    generator: '',
    metresPerUnit: 1,
    unitStated: false,
    axes: Y_UP,
    nodes: [],
    meshes: [],
    materials: [],
    images: [],
    clips: [],
    skins: 0,
    remarks: [],
  };
}

export function identityTransform(): TransformParts {
  const zero = (): Vec3 => [0, 0, 0];
  return {
    translation: zero(),
    rotation: zero(),
    rotationOrder: 'XYZ',
    scale: [1, 1, 1],
    preRotation: zero(),
    postRotation: zero(),
    rotationPivot: zero(),
    rotationOffset: zero(),
    scalingPivot: zero(),
    scalingOffset: zero(),
    geometricTranslation: zero(),
    geometricRotation: zero(),
    geometricScale: [1, 1, 1],
  };
}

/** Adds a remark, or counts it when one of the same code and subject is there. */
export function addRemark(remarks: Remark[], remark: Omit<Remark, 'count'>, count = 1): void {
  const same = remarks.find((other) => other.code === remark.code && other.subject === remark.subject);
  if (same) same.count += count;
  else remarks.push({ ...remark, count });
}

/** The entry of a layer that corner `corner` of face `face` at point `point` reads. */
export function layerEntry(layer: Layer, corner: number, point: number, face: number): number {
  const at = layer.domain === 'corner' ? corner : layer.domain === 'point' ? point : face;
  return layer.index ? layer.index[at] : at;
}
