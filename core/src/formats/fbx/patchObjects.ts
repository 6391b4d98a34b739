import { createNode, type TransformParts } from '../../scene/document.ts';
import { createKeyer } from '../patch.ts';
import { type FbxObject, type ObjectTable, readObjects } from './objects.ts';
import { modelsInOrder } from './readNodes.ts';
import { I, L, record, S } from './records.ts';
import { childOf, childrenOf, type FbxNode, type FbxTree, NAME_SEPARATOR, numberAt, textAt } from './tree.ts';
import { attributeRecord, modelRecord, transformRows } from './writeAttributes.ts';

/** A group that the file does not have yet. */
export interface AddedGroup {
  key: string;
  name: string;
  transform: TransformParts;
}

/** What becomes of materials and parts of a file, told by their keys. */
export interface ObjectPatch {
  /** New names. */
  materials: ReadonlyMap<string, string>;
  parts: ReadonlyMap<string, string>;
  /** Parts that go with all that hangs below them then. */
  drops: readonly string[];
  groups: readonly AddedGroup[];
  /** What parts and new groups hang on; null for nothing. */
  hung: ReadonlyMap<string, string | null>;
  placed: ReadonlyMap<string, TransformParts>;
  /** Materials of parts, by their slots. */
  bound: ReadonlyMap<string, readonly string[]>;
}

/** Changes no object. */
export const NO_OBJECTS: ObjectPatch = {
  materials: new Map(),
  parts: new Map(),
  drops: [],
  groups: [],
  hung: new Map(),
  placed: new Map(),
  bound: new Map(),
};

/** Objects of new groups are numbered from here, where the file has none. */
const FIRST_NEW_ID = 1_000_000;

/** What hangs on dropped parts alone goes with them; what several may share stays. */
const STAYING = new Set(['Material', 'Texture', 'Video', 'Pose', 'Model']);

/** Whether nothing is to change. */
export function isEmptyObjectPatch(patch: ObjectPatch): boolean {
  return patch.materials.size + patch.parts.size === 0 && changesNamesAlone(patch);
}

