import { KinkajouError } from '../../errors.ts';
import {
  type AxisSystem,
  addRemark,
  createDocument,
  identityTransform,
  type NodeKind,
  type RotationOrder,
  type SceneDocument,
  type SignedAxis,
  type TransformParts,
  Y_UP,
} from '../../scene/document.ts';
import { assignKeys, type ImageEntry } from '../../scene/material.ts';
import { type FbxObject, type ObjectTable, type PropertyTable, readObjects } from './objects.ts';
import { isAsciiFbx, parseAsciiFbx } from './parseAscii.ts';
import { isBinaryFbx, type ParsedBinary, parseBinaryFbx } from './parseBinary.ts';
import { readFbxMaterial } from './readMaterial.ts';
import { readFbxMesh } from './readMesh.ts';
import { childOf, textAt } from './tree.ts';

const ORDERS: RotationOrder[] = ['XYZ', 'XZY', 'YZX', 'YXZ', 'ZXY', 'ZYX'];
const ROOT_IDS = ['0', 'Scene\0\x01Model'];

export interface FbxLimits {
  nesting: number;
  polygons: number;
}

/**
 * Reads an FBX model, binary or text, 6.1 to 7.7. A damaged file gives what stands before the fault, with the
 * fault among the remarks; when no geometry stands before it, the fault is thrown.
 */
export function readFbx(bytes: Uint8Array, path: string, limits: FbxLimits = { nesting: 64, polygons: Infinity }): SceneDocument {
  const tree = parse(bytes, path, limits.nesting);
  const table = readObjects(tree);
  const document = createDocument('fbx', `${tree.binary ? 'binary' : 'text'} ${tree.version}`);
  document.generator = readGenerator(tree);
  readSettings(document, table.settings, tree.version);
  const materials = readMaterials(document, table);
  readNodes(document, table, materials, limits.polygons);
  if (tree.fault) salvageMeshes(document, table, limits.polygons);
  readCarriedCounts(document, table);
  assignKeys(document.materials);
  if (tree.fault) keepFault(document, tree.fault);
  if (document.meshes.length === 0 && document.nodes.length === 0) {
    throw new KinkajouError('fbx.empty', 'there are no objects in this file', { file: path }, 'Export the model again.');
  }
  return document;
}

function parse(bytes: Uint8Array, path: string, nesting: number): ParsedBinary {
  if (isBinaryFbx(bytes)) return parseBinaryFbx(bytes, path, nesting);
  if (isAsciiFbx(bytes)) return parseAsciiFbx(bytes, path, nesting);
  throw new KinkajouError('fbx.header', 'this file does not begin like an FBX file', { file: path, offset: 0 }, 'Check that it was saved as FBX.');
}

/** A cut file lacks its links, which stand last: geometry that nothing places is kept at the origin. */
function salvageMeshes(document: SceneDocument, table: ObjectTable, maxPolygons: number): void {
  if (document.meshes.length > 0) return;
  for (const object of table.objects.values()) {
    if (object.kind !== 'Geometry' || !childOf(object.node, 'PolygonVertexIndex')) continue;
    const mesh = readFbxMesh(object.node, object.name || 'mesh', document.remarks, maxPolygons);
    if (mesh.faceCounts.length === 0) continue;
    document.meshes.push(mesh);
    document.nodes.push({ name: mesh.name, kind: 'mesh', parent: -1, transform: identityTransform(), mesh: document.meshes.length - 1, materials: [] });
  }
}

function keepFault(document: SceneDocument, fault: KinkajouError): void {
  if (document.meshes.every((mesh) => mesh.faceCounts.length === 0)) throw fault;
  addRemark(document.remarks, {
    code: 'read.truncated',
    severity: 'error',
    subject: fault.place.file ?? '',
    message: `${fault.toText()} What stands before it was read`,
  });
}

function readGenerator(tree: ParsedBinary): string {
  const top = (name: string) => tree.nodes.find((node) => node.name === name);
  return textAt(top('Creator'), 0) || textAt(childOf(top('FBXHeaderExtension'), 'Creator'), 0);
}

function readSettings(document: SceneDocument, settings: PropertyTable, version: number): void {
  const factor = settings.number('UnitScaleFactor');
  document.unitStated = factor !== undefined;
  document.metresPerUnit = (factor && factor > 0 ? factor : 1) / 100;
  document.axes = readAxes(settings);
  if (factor === undefined && version >= 7000) {
    addRemark(document.remarks, { code: 'read.unit', severity: 'note', subject: 'unit', message: 'the file states no unit; centimetres were taken' });
  }
}

function readAxes(settings: PropertyTable): AxisSystem {
  const axis = (name: string, fallback: SignedAxis): SignedAxis => {
    const letter = settings.number(`${name}Axis`);
    const sign = settings.number(`${name}AxisSign`) === -1 ? -1 : 1;
    return letter === 0 || letter === 1 || letter === 2 ? { axis: letter, sign } : fallback;
  };
  const found = { up: axis('Up', Y_UP.up), front: axis('Front', Y_UP.front), right: axis('Coord', Y_UP.right) };
  return new Set([found.up.axis, found.front.axis, found.right.axis]).size === 3 ? found : Y_UP;
}

