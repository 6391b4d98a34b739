import type { ImageEntry, Material } from './material.ts';
import type { Collision } from './partChange.ts';

/** x, y and z. */
export type Vec3 = [number, number, number];
/** Coordinates as their source stores them: 64-bit ones lose nothing of it. */
export type FloatArray = Float32Array | Float64Array;
/** Indices of points, values or materials; -1 stands for none where signed. */
export type IndexArray = Int32Array | Uint32Array;

/** What one entry of a layer belongs to. */
export type Domain = 'point' | 'corner' | 'face';

/**
 * Values spread over a mesh. With `index`, entry i reads `values[index[i] * size ...]`, else `values[i * size
 * ...]`.
 */
export interface Layer {
  name: string;
  size: 2 | 3 | 4;
  domain: Domain;
  values: FloatArray;
  index: IndexArray | null;
  /** The entry that stands for no value, where some corners of the file name none. */
  none?: number;
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
  /** Edges across which shading breaks, as pairs of point indices; null when the file says nothing. */
  hardEdges: Uint32Array | null;
  normals: Layer | null;
  uvSets: Layer[];
  colours: Layer[];
  /**
   * x, y, z and a sign: the normal across the tangent, times it, points up in the image (glTF 2.0, 3.7.2.1).
   */
  tangents: Layer | null;
  /** What moves the points with a skeleton; joints number the joints of the node's skin. */
  influences: Influences | null;
  /** Morph targets. */
  shapes: MorphShape[];
  subdivision: Subdivision;
}

/** How a mesh that is a cage is rounded when it is rendered; `none` for a plain mesh. */
export type Subdivision = 'none' | 'catmullClark' | 'loop' | 'bilinear';

/** Point p is moved by the entries `starts[p]` to `starts[p + 1]` of joints and weights. */
export interface Influences {
  starts: Uint32Array;
  joints: Uint32Array;
  weights: Float32Array;
}

/** A morph target: offsets of some points at weight 1. */
export interface MorphShape {
  name: string;
  /** Point indices that move. */
  points: Uint32Array;
  /** x, y, z per moved point, in the document's units. */
  offsets: FloatArray;
  /** x, y, z per moved point, added to its normal; null when not written. */
  normalOffsets: FloatArray | null;
  /** The weight as the file stands, mostly 0. */
  weight: number;
}

/** Axes in the order in which a vector is turned about them: in `XYZ` about x first. */
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
  /**
   * Column-major local matrix that the parts cannot say (shear); when set, it stands for all parts but the
   * geometric ones.
   */
  matrix: Float64Array | null;
  /**
   * How the parent's scale comes down: with its rotation (`RSrs`, the rule elsewhere), by itself, or not at
   * all.
   */
  inherit: InheritType;
}

/** FBX names: R, S the parent's rotation and scale, r, s the node's own. */
export type InheritType = 'RrSs' | 'RSrs' | 'Rrs';

/** What a node is; a `group` only places what is below it. */
export type NodeKind = 'group' | 'mesh' | 'camera' | 'light' | 'bone';

/** A place in the hierarchy, with what stands there. */
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
  /** Index into `cameras`, or -1. */
  camera: number;
  /** Index into `lights`, or -1. */
  light: number;
  /** Index into `skins` of the skin that moves the mesh, or -1. */
  skin: number;
  visible: boolean;
  /** Shown from one side, though materials of it are shown from both elsewhere: USD says sides of parts. */
  oneSided?: boolean;
  /** Shape for collision that was chosen for it, over what the destination wants. */
  collision?: Collision;
  /**
   * Keys of the materials that its slots have in the file, where edits gave it others: what its pieces go by.
   */
  slotKeys?: string[];
  /** Properties that people or programs added, by name. */
  custom: Record<string, CustomValue>;
}

/** A value that a file keeps for its own ends beside a node, material or clip. */
export type CustomValue = string | number | boolean | number[];

/** A camera looks along -Z of its node, with +Y up. */
export interface Camera {
  name: string;
  projection: 'perspective' | 'orthographic';
  /** Millimetres; with the apertures it gives the angle of view. */
  focalLength: number;
  /** Width and height of the picture area in millimetres. */
  aperture: [number, number];
  /** Width seen by an orthographic camera, in document units. */
  width: number;
  /** Document units; far is Infinity where the file sets none. */
  near: number;
  far: number;
}

/** What a light is like: from one point, from one direction, in a cone, from a face, or from all around. */
export type LightKind = 'point' | 'directional' | 'spot' | 'area' | 'dome';

/** Ways to fade with distance that only FBX knows: not at all, by it, by its cube. */
export type Fading = 'none' | 'linear' | 'cubic';

/** A light shines along -Z of its node. */
export interface Light {
  name: string;
  kind: LightKind;
  /** Linear colour. */
  colour: Vec3;
  /**
   * Candela from a point and in a cone, lux from one direction, nits from a face and all around. FBX knows no
   * such units: a hundredth of what it writes.
   */
  intensity: number;
  /** Full angles of a spot's cone in degrees: where the light starts to fade, and where it ends. */
  innerAngle: number;
  outerAngle: number;
  /** Width and height of what shines, in document units; none of a mere point. */
  size: [number, number];
  /** What shines, where it is no rectangle: a disk, or a tube that lies along X. */
  shape?: 'disk' | 'tube';
  /** How it fades with distance, where that is not by its square. */
  fading?: Fading;
  castsShadow: boolean;
  /**
   * Of a dome: what it shows, as a key of `images`, and how that lies on the sphere, in OpenUSD's words
   * (`latlong`).
   */
  sky?: { image: string; layout: string };
}

