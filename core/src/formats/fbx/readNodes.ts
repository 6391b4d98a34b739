import { own } from '../../own.ts';
import {
  addUncarried,
  type CustomValue,
  createNode,
  type InheritType,
  identityTransform,
  type NodeKind,
  type RotationOrder,
  type SceneDocument,
  type SceneNode,
  type TransformParts,
} from '../../scene/document.ts';
import type { FbxObject, ObjectTable, PropertyTable } from './objects.ts';
import { isShifted, readCamera, readLight } from './readAttributes.ts';
import { readFbxMesh } from './readMesh.ts';
import { childOf } from './tree.ts';

const ORDERS: RotationOrder[] = ['XYZ', 'XZY', 'YZX', 'YXZ', 'ZXY', 'ZYX'];
const INHERIT: InheritType[] = ['RrSs', 'RSrs', 'Rrs'];
const ROOT_IDS = ['0', 'Scene\0\x01Model', 'Model::Scene'];
const KINDS: Record<string, NodeKind> = {
  Mesh: 'mesh',
  Camera: 'camera',
  Light: 'light',
  LimbNode: 'bone',
  Limb: 'bone',
  Root: 'bone',
};

/** Where objects of the file went: object id to node and mesh number. */
export interface Placed {
  nodes: Map<string, number>;
  meshes: Map<string, number>;
}

/** What nodes are read from, and where they go. */
interface NodeReading {
  document: SceneDocument;
  table: ObjectTable;
  materials: Map<string, number>;
  placed: Placed;
  maxPolygons: number;
}

/** A model and the one that it hangs on, by its place in the list; -1 for none. */
interface PlacedModel {
  object: FbxObject;
  parent: number;
}

/** Walks the hierarchy from the root so that parents come first; models linked to nothing become roots. */
export function modelsInOrder(table: ObjectTable): PlacedModel[] {
  const models: PlacedModel[] = [];
  const seen = new Set<string>();
  const visit = (start: FbxObject) => {
    const pending: PlacedModel[] = [{ object: start, parent: -1 }];
    for (let model = pending.pop(); model; model = pending.pop()) {
      const { id } = model.object;
      if (seen.has(id)) continue;
      seen.add(id);
      const parent = models.push(model) - 1;
      const children = table
        .childrenOf(id)
        .filter((link) => link.object.kind === 'Model' && link.property === '');
      for (const { object } of children.reverse()) pending.push({ object, parent });
    }
  };
  for (const id of ROOT_IDS)
    for (const link of table.childrenOf(id)) if (link.object.kind === 'Model') visit(link.object);
  const isModel = ({ kind, id }: FbxObject) => kind === 'Model' && !ROOT_IDS.includes(id);
  for (const object of table.objects.values())
    if (isModel(object) && !hasModelAbove(object, table)) visit(object);
  // What is left hangs in a ring of parents; it is cut open anywhere.
  for (const object of table.objects.values()) if (isModel(object)) visit(object);
  return models;
}

/** Reads the models of a file, parents before their children. */
export function readNodes(
  document: SceneDocument,
  table: ObjectTable,
  materials: Map<string, number>,
  maxPolygons: number,
): Placed {
  const placed: Placed = { nodes: new Map(), meshes: new Map() };
  const reading = { document, table, materials, placed, maxPolygons };
  for (const { object, parent } of modelsInOrder(table)) {
    placed.nodes.set(object.id, document.nodes.length);
    document.nodes.push(readNode(object, parent, reading));
  }
  return placed;
}

function hasModelAbove(object: FbxObject, table: ObjectTable): boolean {
  return table.parentsOf(object.id).some((link) => link.object.kind === 'Model' && link.property === '');
}