function readMaterials(document: SceneDocument, table: ObjectTable): Map<string, number> {
  const images = new Map<string, ImageEntry>();
  const addImage = (image: Omit<ImageEntry, 'key'>) => {
    const known = images.get(image.written);
    if (known) {
      known.embedded ??= image.embedded;
      known.relative ??= image.relative;
      return known;
    }
    const entry = { ...image, key: image.written };
    images.set(image.written, entry);
    document.images.push(entry);
    return entry;
  };
  const indices = new Map<string, number>();
  for (const object of table.objects.values()) {
    if (object.kind !== 'Material') continue;
    indices.set(object.id, document.materials.length);
    document.materials.push(readFbxMaterial(object, table, addImage, document.remarks));
  }
  return indices;
}

const KINDS: Record<string, NodeKind> = { Mesh: 'mesh', Camera: 'camera', Light: 'light', LimbNode: 'bone', Limb: 'bone' };

/** Walks the hierarchy from the root so that parents come first; models linked to nothing become roots. */
function readNodes(document: SceneDocument, table: ObjectTable, materials: Map<string, number>, maxPolygons: number): void {
  const meshes = new Map<string, number>();
  const done = new Set<string>();
  const visit = (start: FbxObject, startParent: number) => {
    const pending: [FbxObject, number][] = [[start, startParent]];
    while (pending.length > 0) {
      const [object, parent] = pending.pop() as [FbxObject, number];
      if (done.has(object.id)) continue;
      done.add(object.id);
      const index = document.nodes.length;
      const links = table.childrenOf(object.id);
      document.nodes.push({
        name: object.name || 'node',
        kind: KINDS[object.subclass] ?? 'group',
        parent,
        transform: readTransform(object.properties),
        mesh: meshOf(object, table, document, meshes, maxPolygons),
        materials: links.filter((link) => link.object.kind === 'Material').map((link) => materials.get(link.object.id) ?? -1),
      });
      const children = links.filter((link) => link.object.kind === 'Model' && link.property === '');
      for (const link of children.reverse()) pending.push([link.object, index]);
    }
  };
  for (const id of ROOT_IDS) for (const link of table.childrenOf(id)) if (link.object.kind === 'Model') visit(link.object, -1);
  for (const object of table.objects.values()) if (object.kind === 'Model' && !ROOT_IDS.includes(object.id)) visit(object, -1);
}

function meshOf(object: FbxObject, table: ObjectTable, document: SceneDocument, meshes: Map<string, number>, maxPolygons: number): number {
  const own = childOf(object.node, 'Vertices') ? object : undefined;
  const geometry = own ?? table.childrenOf(object.id).find((link) => link.object.kind === 'Geometry' && link.object.subclass !== 'Shape')?.object;
  if (!geometry) return -1;
  const known = meshes.get(geometry.id);
  if (known !== undefined) return known;
  if (!childOf(geometry.node, 'PolygonVertexIndex')) {
    addRemark(document.remarks, {
      code: 'read.notCarried',
      severity: 'warning',
      subject: geometry.subclass || 'Geometry',
      message: `geometry of kind ${geometry.subclass || 'unknown'} (curves or patches) is not carried`,
    });
    return -1;
  }
  const index = document.meshes.length;
  document.meshes.push(readFbxMesh(geometry.node, geometry.name || object.name, document.remarks, maxPolygons));
  meshes.set(geometry.id, index);
  return index;
}

function readTransform(properties: PropertyTable): TransformParts {
  const t = identityTransform();
  const set = (key: Exclude<keyof TransformParts, 'rotationOrder'>, name: string) => {
    const value = properties.vector(name);
    if (value) t[key] = value;
  };
  set('translation', 'Lcl Translation');
  set('rotation', 'Lcl Rotation');
  set('scale', 'Lcl Scaling');
  set('preRotation', 'PreRotation');
  set('postRotation', 'PostRotation');
  set('rotationPivot', 'RotationPivot');
  set('rotationOffset', 'RotationOffset');
  set('scalingPivot', 'ScalingPivot');
  set('scalingOffset', 'ScalingOffset');
  set('geometricTranslation', 'GeometricTranslation');
  set('geometricRotation', 'GeometricRotation');
  set('geometricScale', 'GeometricScaling');
  t.rotationOrder = ORDERS[properties.number('RotationOrder') ?? 0] ?? 'XYZ';
  return t;
}

/** Clips, skins and shapes are counted and named, so that nothing a file holds goes unsaid. */
function readCarriedCounts(document: SceneDocument, table: ObjectTable): void {
  let shapes = 0;
  for (const object of table.objects.values()) {
    if (object.kind === 'AnimationStack') document.clips.push(object.name || 'clip');
    if (object.kind === 'Deformer' && object.subclass === 'Skin') document.skins += 1;
    if (object.kind === 'Deformer' && object.subclass === 'BlendShape') shapes += 1;
  }
  const remark = (count: number, subject: string) => {
    if (count === 0) return;
    addRemark(
      document.remarks,
      { code: 'read.notCarried', severity: 'note', subject, message: `${subject} are counted but not yet carried into other formats` },
      count,
    );
  };
  remark(document.clips.length, 'animation clips');
  remark(document.skins, 'skins');
  remark(shapes, 'blend shapes');
}
