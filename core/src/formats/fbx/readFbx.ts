import { describeCut, KinkajouError } from '../../errors.ts';
import { own } from '../../own.ts';
import { turnViews } from '../../scene/aim.ts';
import {
  type AxisSystem,
  addRemark,
  addUncarried,
  createDocument,
  createNode,
  type SceneDocument,
  type SignedAxis,
  Y_UP,
} from '../../scene/document.ts';
import { assignKeys, type ImageEntry } from '../../scene/material.ts';
import { turnFromFbx } from './aim.ts';
import { assignModelTextures } from './modelTextures.ts';
import { type ObjectTable, type PropertyTable, readObjects } from './objects.ts';
import { isAsciiFbx, parseAsciiFbx } from './parseAscii.ts';
import { isBinaryFbx, type ParsedBinary, parseBinaryFbx } from './parseBinary.ts';
import { readClips } from './readClips.ts';
import { readDeformers } from './readDeformers.ts';
import { readClassicMaterial, readFbxMaterial } from './readMaterial.ts';
import { readFbxMesh } from './readMesh.ts';
import { readNodes } from './readNodes.ts';
import { readTakes } from './readTakes.ts';
import { childOf, textAt } from './tree.ts';

/** Bounds on hostile files: depth of records in each other, and polygons over all meshes. */
export interface FbxLimits {
  nesting: number;
  polygons: number;
}

/**
 * Reads an FBX model, binary or text, 6.1 to 7.7. A damaged file gives what stands before the fault, with the
 * fault among the remarks; when no geometry stands before it, the fault is thrown.
 */
export function readFbx(
  bytes: Uint8Array,
  path: string,
  limits: FbxLimits = { nesting: 64, polygons: Infinity },
): SceneDocument {
  const tree = parse(bytes, path, limits.nesting);
  const table = readObjects(tree);
  const document = createDocument('fbx', `${tree.binary ? 'binary' : 'text'} ${tree.version}`);
  document.generator = readGenerator(tree);
  readSettings(document, table.settings, tree.version);
  const materials = readMaterials(document, table);
  const placed = readNodes(document, table, materials.indices, limits.polygons);
  assignModelTextures(document, table, placed.nodes, materials.addImage);
  if (tree.fault) salvageMeshes(document, table, limits.polygons);
  readDeformers(document, table, placed);
  readClips(document, table, placed.nodes);
  readTakes(document, tree, placed.nodes);
  // Cameras of FBX look along +X and lights along -Y; here both look along -Z.
  Object.assign(document, turnViews(document, turnFromFbx));
  remarkUncarried(document, table);
  assignKeys(document.materials);
  if (document.classicMaterials) assignKeys(document.classicMaterials);
  if (tree.fault) keepFault(document, tree.fault, bytes);
  if (document.meshes.length === 0 && document.nodes.length === 0) {
    throw new KinkajouError(
      'fbx.empty',
      'there are no objects in this file',
      { file: path },
      'Export the model again.',
    );
  }
  return document;
}

/** Parses either form. Throws `fbx.header` for anything else. */
export function parseFbx(bytes: Uint8Array, path: string, nesting = 64): ParsedBinary {
  return parse(bytes, path, nesting);
}

function parse(bytes: Uint8Array, path: string, nesting: number): ParsedBinary {
  if (isBinaryFbx(bytes)) return parseBinaryFbx(bytes, path, nesting);
  if (isAsciiFbx(bytes)) return parseAsciiFbx(bytes, path, nesting);
  throw new KinkajouError(
    'fbx.header',
    'this file does not begin like an FBX file',
    { file: path, offset: 0 },
    'Check that it was saved as FBX.',
  );
}

/** A cut file lacks its links, which stand last: geometry that nothing places is kept at the origin. */
function salvageMeshes(document: SceneDocument, table: ObjectTable, maxPolygons: number): void {
  if (document.meshes.length > 0) return;
  for (const object of table.objects.values()) {
    if (object.kind !== 'Geometry' || !childOf(object.node, 'PolygonVertexIndex')) continue;
    const mesh = readFbxMesh(object.node, object.name || 'mesh', document.remarks, maxPolygons);
    if (mesh.faceCounts.length === 0) continue;
    document.meshes.push(mesh);
    document.nodes.push(createNode(mesh.name, 'mesh', -1, { mesh: document.meshes.length - 1 }));
  }
}