function readNode(object: FbxObject, parent: number, reading: NodeReading): SceneNode {
  const { document, table, materials } = reading;
  const links = table.childrenOf(object.id);
  const attribute = links.find((link) => link.object.kind === 'NodeAttribute')?.object ?? object;
  const node = createNode(object.name || 'node', own(KINDS, object.subclass) ?? 'group', parent, {
    transform: readTransform(object.properties),
    mesh: meshOf(object, reading),
    materials: links
      .filter((link) => link.object.kind === 'Material')
      .map((link) => materials.get(link.object.id) ?? -1),
    visible: object.properties.number('Visibility') !== 0,
    custom: readCustom(object.properties),
  });
  if (node.kind === 'camera') {
    node.camera = document.cameras.push(readCamera(attribute, node.name)) - 1;
    if (isShifted(attribute)) addUncarried(document.remarks, 'shifts of the pictures of cameras', node.name);
  }
  if (links.some(({ property }) => property === 'LookAtProperty'))
    addUncarried(document.remarks, 'aims at other parts', node.name, {
      why: 'where it looks is as its own turn says',
    });
  if (node.kind === 'light') node.light = document.lights.push(readLight(attribute, node.name)) - 1;
  if (node.kind === 'mesh' && node.mesh < 0) node.kind = 'group';
  if (node.mesh >= 0 && node.kind === 'group') node.kind = 'mesh';
  return node;
}

function meshOf(
  object: FbxObject,
  { table, document, placed: { meshes }, maxPolygons }: NodeReading,
): number {
  const ownGeometry = childOf(object.node, 'Vertices') ? object : undefined;
  const geometry =
    ownGeometry ??
    table
      .childrenOf(object.id)
      .find((link) => link.object.kind === 'Geometry' && link.object.subclass !== 'Shape')?.object;
  if (!geometry) return -1;
  const existing = meshes.get(geometry.id);
  if (existing !== undefined) return existing;
  if (!childOf(geometry.node, 'PolygonVertexIndex')) {
    addUncarried(document.remarks, geometry.subclass || 'Geometry', object.name, {
      why: 'geometry of this kind (curves, patches or lines) is not carried',
      severity: 'warning',
    });
    return -1;
  }
  const index = document.meshes.length;
  document.meshes.push(
    readFbxMesh(geometry.node, geometry.name || object.name, document.remarks, maxPolygons),
  );
  meshes.set(geometry.id, index);
  return index;
}

function readTransform(properties: PropertyTable): TransformParts {
  const t = identityTransform();
  const set = (key: Exclude<keyof TransformParts, 'rotationOrder' | 'matrix' | 'inherit'>, name: string) => {
    const value = properties.vector(name);
    if (value?.every(Number.isFinite)) t[key] = value;
  };
  set('translation', 'Lcl Translation');
  set('rotation', 'Lcl Rotation');
  set('scale', 'Lcl Scaling');
  set('rotationPivot', 'RotationPivot');
  set('rotationOffset', 'RotationOffset');
  set('scalingPivot', 'ScalingPivot');
  set('scalingOffset', 'ScalingOffset');
  set('geometricTranslation', 'GeometricTranslation');
  set('geometricRotation', 'GeometricRotation');
  set('geometricScale', 'GeometricScaling');
  set('preRotation', 'PreRotation');
  set('postRotation', 'PostRotation');
  t.rotationOrder = ORDERS[properties.number('RotationOrder') ?? 0] ?? 'XYZ';
  t.inherit = INHERIT[properties.number('InheritType') ?? 1] ?? 'RSrs';
  return t;
}

/** Properties flagged as added by people or programs. */
function readCustom(properties: PropertyTable): Record<string, CustomValue> {
  const custom: Record<string, CustomValue> = {};
  for (const name of properties.names()) {
    const { flags, type } = properties.describe(name);
    if (!flags.includes('U')) continue;
    const numbers = properties.numbers(name) ?? [];
    if (/string|url|datetime/i.test(type)) custom[name] = properties.text(name) ?? '';
    else if (/bool/i.test(type) && numbers.length === 1) custom[name] = numbers[0] !== 0;
    else if (numbers.length === 1) custom[name] = numbers[0];
    else if (numbers.length > 1) custom[name] = numbers;
    else if (properties.text(name)) custom[name] = properties.text(name) as string;
  }
  return custom;
}