/** A skeleton's binding. A mesh says by {@link Influences} which joints move which point. */
export interface Skin {
  name: string;
  /** Node per joint. */
  joints: number[];
  /**
   * Per joint a column-major matrix from the mesh's space, geometric offset applied, to the joint's space at
   * bind time.
   */
  inverseBind: Float64Array;
}

/**
 * What of a node a track moves: `rotation` in degrees by the node's order, `quaternion` as x, y, z, w;
 * `weights` are those of morph targets.
 */
export type TrackPath = 'translation' | 'rotation' | 'quaternion' | 'scale' | 'weights' | 'visible';

/**
 * Keys of one quantity of one node. `rotation` holds degrees in the node's own order and beside its pre- and
 * post-rotation; `quaternion` holds x, y, z, w of the whole rotation. Cubic values come as in-tangent, value,
 * out-tangent per key, tangents per second.
 */
export interface Track {
  node: number;
  path: TrackPath;
  /** Seconds, ascending. */
  times: Float64Array;
  values: FloatArray;
  interpolation: 'step' | 'linear' | 'cubic';
}

/** Motion under a name. */
export interface Clip {
  name: string;
  /** Seconds. */
  start: number;
  end: number;
  tracks: Track[];
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

/**
 * A model as its file states it, in the file's own unit and axes. Every format is read into it and written
 * from it.
 */
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
  /**
   * The same materials as a reader has them that knows the format's classic properties alone, where blocks of
   * vendors say more beside them; as the file stands, whatever is made of the document.
   */
  classicMaterials?: Material[];
  images: ImageEntry[];
  cameras: Camera[];
  lights: Light[];
  clips: Clip[];
  skins: Skin[];
  remarks: Remark[];
}

/** Right-handed, y up, z to the front: as glTF has it. */
export const Y_UP: AxisSystem = {
  up: { axis: 1, sign: 1 },
  front: { axis: 2, sign: 1 },
  right: { axis: 0, sign: 1 },
};
/** Right-handed, z up, -y to the front. */
export const Z_UP: AxisSystem = {
  up: { axis: 2, sign: 1 },
  front: { axis: 1, sign: -1 },
  right: { axis: 0, sign: 1 },
};

/** A document without content, in metres and y up until a reader says otherwise. */
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
    cameras: [],
    lights: [],
    clips: [],
    skins: [],
    remarks: [],
  };
}

/** A transform that moves nothing. */
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
    matrix: null,
    inherit: 'RSrs',
  };
}

/** A node with nothing on it. */
export function createNode(
  name: string,
  kind: NodeKind,
  parent: number,
  parts: Partial<SceneNode> = {},
): SceneNode {
  return {
    name,
    kind,
    parent,
    transform: identityTransform(),
    mesh: -1,
    materials: [],
    camera: -1,
    light: -1,
    skin: -1,
    visible: true,
    custom: {},
    ...parts,
  };
}

type Faces = Pick<PolygonMesh, 'points' | 'faceCounts' | 'faceCorners'>;

/** A mesh of these faces with nothing else on it than what is given. */
export function createMesh(name: string, parts: Faces & Partial<PolygonMesh>): PolygonMesh {
  return {
    name,
    faceMaterial: null,
    faceSmoothing: null,
    hardEdges: null,
    normals: null,
    uvSets: [],
    colours: [],
    tangents: null,
    influences: null,
    shapes: [],
    subdivision: 'none',
    ...parts,
  };
}

/** Adds a remark, or counts it when one of the same code and subject is there. */
export function addRemark(remarks: Remark[], remark: Omit<Remark, 'count'>, count = 1): void {
  const same = remarks.find((other) => other.code === remark.code && other.subject === remark.subject);
  if (same) same.count += count;
  else remarks.push({ ...remark, count });
}

/** How many names a remark lists before it only counts. */
const NAMES_LISTED = 6;

interface UncarriedWords {
  why?: string;
  severity?: Remark['severity'];
}

/**
 * Remarks on something a file holds and that is not carried: one per kind, with its count and the first
 * names.
 */
export function addUncarried(
  remarks: Remark[],
  kind: string,
  name: string,
  { why = 'not carried', severity = 'note' }: UncarriedWords = {},
): void {
  const same = remarks.find((other) => other.code === 'read.notCarried' && other.subject === kind);
  if (!same) {
    remarks.push({
      code: 'read.notCarried',
      severity,
      subject: kind,
      message: name ? `${why}: ${name}` : why,
      count: 1,
    });
    return;
  }
  same.count += 1;
  if (!name || same.message.includes(name)) return;
  if (same.count <= NAMES_LISTED) same.message += `, ${name}`;
  else if (!same.message.endsWith(' ...')) same.message += ' ...';
}

/** The entry of a layer that corner `corner` of face `face` at point `point` reads. */
export function layerEntry(layer: Layer, corner: number, point: number, face: number): number {
  const element = elementOf(layer.domain, corner, point, face);
  return layer.index ? layer.index[element] : element;
}

/** Whether a layer of colours has no alpha but 1. */
export function isSolid({ size, values }: Layer): boolean {
  if (size < 4) return true;
  for (let i = 3; i < values.length; i += size) if (values[i] !== 1) return false;
  return true;
}

/** A layer of colours with red, green and blue alone. */
export function withoutAlpha(layer: Layer): Layer {
  if (layer.size < 4) return layer;
  return { ...layer, size: 3, values: layer.values.filter((_, i) => i % layer.size < 3) };
}

/** Which of the three counts for a layer of this domain. */
function elementOf(domain: Domain, corner: number, point: number, face: number): number {
  if (domain === 'corner') return corner;
  return domain === 'point' ? point : face;
}
