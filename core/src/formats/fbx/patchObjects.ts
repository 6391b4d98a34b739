import { createKeyer } from '../patch.ts';
import { type FbxObject, type ObjectTable, readObjects } from './objects.ts';
import { modelsInOrder } from './readNodes.ts';
import { I, S } from './records.ts';
import { childOf, childrenOf, type FbxNode, type FbxTree, NAME_SEPARATOR, numberAt, textAt } from './tree.ts';

/** New names of materials and parts, and parts that go with all below them; told by their keys. */
export interface ObjectPatch {
  materials: ReadonlyMap<string, string>;
  parts: ReadonlyMap<string, string>;
  drops: readonly string[];
}

/** Changes no object. */
export const NO_OBJECTS: ObjectPatch = { materials: new Map(), parts: new Map(), drops: [] };

/** What hangs on dropped parts alone goes with them; what several may share stays. */
const STAYING = new Set([
  'Material',
  'Texture',
  'Video',
  'AnimationStack',
  'AnimationLayer',
  'Pose',
  'Model',
]);

/** Whether nothing is to change. */
export function isEmptyObjectPatch({ materials, parts, drops }: ObjectPatch): boolean {
  return materials.size + parts.size + drops.length === 0;
}

/** New names by the id of their object, in the file's own words. */
export function renamedIds(table: ObjectTable, { materials, parts }: ObjectPatch): Map<string, string> {
  const out = new Map<string, string>();
  const keyOfMaterial = createKeyer();
  for (const { id, kind, name } of table.objects.values()) {
    const renamed = kind === 'Material' ? materials.get(keyOfMaterial(name || 'material')) : undefined;
    if (renamed !== undefined) out.set(id, renamed);
  }
  for (const [key, { id }] of keyedModels(table)) {
    const renamed = parts.get(key);
    if (renamed !== undefined) out.set(id, renamed);
  }
  return out;
}

/** Changes names and drops parts in the records of a file from 7.0 on; what cannot be goes to `missed`. */
export function patchObjects(tree: FbxTree, patch: ObjectPatch, missed: string[]): void {
  if (isEmptyObjectPatch(patch)) return;
  if (tree.version < 7000) {
    missed.push('FBX before 7.0 ties objects by their names, so that these cannot be changed alone');
    return;
  }
  const table = readObjects(tree);
  for (const [id, name] of renamedIds(table, patch)) {
    const { node } = table.objects.get(id) as FbxObject;
    const [, className = node.name] = textAt(node, 1).split(NAME_SEPARATOR);
    node.properties[1] = S(`${name}${NAME_SEPARATOR}${className}`);
  }
  if (patch.drops.length > 0) dropModels(tree, table, patch.drops, missed);
}

/** Keys of the file's models in the order in which they are read, see `nodeKeys`. */
function keyedModels(table: ObjectTable): Map<string, FbxObject> {
  const keyOf = createKeyer();
  return new Map(modelsInOrder(table).map(({ object }) => [keyOf(object.name || 'node'), object]));
}

function dropModels(tree: FbxTree, table: ObjectTable, drops: readonly string[], missed: string[]): void {
  const models = keyedModels(table);
  const gone = new Set<string>();
  const pending = drops.flatMap((key) => models.get(key) ?? []);
  for (let model = pending.pop(); model; model = pending.pop()) {
    if (gone.has(model.id)) continue;
    gone.add(model.id);
    for (const { object } of table.childrenOf(model.id)) if (object.kind === 'Model') pending.push(object);
  }
  // Geometry of a part, then its deformers, then what moves them: one ring further each time.
  for (let before = -1; before !== gone.size; ) {
    before = gone.size;
    for (const object of table.objects.values()) if (isGone(object, gone, table)) gone.add(object.id);
  }
  const movesPoints = [...gone].find((id) =>
    table.parentsOf(id).some(({ object }) => object.kind === 'Deformer' && !gone.has(object.id)),
  );
  if (movesPoints !== undefined) {
    missed.push(`${table.objects.get(movesPoints)?.name} moves the points of a part that stays`);
    return;
  }
  forget(tree, gone);
}

/** Whether all that an object feeds is gone. */
function isGone({ id, kind }: FbxObject, gone: ReadonlySet<string>, table: ObjectTable): boolean {
  const targets = table.targetsOf(id).filter(({ object }) => object.kind !== 'AnimationLayer');
  return (
    gone.has(id) ||
    (!STAYING.has(kind) && targets.length > 0 && targets.every(({ object }) => gone.has(object.id)))
  );
}

/** Takes objects out of every section that names them, and mends the counts. */
function forget({ nodes }: FbxTree, gone: ReadonlySet<string>): void {
  const section = (name: string) => nodes.find((node) => node.name === name);
  const objects = section('Objects');
  const links = section('Connections');
  const lost = new Map<string, number>();
  for (const object of objects?.children ?? [])
    if (gone.has(textAt(object, 0))) lost.set(object.name, (lost.get(object.name) ?? 0) + 1);
  if (objects) objects.children = objects.children.filter((object) => !gone.has(textAt(object, 0)));
  if (links)
    links.children = links.children.filter(
      (link) => !gone.has(textAt(link, 1)) && !gone.has(textAt(link, 2)),
    );
  for (const pose of childrenOf(objects, 'Pose')) {
    pose.children = pose.children.filter(
      (child) => child.name !== 'PoseNode' || !gone.has(textAt(childOf(child, 'Node'), 0)),
    );
    setCount(childOf(pose, 'NbPoseNodes'), childrenOf(pose, 'PoseNode').length);
  }
  const definitions = section('Definitions');
  let all = 0;
  for (const type of childrenOf(definitions, 'ObjectType')) {
    const count = childOf(type, 'Count');
    const left = (numberAt(count, 0) ?? 0) - (lost.get(textAt(type, 0)) ?? 0);
    setCount(count, left);
    all += left;
  }
  setCount(childOf(definitions, 'Count'), all);
}

function setCount(record: FbxNode | undefined, count: number): void {
  if (record) record.properties = [I(count)];
}