function keepFault(document: SceneDocument, fault: KinkajouError, bytes: Uint8Array): void {
  if (document.meshes.every((mesh) => mesh.faceCounts.length === 0)) throw fault;
  addRemark(document.remarks, {
    code: 'read.cut',
    severity: 'error',
    subject: fault.place.file ?? '',
    message: describeCut(fault, bytes),
  });
}

function readGenerator(tree: ParsedBinary): string {
  const top = (name: string) => tree.nodes.find((node) => node.name === name);
  return textAt(top('Creator'), 0) || textAt(childOf(top('FBXHeaderExtension'), 'Creator'), 0);
}

function readSettings(document: SceneDocument, settings: PropertyTable, version: number): void {
  const factor = settings.number('UnitScaleFactor');
  document.unitStated = factor !== undefined;
  document.metresPerUnit = (factor && factor > 0 && Number.isFinite(factor) ? factor : 1) / 100;
  document.axes = readAxes(settings);
  if (factor === undefined && version >= 7000) {
    addRemark(document.remarks, {
      code: 'read.unit',
      severity: 'note',
      subject: 'unit',
      message: 'the file states no unit; centimetres were taken',
    });
  }
}

function readAxes(settings: PropertyTable): AxisSystem {
  const axis = (name: string, fallback: SignedAxis): SignedAxis => {
    const letter = settings.number(`${name}Axis`);
    const sign = settings.number(`${name}AxisSign`) === -1 ? -1 : 1;
    return letter === 0 || letter === 1 || letter === 2 ? { axis: letter, sign } : fallback;
  };
  const deformers = {
    up: axis('Up', Y_UP.up),
    front: axis('Front', Y_UP.front),
    right: axis('Coord', Y_UP.right),
  };
  return new Set([deformers.up.axis, deformers.front.axis, deformers.right.axis]).size === 3
    ? deformers
    : Y_UP;
}

function readMaterials(document: SceneDocument, table: ObjectTable) {
  const images = new Map<string, ImageEntry>();
  const addImage = (image: Omit<ImageEntry, 'key'>) => {
    const existing = images.get(image.written);
    if (existing) {
      existing.embedded ??= image.embedded;
      existing.relative ??= image.relative;
      return existing;
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
    const material = readFbxMaterial(object, table, addImage, document.remarks);
    const classic = readClassicMaterial(object, table, addImage);
    if (classic) document.classicMaterials ??= structuredClone(document.materials);
    document.materials.push(material);
    document.classicMaterials?.push(classic ?? structuredClone(material));
  }
  return { indices, addImage };
}

/** Kinds of objects that are read, or that say nothing of their own. */
const READ = new Set([
  'Model',
  'Geometry',
  'Material',
  'Texture',
  'LayeredTexture',
  'Video',
  'NodeAttribute',
  'Deformer',
  'AnimationStack',
  'AnimationLayer',
  'AnimationCurveNode',
  'AnimationCurve',
  'GlobalSettings',
  'SceneInfo',
  'Document',
  'CollectionExclusive',
  'DisplayLayer',
  'Pose',
  'Implementation',
  'BindingTable',
]);

const WORDS: Record<string, string> = {
  Constraint: 'constraints',
  Audio: 'sounds',
  AudioLayer: 'sounds',
  Character: 'characters',
  ControlSetPlug: 'control rigs',
  Cache: 'geometry caches',
  Selection: 'selection sets',
  SelectionNode: 'selection sets',
  Thumbnail: 'thumbnails',
};

function remarkUncarried(document: SceneDocument, table: ObjectTable): void {
  for (const object of table.objects.values()) {
    if (READ.has(object.kind)) continue;
    addUncarried(document.remarks, own(WORDS, object.kind) ?? `objects of kind ${object.kind}`, object.name);
  }
}