/** Whether nothing but names is to change. */
export function changesNamesAlone({ drops, groups, hung, placed, bound }: ObjectPatch): boolean {
  return drops.length + groups.length + hung.size + placed.size + bound.size === 0;
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

/**
 * Changes names, adds groups, hangs, places and drops parts and gives them other materials, in the records of
 * a file from 7.0 on; what cannot be goes to `missed`.
 */
export function patchObjects(tree: FbxTree, patch: ObjectPatch, missed: string[]): void {
  if (isEmptyObjectPatch(patch)) return;
  if (tree.version < 7000) {
    missed.push('FBX before 7.0 ties objects by their names, so that these cannot be changed alone');
    return;
  }
  const table = readObjects(tree);
  const ids = new Map([...keyedModels(table)].map(([key, { id }]) => [key, id]));
  for (const [id, name] of renamedIds(table, patch)) {
    const { node } = table.objects.get(id) as FbxObject;
    const [, className = node.name] = textAt(node, 1).split(NAME_SEPARATOR);
    node.properties[1] = S(`${name}${NAME_SEPARATOR}${className}`);
  }
  const used = new Set(table.objects.keys());
  for (const group of patch.groups) ids.set(group.key, addGroup(tree, used, group));
  hang(tree, patch.hung, ids);
  for (const [key, transform] of patch.placed) {
    const id = ids.get(key);
    const object = id === undefined ? undefined : table.objects.get(id);
    if (object) place(tree, object, transform);
  }
  bindMaterials(tree, table, patch.bound, ids);
  if (patch.drops.length > 0) {
    const dropped = patch.drops.flatMap((key) => ids.get(key) ?? []);
    dropModels(tree, readObjects(tree), dropped, missed);
  }
}

/** Keys of the file's models in the order in which they are read, see `nodeKeys`. */
function keyedModels(table: ObjectTable): Map<string, FbxObject> {
  const keyOf = createKeyer();
  return new Map(modelsInOrder(table).map(({ object }) => [keyOf(object.name || 'node'), object]));
}

function section({ nodes }: FbxTree, name: string): FbxNode | undefined {
  return nodes.find((node) => node.name === name);
}

/** A group of its own, which hangs on nothing yet; its id. */
function addGroup(tree: FbxTree, used: Set<string>, { name, transform }: AddedGroup): string {
  const node = createNode(name, 'group', -1, { transform });
  const free = (): number => {
    let id = FIRST_NEW_ID;
    while (used.has(String(id))) id += 1;
    used.add(String(id));
    return id;
  };
  const [id, attributeId] = [free(), free()];
  const objects = [modelRecord(node, id), attributeRecord(node, [], [], attributeId) as FbxNode];
  section(tree, 'Objects')?.children.push(...objects);
  section(tree, 'Connections')?.children.push(link(String(attributeId), String(id)));
  count(tree, new Map(objects.map((object) => [object.name, 1])));
  return String(id);
}

/** An object fed to another as a whole. */
function link(from: string, to: string): FbxNode {
  return record('C', [S('OO'), L(BigInt(from)), L(BigInt(to))]);
}

/** Models below others, or below none, in the place that their link has among the others. */
function hang(tree: FbxTree, hung: ObjectPatch['hung'], ids: ReadonlyMap<string, string>): void {
  const links = section(tree, 'Connections');
  if (hung.size === 0 || !links) return;
  const models = new Set(childrenOf(section(tree, 'Objects'), 'Model').map((model) => textAt(model, 0)));
  const above = new Map<string, FbxNode>();
  for (const node of links.children) {
    const [how, from, to] = [0, 1, 2].map((i) => textAt(node, i));
    if (how === 'OO' && models.has(from) && (to === '0' || models.has(to)) && !above.has(from))
      above.set(from, node);
  }
  for (const [key, parent] of hung) {
    const [id, under] = [ids.get(key), parent === null ? '0' : ids.get(parent)];
    if (id === undefined || under === undefined) continue;
    const existing = above.get(id);
    if (existing) existing.properties[2] = L(BigInt(under));
    else links.children.push(link(id, under));
  }
}

/** Rows of the transform where they stand, new ones behind; rest poses that name the model are no more. */
function place(tree: FbxTree, { id, node }: FbxObject, transform: TransformParts): void {
  let block = childOf(node, 'Properties70');
  if (!block) {
    block = record('Properties70');
    node.children.push(block);
  }
  const existing = new Map(block.children.map((row) => [textAt(row, 0), row]));
  for (const { row, idle } of transformRows(transform)) {
    const there = existing.get(textAt(row, 0));
    if (there) there.properties = [...there.properties.slice(0, 4), ...row.properties.slice(4)];
    else if (!idle) block.children.push(row);
  }
  forgetPoses(tree, new Set([id]));
}

/** Other materials in the order of the slots, which faces count by. */
function bindMaterials(
  tree: FbxTree,
  table: ObjectTable,
  bound: ObjectPatch['bound'],
  ids: ReadonlyMap<string, string>,
): void {
  const links = section(tree, 'Connections');
  if (bound.size === 0 || !links) return;
  const keyOf = createKeyer();
  const materials = new Map<string, string>();
  for (const { id, kind, name } of table.objects.values())
    if (kind === 'Material') materials.set(keyOf(name || 'material'), id);
  const isMaterial = new Set(materials.values());
  const models = new Map([...bound].flatMap(([key, slots]) => [[ids.get(key) ?? '', slots] as const]));
  links.children = links.children.filter(
    (node) => !(textAt(node, 0) === 'OO' && models.has(textAt(node, 2)) && isMaterial.has(textAt(node, 1))),
  );
  for (const [id, slots] of models)
    for (const slot of id === '' ? [] : slots) links.children.push(link(materials.get(slot) as string, id));
}

/** Takes models out with all below them, and with what feeds nothing else. */
function dropModels(tree: FbxTree, table: ObjectTable, dropped: string[], missed: string[]): void {
  const gone = new Set<string>();
  const pending = [...dropped];
  for (let id = pending.pop(); id !== undefined; id = pending.pop()) {
    if (gone.has(id)) continue;
    gone.add(id);
    for (const { object } of table.childrenOf(id)) if (object.kind === 'Model') pending.push(object.id);
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

/** Whether all that an object feeds is gone, or all that moves by it. */
function isGone({ id, kind }: FbxObject, gone: ReadonlySet<string>, table: ObjectTable): boolean {
  if (gone.has(id)) return true;
  if (kind === 'AnimationLayer' || kind === 'AnimationStack') {
    const moving = table.childrenOf(id);
    return moving.length > 0 && moving.every(({ object }) => gone.has(object.id));
  }
  const targets = table.targetsOf(id).filter(({ object }) => object.kind !== 'AnimationLayer');
  return !STAYING.has(kind) && targets.length > 0 && targets.every(({ object }) => gone.has(object.id));
}

/** Takes objects out of every section that names them, and mends the counts. */
function forget(tree: FbxTree, gone: ReadonlySet<string>): void {
  const objects = section(tree, 'Objects');
  const links = section(tree, 'Connections');
  const lost = new Map<string, number>();
  for (const object of objects?.children ?? [])
    if (gone.has(textAt(object, 0))) lost.set(object.name, (lost.get(object.name) ?? 0) - 1);
  if (objects) objects.children = objects.children.filter((object) => !gone.has(textAt(object, 0)));
  if (links)
    links.children = links.children.filter(
      (node) => !gone.has(textAt(node, 1)) && !gone.has(textAt(node, 2)),
    );
  forgetPoses(tree, gone);
  count(tree, lost);
}

/** Takes models out of the poses that name them. */
function forgetPoses(tree: FbxTree, models: ReadonlySet<string>): void {
  for (const pose of childrenOf(section(tree, 'Objects'), 'Pose')) {
    pose.children = pose.children.filter(
      (child) => child.name !== 'PoseNode' || !models.has(textAt(childOf(child, 'Node'), 0)),
    );
    setCount(childOf(pose, 'NbPoseNodes'), childrenOf(pose, 'PoseNode').length);
  }
}

/** Counts objects that came or went, by their kind. */
function count(tree: FbxTree, more: ReadonlyMap<string, number>): void {
  const definitions = section(tree, 'Definitions');
  let all = 0;
  for (const type of childrenOf(definitions, 'ObjectType')) {
    const number = childOf(type, 'Count');
    const total = (numberAt(number, 0) ?? 0) + (more.get(textAt(type, 0)) ?? 0);
    setCount(number, total);
    all += total;
  }
  setCount(childOf(definitions, 'Count'), all);
}

function setCount(node: FbxNode | undefined, value: number): void {
  if (node) node.properties = [I(value)];
}
